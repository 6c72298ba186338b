#include "core/find/guides.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/parallel.h"

namespace gq::find {
namespace {

Mask laidOver(const Mask& mask, const Size& level) {
    Mask out;
    if (!mask.empty()) cv::resize(mask, out, level, 0, 0, cv::INTER_LINEAR);
    return out;
}

/// Where a mask over a picture of size `frame` is over half, inside a box of that.
Region markedIn(const Mask& mask, const Rect& box, const Size& frame) {
    if (mask.empty()) return {};
    const double sx = double(mask.cols) / frame.width, sy = double(mask.rows) / frame.height;
    Mask out(box.size(), CV_8U);
    for (int y = 0; y < box.height; ++y) {
        const auto* row = mask.ptr<uchar>(std::min(int((box.y + y) * sy), mask.rows - 1));
        for (int x = 0; x < box.width; ++x)
            out.at<uchar>(y, x) =
                row[std::min(int((box.x + x) * sx), mask.cols - 1)] > 127 ? 255 : 0;
    }
    return regionOf(out, box.tl());
}

}  // namespace

ImageF Guides::easing(const Size& level) const {
    if (heed.empty() && hush.empty() && shield.empty() && bounds.empty()) return {};
    const Mask more = laidOver(heed, level), less = laidOver(hush, level),
               shut = laidOver(shield, level), open = laidOver(bounds, level);
    ImageF out(level, CV_32F, cv::Scalar(1));
    forRows(level.height, [&](int y) {
        auto* o = out.ptr<float>(y);
        for (int x = 0; x < level.width; ++x) {
            const float lift = (more.empty() ? 0.0f : float(more.at<uchar>(y, x)) / 255) -
                               (less.empty() ? 0.0f : float(less.at<uchar>(y, x)) / 255);
            o[x] = std::exp2(lift);
            if (!shut.empty() && shut.at<uchar>(y, x) > 127) o[x] = 0;
            if (!open.empty() && open.at<uchar>(y, x) < 128) o[x] = 0;
        }
    });
    return out;
}

Region Guides::shieldedIn(const Rect& box, const Size& frame) const {
    return markedIn(shield, box, frame);
}

Region Guides::boundedIn(const Rect& box, const Size& frame) const {
    return markedIn(bounds, box, frame);
}

namespace {

Mask startOf(const Mask& mask, const Size& frame, int scale) {
    if (!mask.empty()) return mask.clone();
    return Mask((frame.height + scale - 1) / scale, (frame.width + scale - 1) / scale, CV_8U,
                cv::Scalar(0));
}

std::vector<Point> inMask(const std::vector<PointF>& path, int scale) {
    std::vector<Point> out;  // with four bits after the point, as the drawing calls take it
    for (const PointF& p : path)
        out.emplace_back(int(std::lround((p.x / float(scale) - 0.5f) * 16)),
                         int(std::lround((p.y / float(scale) - 0.5f) * 16)));
    return out;
}

void lay(Mask& out, const Mask& where, int amount) {
    cv::Mat sum;
    out.convertTo(sum, CV_16S);
    cv::Mat share;
    where.convertTo(share, CV_16S, double(amount) / 255);
    sum += share;
    sum.convertTo(out, CV_8U);
}

}  // namespace

Region openPart(const Region& region, const ImageF& easing) {
    if (easing.empty() || region.empty()) return region;
    return regionOf(region.mask & (easing(region.box) > 0), region.box.tl());
}

Mask painted(const Mask& mask, const Size& frame, int scale, const std::vector<PointF>& path,
             float width, int amount) {
    Mask out = startOf(mask, frame, scale), where(out.size(), CV_8U, cv::Scalar(0));
    const auto run = inMask(path, scale);
    const int thick = std::max(1, int(std::lround(width / float(scale))));
    for (size_t i = 0; i < run.size(); ++i)
        cv::line(where, run[i], run[std::min(i + 1, run.size() - 1)], cv::Scalar(255), thick,
                 cv::LINE_8, 4);
    lay(out, where, amount);
    return out;
}

Mask filled(const Mask& mask, const Size& frame, int scale, const std::vector<PointF>& outline,
            int amount) {
    Mask out = startOf(mask, frame, scale), where(out.size(), CV_8U, cv::Scalar(0));
    if (outline.size() > 2)
        cv::fillPoly(where, std::vector<std::vector<Point>>{inMask(outline, scale)},
                     cv::Scalar(255), cv::LINE_8, 4);
    lay(out, where, amount);
    return out;
}

Mask invertedMask(const Mask& mask, const Size& frame, int scale) {
    return Mask(255 - startOf(mask, frame, scale));
}

Mask softened(const Mask& mask, int scale, float width) {
    Mask out;
    if (!mask.empty())
        cv::GaussianBlur(mask, out, {}, double(std::max(0.5f, width / float(scale) / 2)));
    return out;
}

}  // namespace gq::find
