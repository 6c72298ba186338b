#include "core/mend/touch_in.h"

#include <algorithm>
#include <opencv2/imgproc.hpp>

#include "core/mend/grain.h"
#include "core/mend/heal.h"

namespace gq::mend {

Status touchIn(Window& w, const std::vector<Point>& hole, const std::array<float, 3>& tone,
               float share, std::stop_token stop) {
    std::vector<Vec4> values(hole.size(), Vec4{tone[0], tone[1], tone[2], 0});
    if (share > 0) {
        const Rect box = cv::boundingRect(hole);
        const int reach = std::max(48, std::max(box.width, box.height) * 3 / 2);
        const auto source = sourceFor(w, hole, reach, stop);
        if (stop.stop_requested()) return cancelled();
        if (source) {
            std::vector<Vec4> texture;
            for (const Point& p : hole) texture.push_back(w.at(p.x + source->x, p.y + source->y));
            const auto grain = fineDetail(w, hole, std::move(texture));
            for (size_t i = 0; i < values.size(); ++i) values[i] += splat(share) * grain[i];
        }
    }
    w.write(hole, values);
    return {};
}

}  // namespace gq::mend
