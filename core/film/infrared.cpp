#include "core/film/infrared.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <vector>

#include "core/pixels/color.h"
#include "core/pixels/parallel.h"

namespace gq::film {
namespace {

constexpr int kTile = 192;

ImageF logOf(const Image& plane) {
    ImageF out(plane.size(), CV_32F);
    forRows(plane.rows, [&](int y) {
        const auto* p = plane.ptr<ushort>(y);
        auto* o = out.ptr<float>(y);
        for (int x = 0; x < plane.cols; ++x) o[x] = std::log(toLinear(p[x]) + 0.002f);
    });
    return out;
}

/// The shift that lays the infrared on the picture, from steepness in a middle part.
PointF shiftOf(const ImageF& picture, const ImageF& infrared) {
    const int side = std::min({1024, picture.cols, picture.rows}) & ~1;
    const Rect middle((picture.cols - side) / 2, (picture.rows - side) / 2, side, side);
    const auto steep = [&](const ImageF& p) {
        ImageF gx, gy, out;
        cv::Sobel(p(middle), gx, CV_32F, 1, 0);
        cv::Sobel(p(middle), gy, CV_32F, 0, 1);
        cv::magnitude(gx, gy, out);
        cv::threshold(out, out, 1.0, 0, cv::THRESH_TRUNC);
        return out;
    };
    ImageF window;
    cv::createHanningWindow(window, middle.size(), CV_32F);
    const auto d = cv::phaseCorrelate(steep(picture), steep(infrared), window);
    if (std::hypot(d.x, d.y) > 8) return {};  // further apart than any scanner's: not believed
    return {float(d.x), float(d.y)};
}

using Weights = cv::Vec<double, 4>;

/// Least squares of the infrared on the picture over a tile, twice: the second time without what
/// lies far below the first fit.
Weights fitTile(const std::vector<ImageF>& colours, const ImageF& infrared, const Rect& box,
                Weights start, bool haveStart) {
    Weights w = start;
    for (int round = haveStart ? 1 : 0; round < 3; ++round) {
        cv::Matx44d m = cv::Matx44d::zeros();
        Weights v(0, 0, 0, 0);
        for (int y = box.y; y < box.br().y; y += 2)
            for (int x = box.x; x < box.br().x; x += 2) {
                Weights b(1, 0, 0, 0);
                for (size_t c = 0; c < colours.size(); ++c)
                    b[int(c) + 1] = double(colours[c].at<float>(y, x));
                const double value = double(infrared.at<float>(y, x));
                const double rest = value - w.dot(b);
                if (round > 0 && (rest < -0.05 || rest > 0.10)) continue;
                m += b * b.t();
                v += b * value;
            }
        for (int i = 1; i < 4; ++i) m(i, i) += 0.02 * m(0, 0) + 1;  // a weak pull to no crosstalk
        m(0, 0) += 1e-6;
        w = m.solve(v, cv::DECOMP_CHOLESKY);
    }
    return w;
}

}  // namespace

InfraredDust infraredDust(const Image& pixels, const Image& infrared, std::stop_token stop) {
    InfraredDust out;
    if (infrared.empty() || infrared.size() != pixels.size()) {
        out.useless = "the scan has no infrared plane";
        return out;
    }
    std::vector<cv::Mat> planes;
    cv::split(pixels, planes);
    std::vector<ImageF> colours;
    for (const auto& p : planes) colours.push_back(logOf(p));
    ImageF light = logOf(infrared);
    if (stop.stop_requested()) return out;
    out.shift = shiftOf(colours[colours.size() / 2], light);
    const cv::Matx23f move(1, 0, out.shift.x, 0, 1, out.shift.y);
    cv::warpAffine(light, light, move, light.size(), cv::INTER_LINEAR | cv::WARP_INVERSE_MAP,
                   cv::BORDER_REPLICATE);
    const Weights overall = fitTile(colours, light, Rect({0, 0}, light.size()), {}, false);
    double crosstalk = 0;
    for (int i = 1; i < 4; ++i) crosstalk += std::abs(overall[i]);
    if (crosstalk > 0.45) {
        out.useless = "the film itself holds infrared back (silver film)";
        return out;
    }
    out.depth.create(light.size(), CV_32F);
    const int across = (light.cols + kTile - 1) / kTile, down = (light.rows + kTile - 1) / kTile;
    forEach(
        across * down,
        [&](int t) {
            const Rect tile = Rect(t % across * kTile, t / across * kTile, kTile, kTile) &
                              Rect({0, 0}, light.size());
            const Weights w =
                fitTile(colours, light, grown(tile, kTile / 2, light.size()), overall, true);
            for (int y = tile.y; y < tile.br().y; ++y)
                for (int x = tile.x; x < tile.br().x; ++x) {
                    double expected = w[0];
                    for (size_t c = 0; c < colours.size(); ++c)
                        expected += w[int(c) + 1] * double(colours[c].at<float>(y, x));
                    out.depth.at<float>(y, x) =
                        1 - float(std::exp(double(light.at<float>(y, x)) - expected));
                }
        },
        stop);
    if (stop.stop_requested()) return {};
    // Dust covers little: what is left elsewhere is noise.
    const ImageF size = cv::abs(out.depth);
    ImageF mean;
    cv::boxFilter(ImageF(cv::min(size, 0.1f)), mean, CV_32F, {61, 61}, {-1, -1}, true,
                  cv::BORDER_REFLECT);
    out.noise = mean * 1.25f + 0.004f;
    return out;
}

}  // namespace gq::film
