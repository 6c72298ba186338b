#include "sim/scene.h"

#include <opencv2/imgproc.hpp>

#include "core/pixels/parallel.h"
#include "sim/land.h"
#include "sim/sky.h"
#include "sim/station.h"

namespace gq::sim {

ImageF renderScene(const View& v) {
    ImageF picture = renderSky(v);
    const ImageF depth = renderDepth(v);
    shadeGround(v, depth, picture);
    drawStation(v, depth, picture);
    cv::GaussianBlur(picture, picture, {5, 5}, 0.75);
    const float cx = float(v.size.width) / 2, cy = float(v.size.height) / 2;
    const float far = 1 / (cx * cx + cy * cy);
    forRows(v.size.height, [&](int y) {
        auto* p = picture.ptr<cv::Vec3f>(y);
        for (int x = 0; x < v.size.width; ++x) {
            const float dx = float(x) - cx, dy = float(y) - cy;
            p[x] *= v.exposure * (1 - 0.16f * (dx * dx + dy * dy) * far);
        }
    });
    return picture;
}

}  // namespace gq::sim
