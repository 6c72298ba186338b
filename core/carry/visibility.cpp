#include "core/carry/visibility.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"
#include "core/pixels/pyramid.h"
#include "core/pixels/quantile.h"

namespace gq::carry {
namespace {

/// Offsets of a template's inside and ring around its middle.
struct Template {
    std::vector<Point> inside, ring;
};

Template templateOf(const Mask& mask, int reach) {
    Mask padded;
    cv::copyMakeBorder(mask, padded, reach + 2, reach + 2, reach + 2, reach + 2,
                       cv::BORDER_CONSTANT, cv::Scalar(0));
    cv::Mat distance;
    cv::distanceTransform(Mask(255 - padded), distance, cv::DIST_L2, 3);
    Template out;
    const Point middle(padded.cols / 2, padded.rows / 2);
    for (int y = 0; y < padded.rows; ++y)
        for (int x = 0; x < padded.cols; ++x) {
            const float d = distance.at<float>(y, x);
            if (d == 0)
                out.inside.push_back(Point(x, y) - middle);
            else if (d > 1.5f && d <= 1.5f + float(reach))
                out.ring.push_back(Point(x, y) - middle);
        }
    return out;
}

constexpr float kLeast = 0.005f, kSpreads = 2, kSpreadsOfFew = 4;

bool stands(const Visibility& v, find::Polarity polarity, float spreads) {
    const float side = polarity == find::Polarity::Dark ? 1.0f : -1.0f;
    return side * v.significance > spreads && side * v.depth > kLeast;
}

}  // namespace

Visibility visibilityOf(const Image& pixels, const Region& region) {
    Visibility out;
    const int size = std::max(region.box.width, region.box.height);
    if (region.empty()) return out;
    const float across = std::sqrt(float(region.area()));
    int level = 0;
    while ((across / float(1 << level)) > 14 && level < 4) ++level;
    const int k = 1 << level;
    const Rect box = grown(region.box, std::clamp(3 * int(across), 24, 160) + 4 * k, pixels.size());
    Image part = pixels(box);
    for (int i = 0; i < level; ++i) part = halved(part);
    ImageF plane = logLuminance(part);
    cv::GaussianBlur(plane, plane, {5, 5}, 0.8);
    Mask mask;
    cv::resize(region.mask, mask,
               {std::max(1, region.box.width / k), std::max(1, region.box.height / k)}, 0, 0,
               cv::INTER_AREA);
    mask = mask > 127;
    if (cv::countNonZero(mask) == 0) mask.setTo(255);
    const Template t = templateOf(mask, std::clamp(int(across) / k / 2, 3, 8));
    const auto depthAt = [&](Point c, float& depth) {
        double in = 0, ring = 0;
        int ringCount = 0;
        for (const Point& p : t.inside) {
            const Point q = c + p;
            if (q.x < 0 || q.y < 0 || q.x >= plane.cols || q.y >= plane.rows) return false;
            in += double(plane.at<float>(q));
        }
        for (const Point& p : t.ring) {
            const Point q = c + p;
            if (q.x < 0 || q.y < 0 || q.x >= plane.cols || q.y >= plane.rows) continue;
            ring += double(plane.at<float>(q));
            ++ringCount;
        }
        if (ringCount * 2 < int(t.ring.size())) return false;
        depth = float(ring / ringCount - in / double(t.inside.size()));
        return true;
    };
    const Point middle((region.box.x + region.box.width / 2 - box.x) / k,
                       (region.box.y + region.box.height / 2 - box.y) / k);
    if (!depthAt(middle, out.depth)) return out;
    const int step = std::max(2, int(across) / k / 2 + 1), clear = size / k + 2;
    std::vector<float> others;
    for (int y = middle.y % step; y < plane.rows; y += step)
        for (int x = middle.x % step; x < plane.cols; x += step) {
            float d = 0;
            if (std::max(std::abs(x - middle.x), std::abs(y - middle.y)) > clear / 2 + 1 &&
                depthAt({x, y}, d))
                others.push_back(d);
        }
    const float usual = medianOf(others);
    for (auto& d : others) d = std::abs(d - usual);
    out.busy = 1.4826f * medianOf(others);
    return ofDepth(out, out.depth - usual);
}

Visibility ofDepth(Visibility v, float depth) {
    constexpr float kLeastBusy = 0.0015f;
    v.depth = depth;
    v.significance = depth / (v.busy + kLeastBusy);
    return v;
}

bool shows(const Visibility& v, find::Polarity polarity) {
    return stands(v, polarity, kSpreads);
}

bool clearlyShows(const Visibility& v, find::Polarity polarity) {
    return stands(v, polarity, kSpreadsOfFew);
}

bool showsEither(const Visibility& v) {
    return stands(v, find::Polarity::Dark, kSpreads) ||
           stands(v, find::Polarity::Light, kSpreadsOfFew);
}

}  // namespace gq::carry
