#include "core/merge/align.h"

#include <cmath>
#include <opencv2/calib3d.hpp>
#include <opencv2/imgproc.hpp>
#include <opencv2/video/tracking.hpp>

#include "core/merge/features.h"
#include "core/pixels/color.h"

namespace gq::merge {
namespace {

constexpr double kMatched = 1.5e6;  ///< px a frame is matched at
constexpr int kFewest = 14;         ///< matches that agree
constexpr double kAlike = 0.6;      ///< least correlation of the surroundings
constexpr double kCalm = 0.012;     ///< spread under which there is nothing to correlate
constexpr double kFarthest = 8;     ///< px a box is moved to fit

/// What a frame is matched by: its features at a size of `scale`.
Features sketchOf(const Image& image, double scale) {
    Image8 small;
    cv::resize(narrow(asColour(image)), small, {}, scale, scale, cv::INTER_AREA);
    return featuresOf(small);
}

double scaleOf(const Image& image) {
    return std::min(1.0, std::sqrt(kMatched / double(image.total())));
}

tl::unexpected<Error> otherScene() {
    return fail(Error::Kind::BadSetting, "the frames do not show the same scene", {},
                "Choose a frame that does.");
}

Image under(const Image& frame, const cv::Matx33d& map, const Rect& box, cv::Point2d by) {
    const cv::Matx33d shift(1, 0, by.x - box.x, 0, 1, by.y - box.y, 0, 0, 1);
    Image out;
    cv::warpPerspective(frame, out, shift * map, box.size(), cv::INTER_CUBIC, cv::BORDER_REPLICATE);
    return out;
}

/// Luma with the hole at the mean of the rest, which is taken out.
cv::Mat compared(const Image& part, const Mask& hole) {
    cv::Mat out = luma(asColour(part));
    out -= cv::mean(out, ~hole);
    out.setTo(0, hole);
    return out;
}

cv::Point2d byPhases(const cv::Mat& part, const cv::Mat& here) {
    cv::Mat window;
    cv::createHanningWindow(window, part.size(), CV_32F);
    return cv::phaseCorrelate(part, here, window);
}

/// How far `part` lies off to a fraction of a pixel, by what neither hides; nothing if it is too
/// calm to tell.
cv::Point2d byGradients(const cv::Mat& part, const cv::Mat& here, const Mask& hole) {
    Mask hidden;
    cv::dilate(hole, hidden, Mask::ones(9, 9, CV_8U));
    cv::Mat move = cv::Mat::eye(2, 3, CV_32F);
    try {
        cv::findTransformECC(here, part, move, cv::MOTION_TRANSLATION,
                             {cv::TermCriteria::COUNT + cv::TermCriteria::EPS, 50, 1e-4}, ~hidden,
                             5);
    } catch (const cv::Exception&) {  // it does not converge
        return {};
    }
    return {double(move.at<float>(0, 2)), double(move.at<float>(1, 2))};
}

}  // namespace

Result<cv::Matx33d> alignment(const Image& frame, const Image& onto) {
    const double own = scaleOf(frame), its = scaleOf(onto);
    auto [from, to] = matched(sketchOf(frame, own), sketchOf(onto, its));
    if (int(from.size()) < kFewest) return otherScene();
    for (auto& p : from) p *= 1 / own;
    for (auto& p : to) p *= 1 / its;
    cv::setRNGSeed(1);  // the same map every time
    cv::Mat agreed;
    const cv::Mat map = cv::findHomography(from, to, cv::RANSAC, 2.5 / its, agreed, 4000);
    if (map.empty() || cv::countNonZero(agreed) < kFewest) return otherScene();
    return cv::Matx33d(map);
}

Result<Image> settled(const Image& frame, const cv::Matx33d& map, const Image& onto,
                      const Rect& box, const Mask& hole) {
    std::vector<cv::Point2d> corners{cv::Point2d(box.tl()),
                                     cv::Point2d(box.br()),
                                     {double(box.x), double(box.br().y)},
                                     {double(box.br().x), double(box.y)}},
        there;
    cv::perspectiveTransform(corners, there, map.inv());
    for (const auto& p : there)
        if (p.x < 0 || p.y < 0 || p.x > frame.cols || p.y > frame.rows)
            return fail(Error::Kind::BadSetting, "the place lies outside the other frame");
    const cv::Mat here = compared(onto(box), hole);
    const auto at = [&](cv::Point2d by) { return under(frame, map, box, by); };
    const auto off = [&](const Image& p) { return cv::norm(compared(p, hole), here); };
    Image part = at({});
    // The hole, which both have, draws the phases' answer towards no move at all: the gradients of
    // what is seen have the last word.
    cv::Point2d by = byPhases(compared(part, hole), here);
    for (const bool settle : {false, true}) {
        if (settle) by -= byGradients(compared(at(by), hole), here, hole);
        if (cv::norm(by) > kFarthest) break;
        if (const Image moved = at(by); off(moved) < off(part)) part = moved;
    }
    const cv::Mat other = compared(part, hole);
    const double n = double(box.area() - cv::countNonZero(hole)), own = cv::norm(here),
                 its = cv::norm(other);
    const bool calm = own < kCalm * std::sqrt(n) && its < kCalm * std::sqrt(n);
    if (!calm && here.dot(other) < kAlike * own * its) return otherScene();
    return part;
}

}  // namespace gq::merge
