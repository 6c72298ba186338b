#include "core/mend/patch_match.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/hash_noise.h"
#include "core/pixels/parallel.h"

namespace gq::mend {
namespace {

constexpr int kBands = 16;       ///< matches spread within a band of targets only: any thread count
                                 ///< gives the same
constexpr int kTracks = 64;      ///< rows of pixels along a guide
constexpr float kAstray = 0.7f;  ///< px; matches along a guide stay so near their track

}  // namespace

PatchMatch::PatchMatch(const Level& level, std::uint32_t seed) : m_level(level), m_seed(seed) {
    const Size size = level.hole.size();
    const Mask patch = Mask::ones(2 * kHalf + 1, 2 * kHalf + 1, CV_8U);
    const Mask unknown = level.hole | level.forbidden;
    cv::dilate(level.barred.empty() ? unknown : Mask(unknown | level.barred), m_bad, patch);
    cv::dilate(level.hole, m_inTargets, patch);
    for (Mask* m : {&m_bad, &m_inTargets}) {
        const uchar edge = m == &m_bad ? 255 : 0;
        m->rowRange(0, kHalf) = edge;
        m->rowRange(size.height - kHalf, size.height) = edge;
        m->colRange(0, kHalf) = edge;
        m->colRange(size.width - kHalf, size.width) = edge;
    }
    m_tracks.resize(256 * kTracks);
    for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x) {
            if (m_inTargets.at<uchar>(y, x)) m_targets.emplace_back(x, y);
            if (m_bad.at<uchar>(y, x)) continue;
            m_sources.emplace_back(x, y);
            if (const int track = trackOf(x, y)) m_tracks[size_t(track)].emplace_back(x, y);
        }
    m_matches = cv::Mat(size, CV_32SC2, cv::Scalar(-1, -1));
    m_distances = cv::Mat(size, CV_32F, cv::Scalar(0));
}

int PatchMatch::trackOf(int x, int y) const {
    const int guide = m_level.guide.at<uchar>(y, x);
    if (!guide) return 0;
    const int beside = int(std::lround(m_level.beside.at<float>(y, x)));
    return guide * kTracks + std::clamp(beside + kTracks / 2, 0, kTracks - 1);
}

bool PatchMatch::allowed(int x, int y, const Point& target, int track) const {
    if (x < kHalf || y < kHalf || x >= m_bad.cols - kHalf || y >= m_bad.rows - kHalf) return false;
    if (m_bad.at<uchar>(y, x)) return false;
    if (!track || m_tracks[size_t(track)].empty()) return true;
    return m_level.guide.at<uchar>(y, x) == track / kTracks &&
           std::abs(m_level.beside.at<float>(y, x) - m_level.beside.at<float>(target)) <= kAstray;
}

float PatchMatch::distance(const Point& a, int x, int y, float enough) const {
    Vec4 sum{};
    float total = 0;
    for (int v = -kHalf; v <= kHalf; ++v) {
        const Vec4 *p = &m_level.at(a.x - kHalf, a.y + v), *q = &m_level.at(x - kHalf, y + v);
        for (int u = 0; u <= 2 * kHalf; ++u) {
            const Vec4 d = p[u] - q[u];
            sum += d * d;
        }
        if (v & 1) {
            total = sum[0] + sum[1] + sum[2] + sum[3];
            if (total > enough) return total;
        }
    }
    return sum[0] + sum[1] + sum[2] + sum[3];
}

Point PatchMatch::anySource(const Point& p, int salt) const {
    const auto& along = m_tracks[size_t(trackOf(p.x, p.y))];
    const auto& from = along.empty() ? m_sources : along;
    return from[hash32(m_seed, p.x, p.y, salt) % from.size()];
}

void PatchMatch::start(const cv::Mat& coarser) {
    for (const Point& p : m_targets) {
        Point s(-1, -1);
        if (!coarser.empty()) {
            const Point half(std::min(p.x / 2, coarser.cols - 1),
                             std::min(p.y / 2, coarser.rows - 1));
            const auto& v = coarser.at<cv::Vec2i>(half);
            s = Point(v[0] * 2 + (p.x & 1), v[1] * 2 + (p.y & 1));
        }
        if (!allowed(s.x, s.y, p, trackOf(p.x, p.y))) s = anySource(p, 77);
        m_matches.at<cv::Vec2i>(p) = {s.x, s.y};
    }
}

void PatchMatch::spread(size_t from, size_t to, bool backwards, int salt) {
    const int sign = backwards ? 1 : -1;
    const int widest = std::max(m_bad.cols, m_bad.rows) / 2;
    const int top = m_targets[from].y, bottom = m_targets[to - 1].y;
    for (size_t k = from; k < to; ++k) {
        const Point p = m_targets[backwards ? to - 1 - (k - from) : k];
        auto& best = m_matches.at<cv::Vec2i>(p);
        float& d = m_distances.at<float>(p);
        const int track = trackOf(p.x, p.y);
        const auto attempt = [&](int x, int y) {
            if ((x == best[0] && y == best[1]) || !allowed(x, y, p, track)) return;
            if (const float c = distance(p, x, y, d); c < d) d = c, best = {x, y};
        };
        if (m_inTargets.at<uchar>(p.y, p.x + sign)) {
            const auto& m = m_matches.at<cv::Vec2i>(p.y, p.x + sign);
            attempt(m[0] - sign, m[1]);
        }
        const int beside = p.y + sign;  // never a row of another band: it may be being written
        if (beside > top && beside < bottom && m_inTargets.at<uchar>(beside, p.x)) {
            const auto& m = m_matches.at<cv::Vec2i>(beside, p.x);
            attempt(m[0], m[1] - sign);
        }
        if (track && !m_tracks[size_t(track)].empty())  // leaps seldom land on a track
            for (int n = 0; n < 4; ++n) {
                const Point s = anySource(p, salt * 32 + 16 + n);
                attempt(s.x, s.y);
            }
        int step = 0;
        for (int r = widest; r >= 1; r /= 2, ++step) {
            const std::uint32_t h = hash32(m_seed, p.x, p.y, salt * 32 + step);
            attempt(best[0] + int(h % unsigned(2 * r + 1)) - r,
                    best[1] + int((h >> 16) % unsigned(2 * r + 1)) - r);
        }
    }
}

void PatchMatch::improve(int rounds, std::stop_token stop) {
    forEach(
        int(m_targets.size() + 1023) / 1024,
        [&](int i) {
            const size_t from = size_t(i) * 1024, to = std::min(m_targets.size(), from + 1024);
            for (size_t k = from; k < to; ++k) {
                const Point& p = m_targets[k];
                const auto& m = m_matches.at<cv::Vec2i>(p);
                m_distances.at<float>(p) = distance(p, m[0], m[1], 1e9f);
            }
        },
        stop);
    // Bands are whole rows; they are moved by half a band every other round.
    for (int r = 0; r < rounds; ++r, ++m_round) {
        std::vector<size_t> cuts{0};
        const size_t band = std::max<size_t>(256, m_targets.size() / kBands);
        size_t next = m_round & 1 ? band / 2 : band;
        for (size_t k = 1; k < m_targets.size(); ++k)
            if (k >= next && m_targets[k].y != m_targets[k - 1].y)
                cuts.push_back(k), next = k + band;
        cuts.push_back(m_targets.size());
        const bool backwards = (m_round / 2) & 1;
        const int salt = m_round;
        forEach(
            int(cuts.size()) - 1,
            [&](int i) { spread(cuts[size_t(i)], cuts[size_t(i) + 1], backwards, salt); }, stop);
    }
}

}  // namespace gq::mend
