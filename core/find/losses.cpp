#include "core/find/losses.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/find/bared_paper.h"
#include "core/find/tears.h"
#include "core/pixels/color.h"
#include "core/pixels/quantile.h"

namespace gq::find {
namespace {

constexpr float kFlat = 0.006f;    ///< deviation of what is no picture, at most
constexpr float kCalm = 0.0035f;   ///< half of it, at most
constexpr float kFlatter = 0.78f;  ///< of the flattest tenth of the rest
constexpr float kTear = 0.03f;     ///< step of tone at a torn edge, at least
constexpr double kMost = 0.25;     ///< of the picture's area

/// Tones that lie flat along much of the picture's edge.
std::vector<float> edgeTones(const ImageF& mean, const ImageF& deviation) {
    constexpr int kBins = 100;
    std::array<int, kBins> bins{};
    int length = 0;
    const auto add = [&](int x, int y) {
        ++length;
        if (deviation.at<float>(y, x) < kFlat)
            ++bins[size_t(std::clamp(mean.at<float>(y, x) * kBins, 0.0f, kBins - 1.0f))];
    };
    for (int x = 0; x < mean.cols; ++x) add(x, 1), add(x, mean.rows - 2);
    for (int y = 0; y < mean.rows; ++y) add(1, y), add(mean.cols - 2, y);
    std::vector<float> out;
    for (int i = 0; i < kBins; ++i) {
        const auto at = [&](int k) { return k < 0 || k >= kBins ? 0 : bins[size_t(k)]; };
        const int near = at(i - 1) + at(i) + at(i + 1);
        if (near * 100 > length && at(i) >= at(i - 1) && at(i) > at(i + 1))
            out.push_back((float(i) + 0.5f + float(at(i + 1) - at(i - 1)) / float(near)) / kBins);
    }
    return out;
}

/// How deep a mask reaches in from one edge, at each place along it. `mask` has the edge on top.
std::vector<int> depthsOf(const Mask& mask) {
    std::vector<int> out;
    for (int x = 0; x < mask.cols; ++x) {
        int y = 0;
        while (y < mask.rows && mask.at<uchar>(y, x)) ++y;
        out.push_back(y);
    }
    return out;
}

/// Takes off what lies outside of a print that was laid smaller than the scan, a little askew or
/// not: along each edge, as deep as a straight line through most of the depths.
void cutMargins(Mask& mask) {
    for (int side = 0; side < 4; ++side) {
        cv::rotate(mask.clone(), mask, cv::ROTATE_90_CLOCKWISE);
        const auto depths = depthsOf(mask);
        const int n = int(depths.size());
        if (std::ranges::count_if(depths, [](int d) { return d > 0; }) < 0.6 * n) continue;
        std::vector<float> slopes, starts;
        const size_t half = depths.size() / 2;
        for (size_t i = 0; i < half; i += 4)
            slopes.push_back(float(depths[i + half] - depths[i]) / float(half));
        const float slope = std::clamp(medianOf(slopes), -0.06f, 0.06f);
        for (int i = 0; i < n; ++i) starts.push_back(float(depths[size_t(i)]) - slope * float(i));
        const float start = medianOf(starts);
        for (int x = 0; x < n; ++x) {
            const int deep = std::clamp(int(start + slope * float(x)) + 4, 0, mask.rows);
            mask(Rect(x, 0, 1, deep)).setTo(0);
        }
    }
}

/// The flat pieces of a tone that are open to the picture's edge.
Mask openPieces(const ImageF& mean, const ImageF& deviation, float tone) {
    const Mask flat = (cv::abs(mean - tone) < kSameTone) & (deviation < kFlat);
    const Rect inner(2, 2, flat.cols - 4, flat.rows - 4);
    Mask out(flat.size(), CV_8U, cv::Scalar(0));
    for (const auto& piece : pieces(flat))
        if ((piece.box & inner) != piece.box && piece.area() > kLeastLoss * double(flat.total()))
            paint(out, piece);
    return out;
}

/// True if what a mask covers is flatter than the print around it.
bool isNoPicture(const ImageF& deviation, const Mask& open) {
    auto d = Deviations(deviation, open, near(open));
    const float own = medianOf(d.inside), rest = quantile(std::move(d.outside), 0.1);
    return !d.inside.empty() && own <= kCalm && own < kFlatter * rest;
}

/// True of pieces in three or four corners, about as large: what surrounds an oval picture.
bool surroundAnOval(const std::vector<Region>& pieces, const Size& size) {
    std::array<int, 4> corners{};
    int largest = 0;
    for (const auto& p : pieces) {
        const Point middle = (p.box.tl() + p.box.br()) / 2;
        const bool right = 3 * middle.x > 2 * size.width, low = 3 * middle.y > 2 * size.height;
        const bool left = 3 * middle.x < size.width, high = 3 * middle.y < size.height;
        if (right == left || low == high) continue;
        auto& area = corners[size_t((right ? 1 : 0) + (low ? 2 : 0))];
        area = std::max(area, p.area());
        largest = std::max(largest, area);
    }
    return std::ranges::count_if(corners, [&](int area) { return 3 * area > 2 * largest; }) >= 3;
}

}  // namespace

std::vector<Finding> losses(const Scales& picture, std::stop_token stop) {
    const Coarse at = coarse(picture, 900);
    const ImageF plane = luma(at.pixels);
    if (std::min(plane.cols, plane.rows) < 16) return {};
    const Calm calm(plane);
    const auto& [mean, deviation] = calm;
    std::vector<Finding> out;
    const double all = double(plane.total());
    for (const float tone : edgeTones(mean, deviation)) {
        if (stop.stop_requested()) return out;
        const Mask open = openPieces(mean, deviation, tone);
        if (!isNoPicture(deviation, open)) continue;
        Mask within = open.clone();
        cutMargins(within);
        cv::morphologyEx(within, within, cv::MORPH_OPEN,
                         cv::getStructuringElement(cv::MORPH_ELLIPSE, {7, 7}));
        auto torn = pieces(within);
        std::erase_if(torn, [&](const Region& piece) {
            return piece.area() < kLeastLoss * all || piece.area() > kMost * all;
        });
        if (surroundAnOval(torn, plane.size())) continue;
        const int elsewhere = cv::countNonZero((cv::abs(mean - tone) < kSameTone) & ~near(open));
        for (const auto& piece : torn) {
            if (isClipped(tone, piece.area(), elsewhere)) continue;
            const auto [thin, wide] = std::minmax(piece.box.width, piece.box.height);
            if (thin < kSliver * wide) continue;
            const Region rim = beyond(piece, open);
            const int points = rim.area();
            const Mask other = (cv::abs(plane(rim.box) - tone) > kTear) & rim.mask;
            if (points == 0 || cv::countNonZero(other) < kTorn * points) continue;
            cv::Scalar around, spread;
            cv::meanStdDev(plane(rim.box), around, spread, rim.mask);
            const float step = tone - float(around[0]);
            auto f = lossOf(piece, calm, step, float(spread[0]), at, picture.size());
            f.confidence = std::min(0.55f + 2 * std::abs(step), 0.97f);
            out.push_back(std::move(f));
        }
    }
    for (auto& f : baredPaper(plane, calm, at, picture.size(), stop)) out.push_back(std::move(f));
    return out;
}

}  // namespace gq::find
