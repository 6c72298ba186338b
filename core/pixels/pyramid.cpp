#include "core/pixels/pyramid.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

namespace gq {

int Pyramid::levelFor(double zoom) const {
    const int wanted = zoom >= 1 ? 0 : int(std::floor(-std::log2(zoom) + 1e-6));
    return std::clamp(wanted, 0, int(levels.size()) - 1);
}

cv::Mat halved(const cv::Mat& image) {
    const Rect even(0, 0, image.cols & ~1, image.rows & ~1);
    if (even.width < 2 || even.height < 2) return image.clone();
    cv::Mat out;
    cv::resize(image(even), out, {even.width / 2, even.height / 2}, 0, 0, cv::INTER_AREA);
    return out;
}

Pyramid makePyramid(const Image& pixels) {
    Pyramid out;
    out.levels.push_back(narrow(asColour(pixels)));
    while (std::max(out.levels.back().cols, out.levels.back().rows) > 256 &&
           std::min(out.levels.back().cols, out.levels.back().rows) > 2)
        out.levels.push_back(halved(out.levels.back()));
    return out;
}

void update(Pyramid& pyramid, const Excerpt& pixels, const Rect& changed) {
    Rect box = changed & Rect({0, 0}, pixels.size());
    if (box.empty() || pyramid.empty()) return;
    narrow(asColour(pixels(box))).copyTo(pyramid.levels[0](box));
    for (size_t i = 1; i < pyramid.levels.size(); ++i) {
        auto& to = pyramid.levels[i];
        const Point tl(box.x / 2, box.y / 2), br((box.br().x + 1) / 2, (box.br().y + 1) / 2);
        box = Rect(tl, br) & Rect({0, 0}, to.size());
        if (box.empty()) return;
        const Rect from(box.x * 2, box.y * 2, box.width * 2, box.height * 2);
        halved(pyramid.levels[i - 1](from)).copyTo(to(box));
    }
}

}  // namespace gq
