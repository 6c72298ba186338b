#include "core/film/inversion.h"

#include <algorithm>
#include <cmath>
#include <vector>

#include "core/film/film_base.h"
#include "core/pixels/color.h"
#include "core/pixels/parallel.h"

namespace gq::film {
namespace {

constexpr float kGamma = 0.6f;
constexpr double kDense = 0.995, kThin = 0.005;  ///< parts of the picture thinner than its ends
constexpr float kLifted = 0.4f;  ///< how far black goes from bare film to the thinnest places
constexpr float kWhite = 0.92f, kBlack = 0.004f;  ///< linear light of the ends of the scale

ushort valueAt(const Image& p, int y, int x, int c) {
    return p.ptr<ushort>(y)[x * p.channels() + c];
}

float partOf(std::vector<float>& values, double part) {
    if (values.empty()) return 0;
    const auto at = values.begin() + ptrdiff_t(part * double(values.size() - 1));
    std::nth_element(values.begin(), at, values.end());
    return *at;
}

/// Linear values of a channel on a coarse grid of `box`.
std::vector<float> sampled(const Image& p, int channel, const Rect& box) {
    const int step = std::max(1, int(std::sqrt(double(box.area()) / 40000)));
    std::vector<float> out;
    for (int y = box.y; y < box.br().y; y += step)
        for (int x = box.x; x < box.br().x; x += step)
            out.push_back(toLinear(valueAt(p, y, x, channel)));
    return out;
}

float lightFor(float transmitted, const Inversion& s, size_t c) {
    const float density = std::log10(std::max(s.base[c], 1e-4f) / std::max(transmitted, 1e-5f));
    const float over = s.contrast[c] * (density - s.white[c]) / kGamma;
    return kWhite * std::pow(10.0f, std::clamp(over, -8.0f, 4.0f)) * std::exp2(s.exposure[c]);
}

/// Contrast that takes a range of densities over the scale: only as steep as it asks for, and never
/// steeper than film is ever printed.
float steepness(float range) {
    const float wanted = std::log10(kWhite / kBlack) * kGamma;
    return std::clamp(wanted / std::max(range, 0.05f), 0.6f, 2.0f);
}

}  // namespace

Inversion fitted(const Image& pixels, const std::array<float, 3>& base) {
    Inversion out;
    out.base = base;
    const int channels = pixels.channels();
    const Rect box = exposedPart(pixels, base);
    std::array<float, 3> dense{}, range{};
    for (int c = 0; c < channels; ++c) {
        auto light = sampled(pixels, c, box);
        for (auto& v : light) v = std::log10(base[size_t(c)] / std::max(v, 1e-5f));
        dense[size_t(c)] = partOf(light, kDense);
        range[size_t(c)] = dense[size_t(c)] - kLifted * partOf(light, kThin);
    }
    if (channels == 1) dense.fill(dense[0]), range.fill(range[0]);
    const auto mean = [](const auto& v) { return (v[0] + v[1] + v[2]) / 3; };
    for (size_t c = 0; c < 3; ++c) {
        out.contrast[c] = std::sqrt(steepness(range[c]) * steepness(mean(range)));
        out.white[c] = (dense[c] + mean(dense)) / 2;
    }
    out.monochrome = channels == 1;
    if (channels == 3) {  // the same density in all channels everywhere: silver, no dyes
        double spread = 0;
        int count = 0;
        for (int y = box.y; y < box.br().y; y += 17)
            for (int x = box.x; x < box.br().x; x += 17, ++count) {
                std::array<float, 3> d{};
                for (int c = 0; c < 3; ++c)
                    d[size_t(c)] = std::log10(base[size_t(c)] /
                                              std::max(toLinear(valueAt(pixels, y, x, c)), 1e-5f));
                spread += double(*std::max_element(d.begin(), d.end()) -
                                 *std::min_element(d.begin(), d.end()));
            }
        out.monochrome = spread / std::max(1, count) < 0.035;
        if (out.monochrome) {
            out.contrast.fill(out.contrast[1]);
            out.white.fill(out.white[1]);
        }
    }
    return out;
}

Image inverted(const Image& pixels, const Inversion& s) {
    std::array<std::vector<ushort>, 3> table;
    const int channels = pixels.channels();
    const bool eight = pixels.depth() == CV_8U;
    for (size_t c = 0; c < size_t(channels); ++c) {
        table[c].resize(eight ? 256 : 65536);
        forRows(int(table[c].size()), [&](int i) {
            const auto v = ushort(eight ? i * 257 : i);
            const ushort out = fromLinear(lightFor(toLinear(v), s, c));
            table[c][size_t(i)] = eight ? ushort((out + 128) / 257) : out;
        });
    }
    Image out(pixels.size(), pixels.type());
    const auto run = [&](auto sample) {
        using T = decltype(sample);
        forRows(pixels.rows, [&](int y) {
            const auto* p = pixels.ptr<T>(y);
            auto* o = out.ptr<T>(y);
            for (int x = 0; x < pixels.cols; ++x, p += channels, o += channels) {
                for (int c = 0; c < channels; ++c) o[c] = T(table[size_t(c)][p[c]]);
                if (s.monochrome && channels == 3)
                    o[0] = o[1] = o[2] = T((2 * o[0] + 5 * o[1] + o[2]) / 8);
            }
        });
    };
    if (eight)
        run(uchar{});
    else
        run(ushort{});
    return out;
}

}  // namespace gq::film
