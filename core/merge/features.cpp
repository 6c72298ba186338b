#include "core/merge/features.h"

namespace gq::merge {
namespace {

constexpr int kMost = 3000, kLayers = 3;  ///< of a picture; of an octave
constexpr size_t kFewest = 8;             ///< of a picture that is matched at all
constexpr float kRatio = 0.75f;           ///< of the nearest distance over the next one

}  // namespace

Features featuresOf(const Image8& picture, double contrast) {
    Features out;
    cv::SIFT::create(kMost, kLayers, contrast)
        ->detectAndCompute(picture, {}, out.points, out.descriptors);
    return out;
}

Matches matched(const Features& from, const Features& to) {
    Matches out;
    if (from.points.size() < kFewest || to.points.size() < kFewest) return out;
    std::vector<std::vector<cv::DMatch>> nearest;
    cv::BFMatcher().knnMatch(from.descriptors, to.descriptors, nearest, 2);
    for (const auto& m : nearest) {
        if (m.size() < 2 || m[0].distance > kRatio * m[1].distance) continue;
        out.from.push_back(from.points[size_t(m[0].queryIdx)].pt);
        out.to.push_back(to.points[size_t(m[0].trainIdx)].pt);
    }
    return out;
}

}  // namespace gq::merge
