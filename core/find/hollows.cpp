#include "core/find/hollows.h"

#include <cmath>
#include <opencv2/imgproc.hpp>
#include <optional>
#include <span>

#include "core/find/crumbs.h"
#include "core/find/guides.h"
#include "core/find/residual.h"
#include "core/find/survey.h"
#include "core/pixels/parallel.h"

namespace gq::find {
namespace {

constexpr double kSolid = 0.85;              ///< least area of a blot over its convex hull's
constexpr double kHollow = 1.3, kMost = 12;  ///< areas of the whole over what was found
constexpr double kDark = 0.5;                ///< of a blot's pixels, over the finding's dimming
constexpr double kAsDark = 0.9;              ///< the same of the mean of all that is added

/// The connected pixels over `least` that `seed` (255 = inside) has most of its part in.
Region blotAt(const ImageF& toward, double least, const Mask& seed) {
    Mask over;
    cv::compare(toward, least, over, cv::CMP_GT);
    Region best;
    int most = 0;
    for (auto& piece : pieces(over)) {
        Mask on;
        cv::bitwise_and(piece.mask, seed(piece.box), on);
        if (const int n = cv::countNonZero(on); n > most) most = n, best = std::move(piece);
    }
    return 10 * most > 7 * cv::countNonZero(seed) ? best : Region{};
}

/// Its area over that of its convex hull.
double solidity(const Region& region) {
    std::vector<Point> inside, hull;
    cv::findNonZero(region.mask, inside);
    cv::convexHull(inside, hull);
    Mask filled(region.box.size(), CV_8U, cv::Scalar(0));
    cv::fillConvexPoly(filled, hull, 255);
    return double(inside.size()) / cv::countNonZero(filled);
}

/// The blot that goes on from a finding at one level; empty if there is none.
Region wholeAt(const Finding& f, const Scales& picture, const LevelPlan& plan,
               std::stop_token stop) {
    const int k = 1 << plan.level;
    const Image& pixels = picture.at(plan.level);
    Rect box(f.region.box.x / k, f.region.box.y / k, f.region.box.width / k + 1,
             f.region.box.height / k + 1);
    box = grown(box, 2 * plan.window, pixels.size());
    if (std::min(box.width, box.height) < 24) return {};
    const Level tones = tonesOf(pixels(box).clone(), plan, stop);
    if (stop.stop_requested()) return {};
    const ImageF toward = tones.background - tones.plane;
    Region small = reduced(f.region, plan.level);
    small.box -= box.tl();
    const Rect in = small.box & Rect({0, 0}, box.size());
    if (in.empty()) return {};  // beyond a level's last whole pixel
    Mask seed(box.size(), CV_8U, cv::Scalar(0));
    Mask(small.mask(in - small.box.tl()) > 127).copyTo(seed(in));
    if (cv::countNonZero(seed) < 3) return {};
    const double dimming = cv::mean(toward, seed)[0];
    if (dimming <= 0) return {};
    Region blot = blotAt(toward, kDark * dimming, seed);
    if (blot.empty()) return {};
    const bool atBorder = blot.box.x == 0 || blot.box.y == 0 || blot.box.br().x == box.width ||
                          blot.box.br().y == box.height;
    if (atBorder || solidity(blot) < kSolid) return {};
    // A hair blurred into a blot is fainter beside its own line.
    const Mask added = blot.mask & ~seed(blot.box);
    if (cv::mean(toward(blot.box), added)[0] < kAsDark * dimming) return {};
    blot.box += box.tl();
    return fullSize(blot, plan.level, picture.size());
}

/// As seen by the coarsest level that sees one; the finest shows no more than was found.
std::optional<Finding> wholeOf(const Finding& f, const Scales& picture, const ImageF& easing,
                               std::stop_token stop) {
    const double area = f.region.area();
    std::optional<Finding> out;
    const auto plans = levelsOf(Origin::Sensor, picture.size());
    for (const auto& plan : std::span(plans).subspan(1)) {
        Region whole = openPart(wholeAt(f, picture, plan, stop), easing);
        if (whole.empty()) continue;
        const double larger = whole.area() / area;
        if (larger < kHollow || larger > kMost) continue;
        out = f;
        out->kind = Kind::Shadow;
        out->region = std::move(whole);
        out->measures.size = float(std::sqrt(larger * area * 1.273));
        out->measures.length = float(std::max(out->region.box.width, out->region.box.height));
        out->measures.width = float(larger * area) / out->measures.length;
    }
    return out;
}

}  // namespace

bool addWholes(std::vector<Finding>& all, const Scales& picture, const ImageF& easing,
               std::stop_token stop) {
    std::vector<std::optional<Finding>> wholes(all.size());
    forEach(
        int(all.size()),
        [&](int i) {
            const Finding& f = all[size_t(i)];
            if (f.confidence >= 0.5f && f.polarity == Polarity::Dark && !broad(f))
                wholes[size_t(i)] = wholeOf(f, picture, easing, stop);
        },
        stop);
    const size_t before = all.size();
    for (auto& whole : wholes)
        if (whole) all.push_back(std::move(*whole));
    return all.size() > before;
}

}  // namespace gq::find
