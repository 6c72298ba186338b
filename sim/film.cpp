#include "sim/film.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"
#include "core/pixels/hash_noise.h"
#include "core/pixels/parallel.h"

namespace gq::sim {
namespace {

std::array<float, 3> baseOf(Stock stock) {
    if (stock == Stock::Silver) return {0.80f, 0.81f, 0.80f};
    return {0.78f, 0.40f, 0.22f};
}

}  // namespace

ImageF exposed(const ImageF& light, Stock stock, std::uint32_t seed) {
    ImageF out(light.size(), CV_32FC3);
    const bool silver = stock == Stock::Silver;
    forRows(light.rows, [&](int y) {
        const auto* from = light.ptr<cv::Vec3f>(y);
        auto* to = out.ptr<cv::Vec3f>(y);
        for (int x = 0; x < light.cols; ++x) {
            cv::Vec3f e = from[x];
            if (silver) e = cv::Vec3f::all(0.3f * e[0] + 0.6f * e[1] + 0.1f * e[2]);
            cv::Vec3f d;
            for (int c = 0; c < 3; ++c) {
                const float stops = std::log10(std::max(e[c], 1e-4f) / 0.004f);
                d[c] = 0.6f * (stops > 1.2f ? stops : 0.3f * std::log1p(std::exp(stops / 0.3f)));
            }
            if (!silver)
                d = cv::Vec3f(d[0] + 0.05f * d[1], d[1] + 0.06f * d[0], d[2] + 0.08f * d[1]);
            to[x] = d;
        }
    });
    ImageF grain(light.size(), CV_32FC3);
    forRows(light.rows, [&](int y) {
        auto* g = grain.ptr<cv::Vec3f>(y);
        for (int x = 0; x < light.cols; ++x)
            for (int c = 0; c < 3; ++c) g[x][c] = hashNormal(seed, x, y, silver ? 0 : c);
    });
    cv::GaussianBlur(grain, grain, {}, 0.8);
    forRows(light.rows, [&](int y) {
        auto* d = out.ptr<cv::Vec3f>(y);
        const auto* g = grain.ptr<cv::Vec3f>(y);
        for (int x = 0; x < light.cols; ++x)
            for (int c = 0; c < 3; ++c)
                d[x][c] = std::max(0.0f, d[x][c] + 0.055f * std::sqrt(d[x][c] + 0.02f) * g[x][c]);
    });
    return out;
}

Image scanned(const ImageF& density, Stock stock, int rim) {
    ImageF film;
    cv::copyMakeBorder(density, film, rim, rim, rim, rim, cv::BORDER_CONSTANT, cv::Scalar::all(0));
    cv::GaussianBlur(film, film, {}, 0.6);
    const auto base = baseOf(stock);
    Image out(film.size(), CV_16UC3);
    forRows(film.rows, [&](int y) {
        const auto* d = film.ptr<cv::Vec3f>(y);
        auto* o = out.ptr<cv::Vec<ushort, 3>>(y);
        for (int x = 0; x < film.cols; ++x)
            for (int c = 0; c < 3; ++c)
                o[x][c] = fromLinear(base[size_t(c)] * std::pow(10.0f, -d[x][c]) +
                                     0.0006f * hashNormal(7, x, y, c));
    });
    return out;
}

}  // namespace gq::sim
