#include "core/mend/scan_bed.h"

#include <algorithm>
#include <opencv2/imgproc.hpp>
#include <optional>

#include "core/pixels/color.h"

namespace gq::mend {
namespace {

constexpr float kBlack = 0.25f;  ///< tone that a bed is under
constexpr float kEven = 0.03f;   ///< by which its tone varies
constexpr double kAll = 0.85;    ///< of the file's edge, that a bed takes
constexpr double kStep = 0.1;    ///< least step of tone at its end
constexpr int kEdge = 8;         ///< px over which an original's edge is soft or ragged
constexpr size_t kFewest = 16;   ///< px along the file's edge

/// The rows and columns of a box that lie at the picture's edges, from the box's corner.
std::vector<Rect> edgesOf(const Rect& box, const Size& picture) {
    std::vector<Rect> out;
    if (box.y == 0) out.emplace_back(0, 0, box.width, 1);
    if (box.br().y == picture.height) out.emplace_back(0, box.height - 1, box.width, 1);
    if (box.x == 0) out.emplace_back(0, 0, 1, box.height);
    if (box.br().x == picture.width) out.emplace_back(box.width - 1, 0, 1, box.height);
    return out;
}

/// The one tone of a bed along an edge of the file where `open` is set; nothing if there is none.
std::optional<float> bedTone(const ImageF& tone, const Mask& open) {
    std::vector<float> tones;
    for (int y = 0; y < tone.rows; ++y)
        for (int x = 0; x < tone.cols; ++x)
            if (open.at<uchar>(y, x)) tones.push_back(tone.at<float>(y, x));
    if (tones.size() < kFewest) return std::nullopt;
    std::nth_element(tones.begin(), tones.begin() + long(tones.size() / 2), tones.end());
    const float own = tones[tones.size() / 2];
    const auto like = std::count_if(tones.begin(), tones.end(),
                                    [&](float t) { return std::abs(t - own) < kEven; });
    const bool even = double(like) > kAll * double(tones.size());
    return even && own < kBlack ? std::optional(own) : std::nullopt;
}

/// The pieces of a mask that reach into a part of it.
Mask reaching(const Mask& mask, const Rect& part) {
    cv::Mat labels;
    const int n = cv::connectedComponents(mask, labels, 8, CV_32S);
    std::vector<uchar> kept(size_t(n), 0);
    const cv::Mat there = labels(part);
    for (int y = 0; y < there.rows; ++y)
        for (int x = 0; x < there.cols; ++x) kept[size_t(there.at<int>(y, x))] = 255;
    kept[0] = 0;
    Mask out(mask.size(), CV_8U);
    for (int y = 0; y < out.rows; ++y)
        for (int x = 0; x < out.cols; ++x) out.at<uchar>(y, x) = kept[size_t(labels.at<int>(y, x))];
    return out;
}

}  // namespace

Mask scanBed(const Excerpt& pixels, const Rect& box, const Region& stain) {
    Mask out(box.size(), CV_8U, cv::Scalar(0));
    const auto edges = edgesOf(box, pixels.size());
    if (edges.empty()) return out;
    const ImageF tone = luma(pixels(box));
    Mask open(box.size(), CV_8U, cv::Scalar(255));
    if (const Rect in = stain.box & box; !in.empty())
        open(in - box.tl()).setTo(0, stain.mask(in - stain.box.tl()));
    const Mask around = Mask::ones(2 * kEdge + 1, 2 * kEdge + 1, CV_8U);
    for (const Rect& edge : edges) {
        const auto own = bedTone(tone(edge), open(edge));
        if (!own) continue;
        const ImageF departure = cv::abs(tone - *own);
        Mask bed, beyond;
        cv::dilate(reaching((departure < kEven) & open, edge), bed, around);
        cv::dilate(bed, beyond, around);
        if (cv::mean(departure, beyond & ~bed)[0] >= kStep) out |= bed;
    }
    return out;
}

Mask goneOn(const Mask& inside, const Mask& bed) {
    if (cv::countNonZero(bed) == 0) return inside;
    cv::Mat toStain, toClean;
    cv::distanceTransform(inside == 0, toStain, cv::DIST_L2, 5);
    cv::distanceTransform(inside | bed, toClean, cv::DIST_L2, 5);
    return inside | (bed & (toStain < toClean));
}

}  // namespace gq::mend
