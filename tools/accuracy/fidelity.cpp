#include "tools/accuracy/fidelity.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"
#include "core/pixels/region.h"

namespace gq::accuracy {
namespace {

ImageF blurred(const ImageF& plane, double sigma) {
    ImageF out;
    cv::GaussianBlur(plane, out, {}, sigma);
    return out;
}

ImageF unit(const Image& pixels) {
    ImageF out;
    pixels.convertTo(out, CV_32F, 1.0 / 65535);
    return out;
}

double decibels(const ImageF& a, const ImageF& b, const Mask& where) {
    const double square = cv::norm(a, b, cv::NORM_L2SQR, where);
    const double n = double(cv::countNonZero(where)) * a.channels();
    return -10 * std::log10(std::max(square / std::max(n, 1.0), 1e-12));
}

/// Source: Wang, Bovik, Sheikh, Simoncelli, IEEE TIP 13(4), 2004; Gaussian window of sigma 1.5.
ImageF ssimOf(const ImageF& a, const ImageF& b) {
    const auto mean = [](const ImageF& x) { return blurred(x, 1.5); };
    const ImageF ma = mean(a), mb = mean(b), aa = mean(a.mul(a)) - ma.mul(ma),
                 bb = mean(b.mul(b)) - mb.mul(mb), ab = mean(a.mul(b)) - ma.mul(mb);
    constexpr double c1 = 1e-4, c2 = 9e-4;
    ImageF out;
    cv::divide(ImageF(2 * ma.mul(mb) + c1).mul(ImageF(2 * ab + c2)),
               ImageF(ma.mul(ma) + mb.mul(mb) + c1).mul(ImageF(aa + bb + c2)), out);
    return out;
}

double median(std::vector<double> values) {
    if (values.empty()) return 0;
    const auto middle = values.begin() + long(values.size() / 2);
    std::nth_element(values.begin(), middle, values.end());
    return *middle;
}

/// Mean absolute step from a region's inner rim to those pixels of its outer one that `counts`
/// (empty = all) holds.
double step(const ImageF& tone, const Mask& counts, const Region& region, Point shift) {
    const Rect box = grown(region.box, 2, tone.size()) + shift;
    if ((box & Rect({0, 0}, tone.size())) != box) return -1;
    Mask inside(box.size(), CV_8U, cv::Scalar(0)), inner, outer;
    region.mask.copyTo(inside(Rect(region.box.tl() + shift - box.tl(), region.box.size())));
    const Mask cross = cv::getStructuringElement(cv::MORPH_CROSS, {3, 3});
    cv::erode(inside, inner, cross, {-1, -1}, 1, cv::BORDER_CONSTANT, cv::Scalar(255));
    cv::dilate(inside, outer, cross);
    inner = inside & ~inner;
    outer = outer & ~inside;
    if (!counts.empty()) outer &= counts(box);
    // Each outer pixel against the mean of the inner ones beside it.
    double sum = 0;
    int n = 0;
    for (int y = 1; y + 1 < box.height; ++y)
        for (int x = 1; x + 1 < box.width; ++x) {
            if (!outer.at<uchar>(y, x)) continue;
            double in = 0;
            int k = 0;
            for (const Point d : {Point(1, 0), Point(-1, 0), Point(0, 1), Point(0, -1)})
                if (inner.at<uchar>(y + d.y, x + d.x)) {
                    in += double(tone.at<float>(box.y + y + d.y, box.x + x + d.x));
                    ++k;
                }
            if (!k) continue;
            sum += std::abs(in / k - double(tone.at<float>(box.y + y, box.x + x)));
            ++n;
        }
    return n ? sum / n : -1;
}

/// Its own step over the mean of four moved 20 px away in the truth; negative where none lies in
/// the picture. What else the picture bears beside the region is not the mend's.
double seamOf(const ImageF& tone, const ImageF& truth, const Mask& unworn, const Region& region) {
    const double own = step(tone, unworn, region, {0, 0});
    double beside = 0;
    int n = 0;
    for (const Point d : {Point(20, 0), Point(-20, 0), Point(0, 20), Point(0, -20)})
        if (const double s = step(truth, {}, region, d); s >= 0) beside += s, ++n;
    return own >= 0 && n ? own / (beside / n + 1e-5) : -1;
}

}  // namespace

Fidelity fidelity(const Image& mended, const Image& worn, const Image& truth, const Mask& where) {
    Fidelity out;
    if (cv::countNonZero(where) == 0) return out;
    const ImageF a = unit(mended), b = unit(truth);
    out.plain = decibels(a, b, where);
    out.structure = decibels(blurred(a, 1.5), blurred(b, 1.5), where);
    const ImageF tone = luma(mended), before = luma(truth);
    out.ssim = cv::mean(ssimOf(tone, before), where)[0];
    const Mask unworn = luma(worn) == before;
    const ImageF fine = tone - blurred(tone, 1.5), fineBefore = before - blurred(before, 1.5);
    std::vector<double> textures, seams;
    for (const auto& place : pieces(where)) {
        ++out.places;
        if (place.area() < 9) continue;
        const double was = cv::norm(fineBefore(place.box), cv::NORM_L2, place.mask);
        const double is = cv::norm(fine(place.box), cv::NORM_L2, place.mask);
        if (was > 1e-4 * std::sqrt(double(place.area()))) textures.push_back(is / was);
        if (const double s = seamOf(tone, before, unworn, place); s >= 0) seams.push_back(s);
    }
    out.texture = median(textures);
    if (!seams.empty()) out.seam = median(seams);
    return out;
}

}  // namespace gq::accuracy
