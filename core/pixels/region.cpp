#include "core/pixels/region.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace gq {

int Region::area() const {
    return mask.empty() ? 0 : cv::countNonZero(mask);
}

PointF Region::centre() const {
    const cv::Moments m = cv::moments(mask, true);
    if (m.m00 <= 0) return {float(box.x), float(box.y)};
    return {float(box.x + m.m10 / m.m00 + 0.5), float(box.y + m.m01 / m.m00 + 0.5)};
}

bool Region::contains(Point p) const {
    return box.contains(p) && mask.at<uchar>(p - box.tl()) != 0;
}

Region disc(PointF centre, float radius, const Size& picture) {
    return stroke({centre}, 2 * radius, picture);
}

Region stroke(const std::vector<PointF>& path, float width, const Size& picture) {
    if (path.empty()) return {};
    const float r = std::max(width / 2, 0.5f);
    PointF lo = path.front(), hi = path.front();
    for (const auto& p : path) {
        lo = {std::min(lo.x, p.x), std::min(lo.y, p.y)};
        hi = {std::max(hi.x, p.x), std::max(hi.y, p.y)};
    }
    const Point tl(int(std::floor(lo.x - r)), int(std::floor(lo.y - r)));
    const Point br(int(std::ceil(hi.x + r)) + 1, int(std::ceil(hi.y + r)) + 1);
    const Rect box = Rect(tl, br) & Rect({0, 0}, picture);
    if (box.empty()) return {};
    Mask mask(box.size(), CV_8U, cv::Scalar(0));
    const auto inside = [&](PointF q) {
        for (size_t i = 0; i < path.size(); ++i) {
            const PointF a = path[i > 0 ? i - 1 : 0], b = path[i], ab = b - a;
            const float along =
                ab.dot(ab) > 0 ? std::clamp((q - a).dot(ab) / ab.dot(ab), 0.f, 1.f) : 0;
            const PointF d = q - (a + along * ab);
            if (d.dot(d) <= r * r) return true;
        }
        return false;
    };
    for (int y = 0; y < box.height; ++y)
        for (int x = 0; x < box.width; ++x)
            if (inside({float(box.x + x) + 0.5f, float(box.y + y) + 0.5f}))
                mask.at<uchar>(y, x) = 255;
    const Point last(std::clamp(int(path.back().x), box.x, box.x + box.width - 1) - box.x,
                     std::clamp(int(path.back().y), box.y, box.y + box.height - 1) - box.y);
    mask.at<uchar>(last) = 255;
    return regionOf(mask, box.tl());
}

Region grown(const Region& region, int by, const Size& picture) {
    if (region.empty() || by <= 0) return region;
    const Rect box = grown(region.box, by, picture);
    Mask padded(box.size(), CV_8U, cv::Scalar(0)), out;
    region.mask.copyTo(padded(Rect(region.box.tl() - box.tl(), region.box.size())));
    cv::dilate(padded, out, cv::getStructuringElement(cv::MORPH_ELLIPSE, {2 * by + 1, 2 * by + 1}));
    return {box, out};
}

Region without(const Region& region, const Region& other) {
    const Rect in = region.box & other.box;
    if (in.empty()) return region;
    Mask rest = region.mask.clone();
    rest(Rect(in.tl() - region.box.tl(), in.size()))
        .setTo(0, other.mask(Rect(in.tl() - other.box.tl(), in.size())));
    return regionOf(rest, region.box.tl());
}

Region together(const Region& a, const Region& b) {
    if (a.empty()) return b;
    if (b.empty()) return a;
    Region out;
    out.box = a.box | b.box;
    out.mask = Mask(out.box.size(), CV_8U, cv::Scalar(0));
    for (const Region* r : {&a, &b})
        out.mask(Rect(r->box.tl() - out.box.tl(), r->box.size())).setTo(255, r->mask);
    return out;
}

Region closed(const Region& region) {
    std::vector<std::vector<Point>> outlines;
    cv::findContours(region.mask, outlines, cv::RETR_EXTERNAL, cv::CHAIN_APPROX_NONE);
    Mask mask(region.box.size(), CV_8U, cv::Scalar(0));
    cv::drawContours(mask, outlines, -1, cv::Scalar(255), cv::FILLED);
    return {region.box, mask};
}

int overlap(const Region& a, const Region& b) {
    const Rect both = a.box & b.box;
    if (both.empty()) return 0;
    Mask common;
    cv::bitwise_and(a.mask(both - a.box.tl()), b.mask(both - b.box.tl()), common);
    return cv::countNonZero(common);
}

bool meets(const Region& a, const Region& b) {
    return overlap(a, b) > 0;
}

Region regionOf(const Mask& mask, Point offset) {
    const Rect tight = cv::boundingRect(mask);
    if (tight.empty()) return {};
    return {Rect(tight.tl() + offset, tight.size()), mask(tight).clone()};
}

std::vector<Region> pieces(const Mask& mask) {
    cv::Mat labels, stats, centroids;
    const int n = cv::connectedComponentsWithStats(mask, labels, stats, centroids, 8, CV_32S);
    std::vector<Region> out;
    out.reserve(size_t(n));
    for (int i = 1; i < n; ++i) {
        const Rect box(stats.at<int>(i, 0), stats.at<int>(i, 1), stats.at<int>(i, 2),
                       stats.at<int>(i, 3));
        out.push_back({box, Mask(labels(box) == i)});
    }
    return out;
}

void paint(Mask& canvas, const Region& region) {
    const Rect in = region.box & Rect({0, 0}, canvas.size());
    if (in.empty()) return;
    const Mask part = region.mask(Rect(in.tl() - region.box.tl(), in.size()));
    canvas(in).setTo(255, part);
}

std::vector<std::vector<PointF>> contours(const Region& region, double tolerance) {
    if (region.empty()) return {};
    // Twice the size, so that the outline runs along the pixels' edges, not through their centres.
    Mask padded;
    cv::copyMakeBorder(region.mask, padded, 1, 1, 1, 1, cv::BORDER_CONSTANT, cv::Scalar(0));
    cv::resize(padded, padded, {}, 2, 2, cv::INTER_NEAREST);
    std::vector<std::vector<Point>> found;
    cv::findContours(padded, found, cv::RETR_CCOMP, cv::CHAIN_APPROX_NONE);
    std::vector<std::vector<PointF>> out;
    for (auto& line : found) {
        if (tolerance > 0) cv::approxPolyDP(line, line, 2 * tolerance, true);
        std::vector<PointF> to;
        to.reserve(line.size());
        for (const auto& p : line)
            to.emplace_back(float(region.box.x) + (float(p.x) + 0.5f) / 2 - 1,
                            float(region.box.y) + (float(p.y) + 0.5f) / 2 - 1);
        out.push_back(std::move(to));
    }
    return out;
}

Region carried(const Region& region, const FrameGeometry& from, const FrameGeometry& to) {
    const PointF a = to.fromSensor(from.toSensor(PointF(region.box.tl())));
    const PointF b = to.fromSensor(from.toSensor(PointF(region.box.br())));
    const Point tl(int(std::floor(std::min(a.x, b.x) + 1e-3f)),
                   int(std::floor(std::min(a.y, b.y) + 1e-3f)));
    const Point br(int(std::ceil(std::max(a.x, b.x) - 1e-3f)),
                   int(std::ceil(std::max(a.y, b.y) - 1e-3f)));
    const Rect box = Rect(tl, br) & Rect({0, 0}, to.stored);
    if (box.empty()) return {};
    Mask mask(box.size(), CV_8U, cv::Scalar(0));
    for (int y = 0; y < box.height; ++y)
        for (int x = 0; x < box.width; ++x) {
            const PointF p =
                from.fromSensor(to.toSensor({float(box.x + x) + 0.5f, float(box.y + y) + 0.5f}));
            if (region.contains({int(std::floor(p.x)), int(std::floor(p.y))}))
                mask.at<uchar>(y, x) = 255;
        }
    return regionOf(mask, box.tl());
}

std::string runs(const Region& region) {
    std::string text;
    int length = 0;
    bool inside = false;
    const auto flush = [&] {
        if (!text.empty()) text += ',';
        text += std::to_string(length);
        length = 0;
    };
    for (int y = 0; y < region.mask.rows; ++y)
        for (int x = 0; x < region.mask.cols; ++x) {
            if ((region.mask.at<uchar>(y, x) != 0) != inside) {
                flush();
                inside = !inside;
            }
            ++length;
        }
    flush();
    return text;
}

Result<Region> regionFromRuns(const Rect& box, const std::string& text) {
    const auto bad = [] {
        return fail(Error::Kind::Unreadable, "a region's runs do not fit its box");
    };
    if (box.width <= 0 || box.height <= 0 || box.width > (1 << 16) || box.height > (1 << 16))
        return bad();
    Region region{box, Mask(box.size(), CV_8U, cv::Scalar(0))};
    const long total = long(box.width) * box.height;
    long at = 0;
    bool inside = false;
    const char *p = text.data(), *end = p + text.size();
    while (p < end) {
        long n = 0;
        const auto [next, code] = std::from_chars(p, end, n);
        if (code != std::errc{} || n < 0 || n > total - at) return bad();
        if (inside) std::fill_n(region.mask.data + at, n, uchar(255));
        at += n;
        inside = !inside;
        p = next;
        if (p < end && (*p++ != ',' || p == end)) return bad();
    }
    if (at != total) return bad();
    return region;
}

Region reduced(const Region& region, int level) {
    const int k = 1 << level;
    const Rect box(region.box.x / k, region.box.y / k,
                   (region.box.br().x - 1) / k - region.box.x / k + 1,
                   (region.box.br().y - 1) / k - region.box.y / k + 1);
    Mask wide(box.size() * k, CV_8U, cv::Scalar(0)), small;
    region.mask.copyTo(wide(Rect(region.box.tl() - box.tl() * k, region.box.size())));
    cv::resize(wide, small, box.size(), 0, 0, cv::INTER_AREA);
    return {box, small};
}

}  // namespace gq
