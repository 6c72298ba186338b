#include "sim/infrared.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"

namespace gq::sim {

Image infraredOf(const Worn& worn, Stock stock, std::uint32_t seed) {
    ImageF let(worn.clean.size(), CV_32F, cv::Scalar(1));
    for (const auto& p : worn.pieces) {
        const float opaque = p.strength * (p.kind == WearKind::Scratch ? 0.75f : 1.0f);
        cv::Mat part = let(p.cover.box);
        part = part.mul(1 - p.cover.share * opaque);
    }
    const float leak = stock == Stock::Silver ? 0.85f : 0.07f;
    const int channels = worn.clean.channels();
    for (int y = 0; y < let.rows; ++y) {
        const auto* film = worn.clean.ptr<ushort>(y);
        auto* l = let.ptr<float>(y);
        for (int x = 0; x < let.cols; ++x)
            l[x] *= 0.85f * std::pow(toLinear(film[channels * x]) + 1e-4f, leak);
    }
    const cv::Matx23f shift(1, 0, 0.8f, 0, 1, -0.6f);
    cv::warpAffine(let, let, shift, let.size(), cv::INTER_LINEAR, cv::BORDER_REPLICATE);
    cv::GaussianBlur(let, let, {}, 0.9);
    Image out(let.size(), CV_16U);
    for (int y = 0; y < out.rows; ++y) {
        const auto* l = let.ptr<float>(y);
        auto* o = out.ptr<ushort>(y);
        for (int x = 0; x < out.cols; ++x)
            o[x] = fromLinear(l[x] + 0.003f * hashNormal(seed, x, y, 5));
    }
    return out;
}

}  // namespace gq::sim
