#include "core/merge/registration.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/calib3d.hpp>
#include <opencv2/imgproc.hpp>
#include <opencv2/video/tracking.hpp>
#include <optional>

#include "core/merge/features.h"
#include "core/pixels/parallel.h"

namespace gq::merge {
namespace {

constexpr double kMatched = 0.6e6;     ///< px a frame is matched at
constexpr double kFaintest = 0.01;     ///< contrast of a feature
constexpr size_t kFewest = 14;         ///< matches that agree
constexpr double kStill = 1;           ///< px by which corners of frames that lie together differ
constexpr double kFarthest = 0.2;      ///< of the size, that corners may be moved
constexpr double kLeastShared = 0.25;  ///< of the picture

/// A frame small, its exposure evened out, and what it is recognised by.
struct Sketch {
    Image8 tone;
    Features features;
};

Sketch sketchOf(const Image& frame, double scale) {
    Sketch out;
    cv::resize(narrow(frame), out.tone, {}, scale, scale, cv::INTER_AREA);
    cv::cvtColor(out.tone, out.tone, cv::COLOR_RGB2GRAY);
    cv::equalizeHist(out.tone, out.tone);
    out.features = featuresOf(out.tone, kFaintest);
    return out;
}

/// How `frame` lies on `onto`, turned, scaled and moved; nothing if too few places tell.
std::optional<cv::Matx33d> similarity(const Sketch& frame, const Sketch& onto) {
    const auto [from, to] = matched(frame.features, onto.features);
    if (from.size() < kFewest) return std::nullopt;
    cv::setRNGSeed(1);  // the same every time
    cv::Mat agreed;
    const cv::Mat map = cv::estimateAffinePartial2D(from, to, agreed, cv::RANSAC, 2.5, 4000);
    if (map.empty() || cv::countNonZero(agreed) < int(kFewest)) return std::nullopt;
    cv::Matx33d out = cv::Matx33d::eye();
    cv::Mat(map).copyTo(cv::Mat(out, false).rowRange(0, 2));
    return out;
}

/// `map` to a fraction of a pixel, by all of the picture; as it was if that does not converge.
/// Affine: what hand-held frames tilt is less than what eight unknowns would let noise do.
cv::Matx33d settledMap(const cv::Matx33d& map, const Sketch& frame, const Sketch& onto) {
    cv::Matx33d out = map.inv();
    cv::Mat back;
    cv::Mat(out).rowRange(0, 2).convertTo(back, CV_32F);
    try {
        cv::findTransformECC(onto.tone, frame.tone, back, cv::MOTION_AFFINE,
                             {cv::TermCriteria::COUNT + cv::TermCriteria::EPS, 40, 1e-5}, {}, 5);
    } catch (const cv::Exception&) {
        return map;
    }
    back.convertTo(cv::Mat(out, false).rowRange(0, 2), CV_64F);
    return out.inv();
}

/// A frame's corners as `map` lays them, from the top left one clockwise.
std::array<cv::Point2d, 4> cornersBy(const cv::Matx33d& map, const Size& size) {
    std::array<cv::Point2d, 4> out;
    const double w = size.width, h = size.height;
    for (size_t i = 0; i < 4; ++i) {
        const cv::Vec3d p = map * cv::Vec3d(i == 1 || i == 2 ? w : 0, i >= 2 ? h : 0, 1);
        out[i] = {p[0] / p[2], p[1] / p[2]};
    }
    return out;
}

double farthestMove(const cv::Matx33d& map, const Size& size) {
    const auto before = cornersBy(cv::Matx33d::eye(), size), after = cornersBy(map, size);
    double out = 0;
    for (size_t i = 0; i < 4; ++i) out = std::max(out, cv::norm(after[i] - before[i]));
    return out;
}

/// An upright box of whole pixels inside the four corners.
Rect boxInside(const std::array<cv::Point2d, 4>& c) {
    const Point from(int(std::ceil(std::max(c[0].x, c[3].x))),
                     int(std::ceil(std::max(c[0].y, c[1].y)))),
        to(int(std::floor(std::min(c[1].x, c[2].x))), int(std::floor(std::min(c[2].y, c[3].y))));
    return {from, to};
}

}  // namespace

Result<Registered> registered(std::vector<Image> frames, size_t onto, std::stop_token stop) {
    const Size size = frames[onto].size();
    const double scale = std::min(1.0, std::sqrt(kMatched / double(size.area())));
    const auto toFull = cv::Matx33d::diag({1 / scale, 1 / scale, 1});
    const int count = int(frames.size());
    std::vector<Sketch> sketches(frames.size());
    std::vector<std::optional<cv::Matx33d>> maps(frames.size());
    forEach(
        count, [&](int i) { sketches[size_t(i)] = sketchOf(frames[size_t(i)], scale); }, stop);
    const auto match = [&](int i) {
        if (size_t(i) == onto) return;
        auto& map = maps[size_t(i)] = similarity(sketches[size_t(i)], sketches[onto]);
        if (!map) return;
        map = toFull * settledMap(*map, sketches[size_t(i)], sketches[onto]) * toFull.inv();
        if (farthestMove(*map, size) > kFarthest * std::max(size.width, size.height)) map.reset();
    };
    if (stop.stop_requested() || !forEach(count, match, stop)) return cancelled();
    Registered out;
    Rect shared({0, 0}, size);
    for (size_t i = 0; i < frames.size(); ++i) {
        if (stop.stop_requested()) return cancelled();
        if (i != onto && !maps[i]) ++out.untold;
        if (!maps[i] || farthestMove(*maps[i], size) < kStill) continue;
        ++out.moved;
        Image laid;
        cv::warpPerspective(frames[i], laid, *maps[i], size, cv::INTER_CUBIC, cv::BORDER_REPLICATE);
        frames[i] = laid;
        shared &= boxInside(cornersBy(*maps[i], size));
    }
    if (shared.area() < kLeastShared * size.area())
        return fail(Error::Kind::BadSetting, "the frames have too little of the picture in common",
                    {}, "Leave out those that were turned away.");
    for (auto& f : frames) f = f(shared);
    out.frames = std::move(frames);
    return out;
}

}  // namespace gq::merge
