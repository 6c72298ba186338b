#include "core/find/crumbs.h"

#include <algorithm>
#include <opencv2/core.hpp>

namespace gq::find {
namespace {

/// A sure finding; `area` in px.
struct Sure {
    size_t index;
    int area;
};

bool holds(const Finding& whole, const Finding& crumb, double areas) {
    constexpr float kMuchSurer = 3;  // log odds
    constexpr double kSmaller = 1.5, kInside = 0.7;
    const Rect shared = whole.region.box & crumb.region.box;
    if (shared.empty() || whole.polarity != crumb.polarity || areas < kSmaller ||
        logOdds(crumb.confidence) - logOdds(whole.confidence) > kMuchSurer)
        return false;
    Mask both;
    cv::bitwise_and(whole.region.mask(shared - whole.region.box.tl()),
                    crumb.region.mask(shared - crumb.region.box.tl()), both);
    return cv::countNonZero(both) > kInside * crumb.region.area();
}

}  // namespace

bool broad(const Finding& f) {
    return f.kind == Kind::Stain || (f.kind == Kind::Shadow && f.measures.size > 250);
}

std::vector<Standing> standingsOf(const std::vector<Finding>& all) {
    std::vector<Standing> out;
    std::vector<Sure> sure;
    for (size_t i = 0; i < all.size(); ++i) {
        out.push_back({all[i].confidence, 0});
        if (all[i].confidence >= 0.5f && !broad(all[i])) sure.push_back({i, all[i].region.area()});
    }
    std::stable_sort(sure.begin(), sure.end(),
                     [](const Sure& a, const Sure& b) { return a.area < b.area; });
    for (auto whole = sure.begin(); whole != sure.end(); ++whole) {
        if (all[whole->index].kind != Kind::Shadow) continue;
        Standing& own = out[whole->index];
        for (auto crumb = sure.begin(); crumb != whole; ++crumb) {
            if (!holds(all[whole->index], all[crumb->index], double(whole->area) / crumb->area))
                continue;
            const Standing& held = out[crumb->index];
            own = {std::max(own.surest, held.surest), std::max(own.depth, held.depth + 1)};
        }
    }
    return out;
}

}  // namespace gq::find
