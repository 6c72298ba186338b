#include "core/find/folds.h"

#include <algorithm>
#include <functional>
#include <opencv2/imgproc.hpp>

namespace gq::find {
namespace {

constexpr int kApart = 5;        ///< px between the sides, at most
constexpr float kLong = 60;      ///< px
constexpr float kBeside = 0.6f;  ///< of one side that runs beside the other

/// Both sides with what lies between them.
Region whole(const Region& a, const Region& b) {
    Region out = together(a, b);
    const Mask near = cv::getStructuringElement(cv::MORPH_ELLIPSE, {kApart + 2, kApart + 2});
    Mask closing;
    cv::copyMakeBorder(out.mask, closing, kApart, kApart, kApart, kApart, cv::BORDER_CONSTANT);
    cv::morphologyEx(closing, closing, cv::MORPH_CLOSE, near);
    out.mask = closing(Rect({kApart, kApart}, out.box.size())).clone();
    return out;
}

bool areSides(const Finding& a, const Finding& b, const Size& picture) {
    if (a.polarity == b.polarity) return false;
    const Rect close = grown(a.region.box, kApart, picture);
    if ((close & b.region.box).empty()) return false;
    const Region nearA = grown(a.region, kApart, picture), nearB = grown(b.region, kApart, picture);
    return overlap(b.region, nearA) > kBeside * float(b.region.area()) ||
           overlap(a.region, nearB) > kBeside * float(a.region.area());
}

}  // namespace

std::vector<Finding> foldsJoined(std::vector<Finding> all, const Size& picture) {
    std::ranges::stable_sort(all, std::greater(), &Finding::confidence);
    std::vector<Finding> out;
    for (auto& f : all) {
        const bool line = isLine(f.kind) && f.measures.length >= kLong;
        const auto side = std::ranges::find_if(out, [&](const Finding& o) {
            return line && isLine(o.kind) && o.measures.length >= kLong && areSides(o, f, picture);
        });
        if (side == out.end()) {
            out.push_back(std::move(f));
            continue;
        }
        side->region = whole(side->region, f.region);
        side->measures.length = std::max(side->measures.length, f.measures.length);
        side->measures.width += f.measures.width;
    }
    return out;
}

}  // namespace gq::find
