#include "core/find/line_ends.h"

#include <algorithm>

#include "core/find/join.h"
#include "core/find/run.h"
#include "core/find/trace.h"
#include "core/pixels/parallel.h"

namespace gq::find {
namespace {

constexpr float kSure = 0.5f;  ///< confidence of a line that is followed
constexpr float kLong = 24;    ///< px; shorter ones don't tell where they are going
constexpr size_t kFarthest = 15, kNearest = 3;  ///< points of the way on, 2 px apart

void followEnds(Finding& line, const Image& pixels) {
    const auto run = runOf(line.region);
    if (run.size() < 4) return;
    const float width = std::clamp(line.measures.width, 1.0f, 8.0f);
    const auto lay = [&](PointF before, PointF end) {
        auto way = traceOn(pixels, before, end, line.polarity);
        if (way.size() < kNearest) return;
        way.resize(std::min(way.size(), kFarthest));
        way.insert(way.begin(), end);
        Finding tail;
        tail.region = stroke(way, width, pixels.size());
        tail.measures.length = lengthOf(way);
        absorb(line, tail, pixels.size());
    };
    lay(run[2], run.front());
    lay(run[run.size() - 3], run.back());
}

}  // namespace

void followEnds(std::vector<Finding>& all, const Image& pixels, std::stop_token stop) {
    forEach(
        int(all.size()),
        [&](int i) {
            Finding& f = all[size_t(i)];
            if (isLine(f.kind) && f.confidence >= kSure && f.measures.length >= kLong)
                followEnds(f, pixels);
        },
        stop);
}

}  // namespace gq::find
