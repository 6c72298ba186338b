#include "core/find/smooth_areas.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <vector>

#include "core/pixels/color.h"

namespace gq::find {

Mask smoothAreas(const Image& pixels, int scale) {
    Image small;
    const Size size((pixels.cols + scale - 1) / scale, (pixels.rows + scale - 1) / scale);
    cv::resize(pixels, small, size, 0, 0, cv::INTER_AREA);
    const ImageF plane = luma(small);
    ImageF soft, square;
    cv::GaussianBlur(plane, soft, {}, 4);
    const ImageF rest = plane - soft;
    // The median of rough patches, not their mean: a single speck does not roughen a sky.
    ImageF rough;
    cv::blur(ImageF(cv::abs(rest)), rough, {7, 7});
    Image8 coded, middle;
    rough.convertTo(coded, CV_8U, 4000);
    cv::medianBlur(coded, middle, 21);
    std::vector<uchar> all(middle.begin<uchar>(), middle.end<uchar>());
    const auto calm = all.begin() + ptrdiff_t(all.size() / 10);
    std::nth_element(all.begin(), calm, all.end());
    const double limit = std::clamp(2.5 * double(*calm) + 4, 16.0, 60.0);
    Mask out = middle < limit;
    const auto disc = cv::getStructuringElement(cv::MORPH_ELLIPSE, {33, 33});
    cv::morphologyEx(out, out, cv::MORPH_CLOSE,
                     cv::getStructuringElement(cv::MORPH_ELLIPSE, {9, 9}));
    cv::morphologyEx(out, out, cv::MORPH_OPEN, disc, {-1, -1}, 1, cv::BORDER_REFLECT);
    return out;
}

}  // namespace gq::find
