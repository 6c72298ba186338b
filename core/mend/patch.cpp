#include "core/mend/patch.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/mend/heal.h"

namespace gq::mend {
namespace {

constexpr int kRing = 12;

int reachOf(const Rect& hole) {
    return std::clamp(std::max(hole.width, hole.height) * 3 / 2, 48, 160);
}

/// Opacity of the edge: 1 in the region, a smooth step to 0 over `softness` px outside.
cv::Mat opacity(const Mend& mend, const Region& whole) {
    cv::Mat alpha(whole.box.size(), CV_32F, cv::Scalar(0)),
        outside(whole.box.size(), CV_8U, cv::Scalar(255)), distance;
    outside(Rect(mend.region.box.tl() - whole.box.tl(), mend.region.box.size()))
        .setTo(0, mend.region.mask);
    cv::distanceTransform(outside, distance, cv::DIST_L2, 3);
    for (int y = 0; y < alpha.rows; ++y)
        for (int x = 0; x < alpha.cols; ++x) {
            const float t =
                std::clamp(1 - distance.at<float>(y, x) / (mend.softness + 1), 0.0f, 1.0f);
            if (whole.mask.at<uchar>(y, x))
                alpha.at<float>(y, x) = mend.strength * t * t * (3 - 2 * t);
        }
    return alpha;
}

void blend(const Window& w, const Image& pixels, const cv::Mat& alpha, Patch& out) {
    const int channels = pixels.channels();
    const Point shift = out.box.tl() - w.box().tl();
    double change = 0;
    int counted = 0;
    for (int y = 0; y < out.box.height; ++y) {
        auto* p = out.pixels.ptr<ushort>(y);
        for (int x = 0; x < out.box.width; ++x) {
            if (!out.footprint.at<uchar>(y, x)) continue;
            const float a = alpha.at<float>(y, x);
            const Vec4& v = w.at(x + shift.x, y + shift.y);
            for (int c = 0; c < channels; ++c) {
                auto& o = p[x * channels + c];
                const float filled = v[c] * 65535.0f;
                change += double(std::abs(filled - float(o)) * a);
                o = ushort(std::clamp(std::lround(float(o) + a * (filled - float(o))), 0l, 65535l));
            }
            ++counted;
        }
    }
    out.change = counted ? float(change / (65535.0 * counted * channels)) : 0;
}

}  // namespace

Rect readBox(const Mend& mend, const Size& picture) {
    const Region whole = footprint(mend, picture);
    Rect box = grown(whole.box, reachOf(whole.box) + kRing, picture);
    if (mend.source)
        box = grown(whole.box, kRing, picture) | (grown(whole.box + *mend.source, kRing, picture));
    return box;
}

Result<Patch> makePatch(const Setting& setting, const Mend& mend, std::stop_token stop) {
    const Size picture = setting.pixels.size();
    const Region whole = footprint(mend, picture);
    if (whole.empty())
        return fail(Error::Kind::BadSetting, "the mend covers nothing", {},
                    "Draw it inside the picture.");
    if (mend.source &&
        ((whole.box + *mend.source) & Rect({0, 0}, picture)) != whole.box + *mend.source)
        return fail(Error::Kind::BadSetting, "the source lies outside the picture", {},
                    "Drag it inside.");
    Window window(setting.pixels, readBox(mend, picture), whole, setting.avoid);
    std::vector<Point> hole;
    const Point shift = whole.box.tl() - window.box().tl();
    for (int y = 0; y < whole.box.height; ++y)
        for (int x = 0; x < whole.box.width; ++x)
            if (whole.mask.at<uchar>(y, x)) hole.emplace_back(x + shift.x, y + shift.y);
    const HealSettings heals{mend.source.value_or(Point()), mend.source.has_value(), mend.candidate,
                             mend.grain, reachOf(whole.box)};
    const auto report = heal(window, hole, heals, stop);
    if (!report) return tl::unexpected(report.error());
    Patch out{whole.box,          setting.pixels(whole.box).clone(),
              whole.mask.clone(), report->source,
              report->misfit,     0};
    blend(window, setting.pixels, opacity(mend, whole), out);
    return out;
}

void lay(const Patch& patch, Image& pixels) {
    patch.pixels.copyTo(pixels(patch.box), patch.footprint);
}

}  // namespace gq::mend
