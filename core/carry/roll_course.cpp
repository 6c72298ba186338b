#include "core/carry/roll_course.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/core.hpp>
#include <vector>

#include "core/find/long_scratches.h"
#include "core/pixels/color.h"
#include "core/pixels/pyramid.h"

namespace gq::carry {
namespace {

constexpr float kAdded = 0.7f;  ///< confidence of a line that the frame's own search missed
constexpr int kPieces = 16;
constexpr int kFlank = 4;  ///< px from the line to what it is compared with
constexpr int kMargin = kFlank + 1;
constexpr int kBeside = 24;    ///< px beside the line that tell what is usual there
constexpr float kSeen = 4.5f;  ///< deviations of the mean ridge over all pieces

/// Piece by piece of a course's run, how far each row around it stands out of those beside, in
/// deviations of that piece.
struct Ridges {
    std::array<std::vector<float>, kPieces> of;
    int rows = 0;

    float at(int piece, int row) const {
        return row < 0 || row >= rows ? 0 : of[size_t(piece)][size_t(row)];
    }
};

/// These rows of a picture with the line level.
Ridges ridgesOf(const ImageF& tone, const cv::Range& rows, int from, int step, float side) {
    constexpr float kToDeviation = 1.4826f;
    Ridges out;
    out.rows = rows.size();
    for (int i = 0; i < kPieces; ++i) {
        const Rect piece(from + i * step, rows.start - kFlank - 1, step, out.rows + 2 * kFlank + 2);
        ImageF mean;
        cv::reduce(tone(piece), mean, 1, cv::REDUCE_AVG);
        const auto soft = [&](int r) {
            return (mean.at<float>(r - 1) + 2 * mean.at<float>(r) + mean.at<float>(r + 1)) / 4;
        };
        auto& ridge = out.of[size_t(i)];
        std::vector<float> size;
        for (int y = 0; y < out.rows; ++y) {
            const int r = y + kFlank + 1;
            const float beside = (mean.at<float>(r - kFlank) + mean.at<float>(r + kFlank)) / 2;
            ridge.push_back(side * (soft(r) - beside));
            size.push_back(std::abs(ridge.back()));
        }
        std::nth_element(size.begin(), size.begin() + out.rows / 2, size.end());
        const float deviation = kToDeviation * size[size_t(out.rows) / 2] + 1e-5f;
        for (auto& v : ridge) v /= deviation;
    }
    return out;
}

/// The row of each piece along which the line shows, if it does: the best straight one, and within
/// two rows of it where each piece and its neighbours stand out most. It crosses the middle of the
/// run at a row of `rows`.
std::optional<std::array<int, kPieces>> shownIn(const Ridges& ridges, const cv::Range& rows,
                                                int steepest) {
    constexpr float kMost = 3;  ///< deviations that one piece counts, so that no busy one decides
    float best = kSeen;
    std::optional<std::array<int, kPieces>> out;
    for (int rise = -steepest; rise <= steepest; ++rise)
        for (int y = rows.start; y < rows.end; ++y) {
            std::array<int, kPieces> row{};
            float sum = 0;
            int raised = 0;
            for (int i = 0; i < kPieces; ++i) {
                row[size_t(i)] =
                    y + int(std::lround(float(rise) * (float(i) / (kPieces - 1) - 0.5f)));
                const float z = ridges.at(i, row[size_t(i)]);
                sum += std::clamp(z, -kMost, kMost);
                raised += z > 0;
            }
            const float deviations = sum / std::sqrt(float(kPieces));
            if (raised * 10 >= kPieces * 7 && deviations > best) best = deviations, out = row;
        }
    if (!out) return out;
    const auto straight = *out;
    for (int i = 0; i < kPieces; ++i) {
        const auto near = [&](int d) {
            float sum = 0;
            for (int j = std::max(0, i - 1); j <= std::min(kPieces - 1, i + 1); ++j)
                sum += ridges.at(j, straight[size_t(j)] + d);
            return sum;
        };
        for (const int d : {-1, 1, -2, 2})
            if (near(d) > near((*out)[size_t(i)] - straight[size_t(i)]))
                (*out)[size_t(i)] = straight[size_t(i)] + d;
    }
    return out;
}

/// The rows around a course, with the line level, as small as a search looks at them.
struct Strip {
    ImageF tone;
    float scale = 1;  ///< px of the picture for one of it
    int first = 0;    ///< its first row, counted in its own px
};

Strip stripAround(const Image& pixels, const Course& c) {
    const int halvings = find::scratchHalvings(pixels.size()), k = 1 << halvings;
    const int across = c.level ? pixels.rows : pixels.cols, at = int(c.at);
    const int reach = int(std::ceil(kSway * float(across))) + (kBeside + 2 * kMargin) * k;
    const int first = std::max(0, (at - reach) / k * k), last = std::min(across, at + reach);
    Image part = pixels(c.level ? Rect(0, first, pixels.cols, last - first)
                                : Rect(first, 0, last - first, pixels.rows));
    for (int i = 0; i < halvings; ++i) part = halved(part);
    return {c.level ? luma(part) : ImageF(luma(part).t()), float(k), first / k};
}

/// From the first piece's beginning to the last one's end.
std::vector<PointF> pathOf(const std::array<int, kPieces>& rows, const Strip& strip, int from,
                           int step, bool level) {
    std::vector<PointF> out;
    const auto add = [&](float along, int row) {
        const PointF p((float(from) + along * float(step)) * strip.scale,
                       (float(strip.first + row) + 0.5f) * strip.scale);
        out.push_back(level ? p : PointF(p.y, p.x));
    };
    add(0, rows.front());
    for (int i = 0; i < kPieces; ++i) add(float(i) + 0.5f, rows[size_t(i)]);
    add(kPieces, rows.back());
    return out;
}

}  // namespace

std::optional<Course> courseOf(const find::Finding& f) {
    const Rect& b = f.region.box;
    const auto [across, along] = std::minmax(b.width, b.height);
    if (f.kind != find::Kind::Scratch || float(across) > kSlant * float(along)) return std::nullopt;
    const bool level = b.width > b.height;
    const PointF c = f.region.centre();
    return Course{level,
                  level ? c.y : c.x,
                  float(level ? b.x : b.y),
                  float(level ? b.br().x : b.br().y),
                  std::max(1.0f, f.measures.width),
                  f.polarity};
}

float runShare(const Course& course, const Size& size) {
    return (course.to - course.from) / float(course.level ? size.width : size.height);
}

std::optional<find::Finding> lineIn(const Image& pixels, const Course& c) {
    constexpr float kSteepest = 0.0035f;
    const Strip strip = stripAround(pixels, c);
    const int across = int(float(c.level ? pixels.rows : pixels.cols) / strip.scale);
    const int sway = int(std::ceil(kSway * float(across)));
    const int middle = int(std::lround(c.at / strip.scale)) - strip.first;
    const cv::Range known(kMargin, strip.tone.rows - kMargin);
    const cv::Range rows = cv::Range(middle - sway, middle + sway + 1) & known,
                    around = cv::Range(rows.start - kBeside, rows.end + kBeside) & known;
    const int from = std::max(0, int(c.from / strip.scale)),
              step = (std::min(strip.tone.cols, int(c.to / strip.scale)) - from) / kPieces;
    if (step < 8 || rows.empty()) return std::nullopt;
    const float side = c.polarity == find::Polarity::Light ? 1.0f : -1.0f;
    auto shown = shownIn(ridgesOf(strip.tone, around, from, step, side), rows - around.start,
                         int(kSteepest * float(step * kPieces)));
    if (!shown) return std::nullopt;
    for (auto& row : *shown) row += around.start;
    find::Finding f;
    f.kind = find::Kind::Scratch;
    f.polarity = c.polarity;
    f.confidence = kAdded;
    f.region = stroke(pathOf(*shown, strip, from, step, c.level),
                      std::max(3.0f * strip.scale, c.width), pixels.size());
    f.measures.length = c.to - c.from;
    f.measures.width = c.width;
    f.measures.size = std::sqrt(f.measures.length * c.width * 1.27f);
    return f;
}

}  // namespace gq::carry
