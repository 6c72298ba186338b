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

/// Clearly smaller, of its polarity, and mostly inside it. `areas`: of the whole over the crumb's.
bool liesIn(const Finding& whole, const Finding& crumb, double areas) {
    constexpr double kSmaller = 1.5, kInside = 0.7;
    const Rect shared = whole.region.box & crumb.region.box;
    if (shared.empty() || whole.polarity != crumb.polarity || areas < kSmaller) return false;
    Mask both;
    cv::bitwise_and(whole.region.mask(shared - whole.region.box.tl()),
                    crumb.region.mask(shared - crumb.region.box.tl()), both);
    return cv::countNonZero(both) > kInside * crumb.region.area();
}

bool muchSurer(const Finding& crumb, const Finding& whole) {
    constexpr float kMuch = 3;  // log odds
    return logOdds(crumb.confidence) - logOdds(whole.confidence) > kMuch;
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
            const Finding &large = all[whole->index], &small = all[crumb->index];
            if (muchSurer(small, large) || !liesIn(large, small, double(whole->area) / crumb->area))
                continue;
            const Standing& held = out[crumb->index];
            own = {std::max(own.surest, held.surest), std::max(own.depth, held.depth + 1)};
        }
    }
    return out;
}

void takeUpCrumbs(std::vector<Finding>& flakes, std::vector<Finding>& all) {
    for (auto& flake : flakes) {
        if (flake.confidence < 0.5f) continue;
        const double area = flake.region.area();
        std::erase_if(all, [&](const Finding& crumb) {
            if (crumb.kind != Kind::Speck || !liesIn(flake, crumb, area / crumb.region.area()))
                return false;
            flake.confidence = std::max(flake.confidence, crumb.confidence);
            return true;
        });
    }
}

}  // namespace gq::find
