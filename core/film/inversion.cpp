#include "core/film/inversion.h"

#include <algorithm>
#include <cmath>
#include <vector>

#include "core/pixels/color.h"
#include "core/pixels/parallel.h"

namespace gq::film {
namespace {

constexpr float kGamma = 0.6f;
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

Rect innerPart(const Image& p) {
    const int m = std::max(2, std::min(p.cols, p.rows) / 25);
    return Rect(m, m, std::max(1, p.cols - 2 * m), std::max(1, p.rows - 2 * m));
}

float lightFor(float transmitted, const Inversion& s, size_t c) {
    const float density = std::log10(std::max(s.base[c], 1e-4f) / std::max(transmitted, 1e-5f));
    const float over = s.contrast[c] * (density - s.white[c]) / kGamma;
    return kWhite * std::pow(10.0f, std::clamp(over, -8.0f, 4.0f)) * std::exp2(s.exposure[c]);
}

}  // namespace

std::optional<std::array<float, 3>> findBase(const Image& pixels) {
    const int strip = std::max(2, std::min(pixels.cols, pixels.rows) / 100);
    if (pixels.cols < 8 * strip || pixels.rows < 8 * strip) return std::nullopt;
    const Rect edges[4]{{0, 0, pixels.cols, strip},
                        {0, pixels.rows - strip, pixels.cols, strip},
                        {0, 0, strip, pixels.rows},
                        {pixels.cols - strip, 0, strip, pixels.rows}};
    std::array<float, 3> base{};
    for (int c = 0; c < pixels.channels(); ++c) {
        auto inside = sampled(pixels, c, innerPart(pixels));
        const float bright = partOf(inside, 0.95), dark = partOf(inside, 0.05);
        float least = 1, sum = 0;
        for (const auto& edge : edges) {
            auto values = sampled(pixels, c, edge);
            const float middle = partOf(values, 0.5);
            least = std::min(least, middle);
            sum += middle / 4;
        }
        // Every edge lies above the picture, and the picture is much denser somewhere.
        if (least < bright * 0.98f || dark > 0.6f * least) return std::nullopt;
        base[size_t(c)] = sum;
    }
    if (pixels.channels() == 1) base[1] = base[2] = base[0];
    return base;
}

Inversion fitted(const Image& pixels, const std::array<float, 3>& base) {
    Inversion out;
    out.base = base;
    const int channels = pixels.channels();
    std::array<float, 3> low{}, high{};
    for (int c = 0; c < channels; ++c) {
        auto light = sampled(pixels, c, innerPart(pixels));
        for (auto& v : light) v = std::log10(base[size_t(c)] / std::max(v, 1e-5f));
        low[size_t(c)] = partOf(light, 0.005);
        high[size_t(c)] = partOf(light, 0.995);
    }
    const float wanted = std::log10(kWhite / kBlack) * kGamma;
    for (size_t c = 0; c < 3; ++c) {
        const size_t from = channels == 3 ? c : 0;
        // Only as steep as the densities ask for, and never steeper than film is ever printed.
        out.contrast[c] = std::clamp(wanted / std::max(high[from] - low[from], 0.05f), 0.6f, 2.0f);
        out.white[c] = high[from];
    }
    out.monochrome = channels == 1;
    if (channels == 3) {  // the same density in all channels everywhere: silver, no dyes
        const Rect box = innerPart(pixels);
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
