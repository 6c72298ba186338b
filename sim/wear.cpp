#include "sim/wear.h"

#include <algorithm>
#include <array>
#include <functional>
#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"
#include "sim/stains.h"

namespace gq::sim {
namespace {

using Colour = std::array<float, 3>;

/// A picture being worn: encoded values 0..1 while pieces are laid on it.
class Bench {
  public:
    Bench(ImageF& picture, std::vector<WearPiece>& pieces, std::uint32_t seed)
        : dice(seed), m_picture(picture), m_pieces(pieces) {}

    /// Lays `tone` over the picture with `opacity` where the cover says so.
    void lay(WearKind kind, const Cover& cover, const Colour& tone, float opacity,
             bool counts = true) {
        change(cover, [&](float v, int c, float share) {
            const float k = share * opacity, t = tone[size_t(c) % 3];
            if (!linear) return v + k * (t - v);
            const float light = toLinear(ushort(v * 65535));
            return float(fromLinear(light + k * (toLinear(ushort(t * 65535)) - light))) / 65535;
        });
        if (counts && !cover.empty()) m_pieces.push_back({kind, cover, opacity});
    }
    /// Dims linear light by up to `depth`.
    void dim(WearKind kind, const Cover& cover, float depth) {
        change(cover, [&](float v, int, float share) {
            return float(fromLinear(toLinear(ushort(v * 65535)) * (1 - depth * share))) / 65535;
        });
        if (!cover.empty()) m_pieces.push_back({kind, cover, depth});
    }
    /// Adds `by` (of 0..1) to all channels.
    void lift(const Cover& cover, float by) {
        change(cover, [&](float v, int, float share) { return v + by * share; });
    }
    /// Multiplies each channel by a power of `tint`, as a dye does.
    void stain(WearKind kind, const Cover& cover, const Colour& tint) {
        change(cover, [&](float v, int c, float share) {
            return v * std::pow(tint[size_t(c) % 3], share);
        });
        if (!cover.empty()) m_pieces.push_back({kind, cover});
    }
    /// Lays a stain in a manner of its own.
    void stain() {
        WearPiece piece = layStain(m_picture, dice);
        if (!piece.cover.empty()) m_pieces.push_back(std::move(piece));
    }
    [[nodiscard]] PointF place() {
        return {dice.unit() * float(m_picture.cols), dice.unit() * float(m_picture.rows)};
    }
    [[nodiscard]] Size size() const { return m_picture.size(); }
    [[nodiscard]] float megapixels() const { return float(m_picture.total()) * 1e-6f; }
    Dice dice;
    bool linear = false;  ///< what is laid mixes by light, not by encoded values

  private:
    template <class Change>
    void change(const Cover& cover, const Change& by) {
        for (int y = 0; y < cover.box.height; ++y) {
            const auto* share = cover.share.ptr<float>(y);
            auto* row = m_picture.ptr<float>(cover.box.y + y) +
                        ptrdiff_t(cover.box.x) * m_picture.channels();
            for (int x = 0; x < cover.box.width; ++x)
                for (int c = 0; c < m_picture.channels(); ++c, ++row)
                    if (share[x] > 0) *row = std::clamp(by(*row, c, share[x]), 0.0f, 1.0f);
        }
    }
    ImageF& m_picture;
    std::vector<WearPiece>& m_pieces;
};

/// A nearly neutral tone: dust is never quite white or black.
Colour nearly(float tone, float spread, Dice& dice) {
    Colour out{};
    for (auto& c : out) c = std::clamp(tone + spread * dice.normal(), 0.0f, 1.0f);
    return out;
}

/// Pieces grow with the picture's resolution: a scan at twice the pitch shows them twice as large.
float unitOf(const Size& size, Dice& dice) {
    return std::clamp(std::sqrt(float(size.area()) / 4e6f), 0.7f, 2.5f) *
           dice.betweenLog(0.75f, 1.6f);
}

/// 0 for the usual tones, up to 1 for those of an odd scanner.
float departure(const WearPlan& plan, Dice& dice) {
    return plan.variety > 0 ? plan.variety * dice.unit() : 0;
}

/// How the dust of one picture looks: much alike, but with `variety` each piece in its own way.
struct Manner {
    float variety, edge, least;  ///< of opacity
    Colour cast{1, 1, 1};        ///< yellowed paper, tinted dust

    [[nodiscard]] float edgeOf(Dice& dice) const {
        return variety > 0 ? std::max(0.7f, edge * dice.betweenLog(0.5f, 2.0f)) : edge;
    }
    [[nodiscard]] float opacityOf(Dice& dice) const {
        if (variety > 0) return dice.between(least - 0.1f, 1);
        return dice.chance(0.6f) ? dice.between(0.7f, 1) : dice.between(least, 0.7f);
    }
    [[nodiscard]] Colour toneOf(float tone, float spread, Dice& dice) const {
        if (variety > 0) tone += (tone > 0.5f ? -0.12f : 0.12f) * variety * dice.unit();
        Colour out = nearly(tone, spread, dice);
        for (size_t c = 0; c < 3; ++c) out[c] *= cast[c];
        return out;
    }
};

Manner mannerOf(const WearPlan& plan, float edge, float least, Dice& dice) {
    Manner out{plan.variety, edge, least};
    if (plan.variety > 0) {
        const float warm = plan.variety * dice.between(-0.04f, 0.16f);
        out.cast = {1, 1 - 0.45f * std::max(0.0f, warm), 1 - std::max(0.0f, warm)};
    }
    return out;
}

/// Specks are blobs; with `variety` some are clumps of two or three. `radii`: least and most.
void laySpeck(Bench& on, const Manner& manner, const std::array<float, 2>& radii, float stretched,
              float tone, float spread) {
    Dice& dice = on.dice;
    const float opacity = manner.opacityOf(dice);
    const Colour colour = manner.toneOf(tone, spread, dice);
    const float stretch = dice.between(1, stretched), radius = dice.betweenLog(radii[0], radii[1]);
    const PointF at = on.place();
    const float edge = manner.edgeOf(dice);
    on.lay(WearKind::Speck, blob(at, radius, edge, stretch, dice, on.size()), colour, opacity);
    if (manner.variety <= 0 || !dice.chance(0.25f)) return;
    for (int i = 1 + dice.count(0.5f); i > 0; --i) {
        const float turn = 6.2832f * dice.unit(), smaller = dice.between(0.3f, 0.8f);
        const PointF beside = at + PointF(std::cos(turn), std::sin(turn)) * radius;
        on.lay(WearKind::Speck, blob(beside, radius * smaller, edge, 1.2f, dice, on.size()), colour,
               opacity);
    }
}

void wearSensor(Bench& on, const WearPlan& plan) {
    Dice& dice = on.dice;
    const float unit = unitOf(on.size(), dice);
    const float aperture = dice.betweenLog(0.5f, 2.0f);  // penumbra, all grains alike
    for (int i = dice.count((6 + 5 * on.megapixels()) * plan.amount); i > 0; --i) {
        const float radius = unit * dice.betweenLog(2.0f, 18.0f);
        const float edge =
            std::max(1.2f, std::min(unit * aperture * dice.between(2, 9), radius * 2));
        on.dim(WearKind::Shadow,
               blob(on.place(), radius, edge, dice.between(1, 1.25f), dice, on.size()),
               dice.betweenLog(0.02f, 0.45f));
    }
    const float hairs = 1 + 3 * plan.variety;
    for (int i = dice.count((1 + 0.5f * on.megapixels()) * plan.amount * hairs); i > 0; --i) {
        const auto run =
            hairRun(on.place(), unit * dice.betweenLog(40, 260), unit * dice.between(2, 5), dice);
        on.dim(WearKind::Fibre,
               strokeCover(run, std::max(1.2f, unit * aperture * dice.between(2, 5)), on.size()),
               dice.betweenLog(0.06f, 0.4f));
    }
    if (!plan.harm) return;
    for (int i = dice.count(1.5f * plan.amount); i > 0; --i) {
        const float radius = float(on.size().width) * dice.between(0.03f, 0.08f);
        on.dim(WearKind::Haze,
               blob(on.place(), radius, radius * 1.4f, dice.between(1, 2), dice, on.size()),
               dice.between(0.04f, 0.12f));
    }
}

/// A few large pieces, opaque and crisp: flakes on film; on prints chips down to the bare paper,
/// and blots.
void layLarge(Bench& on, const Manner& manner, float unit, float tone) {
    Dice& dice = on.dice;
    const Colour colour = manner.toneOf(tone, 0.02f, dice);
    const float radius = unit * dice.betweenLog(7, 24), edge = dice.between(0.6f, 1.6f),
                stretch = dice.between(1, 2.2f);
    on.lay(WearKind::Speck, blob(on.place(), radius, edge, stretch, dice, on.size()), colour,
           dice.between(0.85f, 1));
}

int largePieces(Bench& on, const WearPlan& plan) {
    return on.dice.count((1 + 1.5f * on.megapixels()) * plan.amount);
}

void wearFilm(Bench& on, const WearPlan& plan) {
    Dice& dice = on.dice;
    const bool light = plan.medium == Medium::Negative;
    const float unit = unitOf(on.size(), dice), off = 0.04f + 0.1f * departure(plan, dice),
                tone = light ? 1 - off : off;
    const Manner manner = mannerOf(plan, dice.between(0.8f, 2.2f), 0.25f, dice);
    on.linear = plan.variety > 0 && dice.chance(0.5f);
    for (int i = dice.count((10 + 22 * on.megapixels()) * plan.amount); i > 0; --i)
        laySpeck(on, manner, {unit * 0.7f, unit * 6.5f}, 1.7f, tone, 0.025f);
    for (int i = dice.count((2 + 3 * on.megapixels()) * plan.amount); i > 0; --i) {
        const float opacity = manner.opacityOf(dice);
        const Colour colour = manner.toneOf(tone, 0.02f, dice);
        const float width = unit * dice.between(0.9f, 3), length = unit * dice.betweenLog(25, 280);
        const auto run = hairRun(on.place(), length, width, dice);
        on.lay(WearKind::Fibre, strokeCover(run, manner.edgeOf(dice), on.size()), colour, opacity);
    }
    const auto scratch = [&](PointF start, float heading, float length) {
        const float opacity = dice.between(0.2f, 0.75f);
        const Colour colour = manner.toneOf(tone, 0.03f, dice);
        const auto run = scratchRun(start, heading, length, unit * dice.between(0.6f, 1.8f), dice);
        on.lay(WearKind::Scratch, strokeCover(run, manner.edgeOf(dice), on.size()), colour,
               opacity);
    };
    const auto height = float(on.size().height);
    for (int i = dice.count((1.5f + 0.8f * on.megapixels()) * plan.amount); i > 0; --i) {
        const float length = dice.betweenLog(0.15f, 1.1f) * height;
        scratch({on.place().x, dice.between(-0.2f, 0.9f) * height}, 1.5708f + 0.05f * dice.normal(),
                length);
    }
    for (int i = dice.count((0.5f + 0.6f * on.megapixels()) * plan.amount); i > 0; --i)
        scratch(on.place(), 6.2832f * dice.unit(), unit * dice.betweenLog(50, 320));
    for (int i = largePieces(on, plan); i > 0; --i) layLarge(on, manner, unit, tone);
}

void wearCracks(Bench& on, const WearPlan& plan, const Manner& manner, float unit) {
    Dice& dice = on.dice;
    const auto [width, height] = on.size();
    for (int i = dice.count((1 + 0.7f * on.megapixels()) * plan.amount); i > 0; --i) {
        const float heading = 6.2832f * dice.unit();
        const float length = dice.betweenLog(0.08f, 0.7f) * float(std::min(width, height));
        const bool light = dice.chance(0.8f);
        const Colour tone = manner.toneOf(light ? 0.93f : 0.13f, 0.03f, dice);
        const float opacity = dice.between(0.5f, 1),
                    edge = manner.variety > 0 ? manner.edgeOf(dice) : 1.2f,
                    lifted = dice.chance(0.6f) ? 0.12f : 0;
        const PointF shade{dice.between(-2, 2), dice.between(0.5f, 2.5f)};
        for (auto& run :
             crackRuns(on.place(), heading, length, unit * dice.between(1, 3.4f), dice)) {
            if (lifted > 0) {  // the raised edge throws a little shade
                auto below = run;
                for (auto& p : below) p.at += shade * (0.5f + 0.3f * p.width);
                on.lift(strokeCover(below, 1.5f, on.size()), -lifted);
            }
            on.lay(WearKind::Crack, strokeCover(run, edge, on.size()), tone, opacity);
        }
    }
}

void wearCrease(Bench& on, float unit) {
    Dice& dice = on.dice;
    const float heading = (dice.chance(0.5f) ? 0 : 1.5708f) + 0.1f * dice.normal();
    const PointF along{std::cos(heading), std::sin(heading)}, across{-along.y, along.x};
    const float length = float(on.size().width) * dice.between(0.3f, 0.7f);
    auto run = scratchRun(on.place() - along * (length / 2), heading, length, unit * 3, dice);
    on.lay(WearKind::Crease, strokeCover(run, 2, on.size()), nearly(0.9f, 0.02f, dice), 0.35f);
    for (const float side : {-1.0f, 1.0f}) {
        auto beside = run;
        for (auto& p : beside) p = {p.at + across * (side * 5 * unit), p.width * 2.5f, 0.8f};
        on.lift(strokeCover(beside, 8 * unit, on.size()), 0.07f * side);
    }
}

void wearHarm(Bench& on, const WearPlan& plan, float unit) {
    Dice& dice = on.dice;
    const auto width = float(on.size().width);
    for (int i = dice.count(1.2f * plan.amount); i > 0; --i) wearCrease(on, unit);
    for (int i = dice.count(12 * plan.amount); i > 0; --i) {
        const float radius = unit * dice.betweenLog(4, 16);
        on.stain(WearKind::Foxing, blob(on.place(), radius, radius * 1.3f, 1.2f, dice, on.size()),
                 {0.92f, 0.78f, 0.58f});
    }
    for (int i = dice.count(1.5f * plan.amount); i > 0; --i) {
        if (plan.variety > 0) {
            on.stain();
            continue;
        }
        const float radius = width * dice.between(0.06f, 0.14f), edge = radius * 0.12f;
        Dice shape(dice.seed()), again = shape;
        const PointF at = on.place();
        on.stain(WearKind::Stain, blob(at, radius, edge, 1.3f, shape, on.size()),
                 {0.93f, 0.86f, 0.72f});
        const Cover outer = blob(at, radius, edge, 1.3f, again, on.size());
        Cover rim{outer.box, 4 * outer.share.mul(1 - outer.share)};  // pigment gathers at the rim
        on.stain(WearKind::Stain, rim, {0.85f, 0.72f, 0.55f});
    }
    const PointF corner{dice.chance(0.5f) ? 0 : width,
                        dice.chance(0.5f) ? 0 : float(on.size().height)};
    on.lay(WearKind::Loss,
           blob(corner, width * dice.between(0.05f, 0.1f), 2, 1.4f, dice, on.size()),
           {0.955f, 0.95f, 0.94f}, 1);
}

void wearPrint(Bench& on, const WearPlan& plan) {
    Dice& dice = on.dice;
    const float unit = unitOf(on.size(), dice);
    if (plan.harm) wearHarm(on, plan, unit);
    const Manner manner = mannerOf(plan, dice.between(0.8f, 2.0f), 0.3f, dice);
    const float bare = 0.94f - 0.08f * departure(plan, dice),
                dirt = 0.13f + 0.12f * departure(plan, dice);
    for (int i = dice.count((10 + 22 * on.megapixels()) * plan.amount); i > 0; --i) {
        const bool light = dice.chance(0.65f);
        laySpeck(on, manner, {unit * 0.8f, unit * 7}, 1.8f, light ? bare : dirt, 0.03f);
    }
    wearCracks(on, plan, manner, unit);
    for (int i = largePieces(on, plan); i > 0; --i)
        layLarge(on, manner, unit, dice.chance(0.7f) ? bare : dirt);
}

/// Grain: normal noise with a little correlation, the same in all channels by half. With `variety`
/// as coarse as a fine scan shows it.
void layGrain(ImageF& picture, float deviation, float variety, std::uint32_t seed) {
    ImageF noise(picture.size(), picture.type());
    const int channels = picture.channels();
    for (int y = 0; y < picture.rows; ++y) {
        auto* n = noise.ptr<float>(y);
        for (int x = 0; x < picture.cols; ++x) {
            const float common = hashNormal(seed, x, y, 9);
            for (int c = 0; c < channels; ++c)
                n[x * channels + c] = 0.7f * common + 0.7f * hashNormal(seed, x, y, c);
        }
    }
    const float coarse = variety * hashUniform(seed, 0, 0, 10);
    cv::GaussianBlur(noise, noise, {}, 0.6 + 0.7 * double(coarse));
    // The blur takes half of it, a coarser one more.
    picture += noise * (deviation * 2.1f * (1 + 1.28f * coarse));
}

Mask mapOf(const std::vector<WearPiece>& pieces, const Size& size,
           const std::function<bool(WearKind)>& wanted) {
    Mask out(size, CV_8U, cv::Scalar(0));
    for (const auto& p : pieces)
        if (wanted(p.kind)) out(p.cover.box).setTo(255, p.cover.share > 0.15f);
    return out;
}

}  // namespace

Mask Worn::map(WearKind kind) const {
    return mapOf(pieces, clean.size(), [&](WearKind k) { return k == kind; });
}

Mask Worn::map() const {
    return mapOf(pieces, clean.size(), [](WearKind) { return true; });
}

void layScratch(Worn& worn, const std::vector<StrokePoint>& run, float tone, float opacity) {
    ImageF picture;
    worn.worn.convertTo(picture, CV_32F, 1.0 / 65535);
    Bench(picture, worn.pieces, 0)
        .lay(WearKind::Scratch, strokeCover(run, 1.4f, picture.size()), {tone, tone, tone},
             opacity);
    picture.convertTo(worn.worn, CV_16U, 65535);
}

Worn wear(const Image& clean, const WearPlan& plan) {
    ImageF picture;
    clean.convertTo(picture, CV_32F, 1.0 / 65535);
    // A sensor's noise is as fine as its pixels.
    const float coarse = plan.medium == Medium::Sensor ? 0 : plan.variety;
    if (plan.grain > 0) layGrain(picture, plan.grain, coarse, hash32(plan.seed, 3, 1));
    Worn out;
    picture.convertTo(out.clean, CV_16U, 65535);
    Bench bench(picture, out.pieces, plan.seed);
    switch (plan.medium) {
        case Medium::Sensor:
            wearSensor(bench, plan);
            break;
        case Medium::Print:
            wearPrint(bench, plan);
            break;
        default:
            wearFilm(bench, plan);
    }
    picture.convertTo(out.worn, CV_16U, 65535);
    return out;
}

std::string word(WearKind kind) {
    static const char* const words[] = {"shadow", "haze",   "speck",  "fibre", "scratch",
                                        "crack",  "crease", "foxing", "stain", "loss"};
    return words[size_t(kind)];
}

const std::vector<WearKind>& allWearKinds() {
    using enum WearKind;
    static const std::vector<WearKind> all{Shadow, Haze,   Speck,  Fibre, Scratch,
                                           Crack,  Crease, Foxing, Stain, Loss};
    return all;
}

}  // namespace gq::sim
