#include "sim/stains.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/pixels/hash_noise.h"

namespace gq::sim {
namespace {

constexpr float kGamma = 2.2f;

enum class Harm { Dyed, Dimmed, Faded, Flattened, Bleached, Darkened };

/// What a stain does at full strength: natural logs a channel, or the share of a step.
struct Tint {
    Harm harm;
    std::array<float, 3> plate, rim;
    float white;  ///< towards which it fades
    bool byLight;

    [[nodiscard]] float on(float v, size_t channel, float density, float edge) const {
        const float e = density * plate[channel] + edge * rim[channel];
        if (byLight) v = std::pow(v, kGamma);
        switch (harm) {
            case Harm::Faded:
                v += (1 - std::exp(-e)) * (white - v);
                break;
            case Harm::Flattened:
                v = std::pow(v, std::max(0.3f, 1 - e));
                break;
            case Harm::Bleached:
                v *= std::exp(0.6f * e);
                break;
            case Harm::Darkened:
                v = std::pow(v, 1 + e);
                break;
            default:
                v *= std::exp(-e);
        }
        v = std::clamp(v, 0.0f, 1.0f);
        return byLight ? std::pow(v, 1 / kGamma) : v;
    }
};

/// Half of them are dyes of any colour from yellow to red, the others have hardly one.
Tint tintOf(Dice& dice) {
    Tint t{};
    const float depth = dice.betweenLog(0.08f, 0.7f);
    if (dice.chance(0.5f)) {
        const float red = dice.between(0.1f, 0.5f);
        t.plate = {depth * red, depth * dice.between(red, 0.95f), depth};
        if (dice.chance(0.15f)) std::swap(t.plate[0], t.plate[2]);
    } else {
        t.harm = Harm(1 + std::min(4, int(5 * dice.unit())));
        t.plate = {depth * dice.between(0.9f, 1.1f), depth, depth * dice.between(0.9f, 1.1f)};
    }
    const float gathered = dice.between(0.5f, 1.6f);
    for (size_t c = 0; c < 3; ++c) t.rim[c] = gathered * t.plate[c];
    t.white = dice.between(0.85f, 1);
    t.byLight = dice.chance(0.4f);
    return t;
}

/// How dense a stain is over its box, and how much has gathered at its rim.
struct Body {
    Cover density;
    ImageF rim;
};

/// Noise that goes along with a stain: `strength` 0 = none.
struct Cloud {
    std::uint32_t seed;
    float strength, pitch;
    int octaves;

    [[nodiscard]] float at(int x, int y) const {
        if (strength <= 0) return 0;
        return strength * fractalNoise(seed, pitch * float(x), pitch * float(y), octaves);
    }
};

Body bodyOf(const Size& picture, Dice& dice) {
    const float radius = float(picture.width) * dice.betweenLog(0.025f, 0.16f);
    const PointF middle{dice.unit() * float(picture.width), dice.unit() * float(picture.height)};
    const float edge = radius * dice.betweenLog(0.02f, 0.35f), stretch = dice.between(1, 1.8f);
    Body out{blob(middle, radius, edge, stretch, dice, picture), {}};
    const auto cloud = [&](float least, float most, float finest, float coarsest, int octaves) {
        const float strength = dice.chance(0.6f) ? dice.between(least, most) : 0;
        return Cloud{dice.seed(), strength, 1 / (radius * dice.between(finest, coarsest)), octaves};
    };
    const Cloud frayed = cloud(0.1f, 0.9f, 0.08f, 0.5f, 4),
                uneven = cloud(0.2f, 1.2f, 0.3f, 1.2f, 3);
    const float hollow = dice.chance(0.35f) ? dice.between(0.3f, 1) : 0,
                gathered = dice.chance(0.7f) ? dice.between(0.2f, 1.8f) : 0;
    const Rect& box = out.density.box;
    out.rim = ImageF(out.density.share.size(), CV_32F, cv::Scalar(0));
    for (int y = 0; y < out.rim.rows; ++y)
        for (int x = 0; x < out.rim.cols; ++x) {
            float& share = out.density.share.at<float>(y, x);
            const Point at = box.tl() + Point(x, y);
            float s = share;
            s = std::clamp(s + 4 * s * (1 - s) * frayed.at(at.x, at.y), 0.0f, 1.0f);
            const float far = std::min(1.0f, float(cv::norm(PointF(at) - middle)) / radius);
            out.rim.at<float>(y, x) = gathered * 4 * s * (1 - s);
            share = s * std::max(0.0f, 1 + uneven.at(at.x, at.y)) * (1 - hollow * (1 - far * far));
        }
    return out;
}

}  // namespace

WearPiece layStain(ImageF& picture, Dice& dice) {
    const Tint tint = tintOf(dice);
    Body body = bodyOf(picture.size(), dice);
    if (body.density.empty()) return {WearKind::Stain, {}};
    const int channels = picture.channels();
    for (int y = 0; y < body.rim.rows; ++y) {
        auto* row = picture.ptr<float>(body.density.box.y + y) + body.density.box.x * channels;
        for (int x = 0; x < body.rim.cols; ++x)
            for (int c = 0; c < channels; ++c, ++row)
                *row = tint.on(*row, size_t(c) % 3, body.density.share.at<float>(y, x),
                               body.rim.at<float>(y, x));
    }
    body.density.share += body.rim;  // what counts as stained
    return {WearKind::Stain, std::move(body.density)};
}

}  // namespace gq::sim
