#include "tools/train/samples.h"

#include <algorithm>
#include <limits>
#include <opencv2/imgcodecs.hpp>
#include <opencv2/imgproc.hpp>

#include "core/find/confidence.h"
#include "core/find/islands.h"
#include "core/find/long_scratches.h"
#include "core/find/stains.h"
#include "tools/accuracy/photographs.h"

namespace gq::train {

void Samples::add(std::span<const float> one, bool blemish) {
    width = one.size();
    features.insert(features.end(), one.begin(), one.end());
    labels.push_back(blemish ? 1.0f : 0.0f);
}

void Samples::add(const Samples& other) {
    width = std::max(width, other.width);
    features.insert(features.end(), other.features.begin(), other.features.end());
    labels.insert(labels.end(), other.labels.begin(), other.labels.end());
}

namespace {

/// Gives a picture what photographs rarely have and scans do: a margin of paper or bare film, a
/// ragged edge, plates and rules with crisp corners.
Image furnished(const Image& picture, sim::Dice& dice) {
    Image out = picture.clone();
    const auto tone = [&](float least, float most) {
        cv::Scalar t;
        const float v = dice.between(least, most), tint = dice.between(-0.25f, 0.25f);
        for (int c = 0; c < 3; ++c)
            t[c] = 65535.0 * double(std::clamp(v * (1 + tint * float(c - 1)), 0.0f, 1.0f));
        return t;
    };
    const auto [width, height] = out.size();
    if (dice.chance(0.4f))
        for (int i = dice.count(4); i > 0; --i) {
            const Rect plate(int(dice.between(0, 0.9f) * float(width)),
                             int(dice.between(0, 0.9f) * float(height)),
                             int(dice.betweenLog(0.01f, 0.3f) * float(width)),
                             int(dice.betweenLog(0.01f, 0.3f) * float(height)));
            cv::rectangle(out, plate, tone(0.05f, 0.9f), dice.chance(0.6f) ? -1 : 2);
        }
    if (dice.chance(0.5f)) {
        const int m = int(dice.between(0.01f, 0.06f) * float(width));
        const bool ragged = dice.chance(0.5f);
        const cv::Scalar paper = tone(0.5f, 0.95f), beyond = tone(0.0f, 0.2f);
        const std::uint32_t seed = dice.seed();
        cv::copyMakeBorder(out, out, m, m, m, m, cv::BORDER_CONSTANT, paper);
        for (int y = 0; y < out.rows && ragged; ++y)
            for (int x = 0; x < out.cols; ++x) {
                const int in = std::min({x, y, out.cols - 1 - x, out.rows - 1 - y});
                if (in > m) continue;
                const float wave = 3 * fractalNoise(seed, float(x) * 0.03f, float(y) * 0.03f, 3);
                if (float(in) + wave < 0.3f * float(m))
                    for (int c = 0; c < 3; ++c)
                        out.ptr<ushort>(y)[3 * x + c] = cv::saturate_cast<ushort>(beyond[c]);
            }
    }
    cv::GaussianBlur(out, out, {}, double(dice.between(0.4f, 0.9f)));
    return out;
}

Image grey(const Image& pixels) {
    Image out;
    const Image one = accuracy::monochrome(pixels);
    cv::merge(std::vector<cv::Mat>{one, one, one}, out);
    return out;
}

/// As an old print shows it: in one tone, on paper that has yellowed more or less, its darks warmer
/// or cooler than its lights.
Image inOneTone(const Image& pixels, sim::Dice& dice) {
    std::vector<cv::Mat> channels;
    const float yellow = dice.between(0, 0.3f), warmer = dice.between(-0.1f, 0.25f),
                white = dice.between(0.85f, 1);
    for (int c = 0; c < 3; ++c) {
        cv::Mat plane;
        accuracy::monochrome(pixels).convertTo(plane, CV_32F, 1.0 / 65535);
        cv::pow(plane, double(1 + warmer * float(c - 1)), plane);
        plane.convertTo(plane, CV_16U, 65535.0 * double(white - yellow * float(c) / 2));
        channels.push_back(plane);
    }
    Image out;
    cv::merge(channels, out);
    return out;
}

/// Lays things of other colours and tones over a picture: what is no stain and has an outline.
void strew(Image& picture, sim::Dice& dice) {
    const auto width = float(picture.cols), height = float(picture.rows);
    const float largest = dice.betweenLog(0.01f, 0.06f);
    for (int i = int(dice.betweenLog(2, 60)); i > 0; --i) {
        const Point at(int(dice.unit() * width), int(dice.unit() * height));
        const Size half(int(dice.betweenLog(0.004f, largest) * width),
                        int(dice.betweenLog(0.004f, largest) * width));
        const float tone = dice.betweenLog(0.08f, 0.9f);
        cv::Scalar colour;
        for (int c = 0; c < 3; ++c)
            colour[c] = 65535.0 * double(std::min(tone * dice.betweenLog(0.6f, 1.5f), 1.0f));
        cv::ellipse(picture, at, half, double(360 * dice.unit()), 0, 360, colour, -1, cv::LINE_AA);
    }
}

/// As a camera's or scanner's JPEG brings it.
Image compressed(const Image& pixels, int quality) {
    std::vector<uchar> file;
    cv::imencode(".jpg", narrow(pixels), file, {cv::IMWRITE_JPEG_QUALITY, quality});
    return widen(cv::imdecode(file, cv::IMREAD_UNCHANGED));
}

}  // namespace

bool isFilm(sim::Medium medium) {
    return medium == sim::Medium::Negative || medium == sim::Medium::Positive;
}

sim::Worn wornAtRandom(const Image& clean, sim::Medium medium, std::uint32_t seed, bool harm) {
    sim::Dice dice(seed);
    Image pixels = clean;
    const bool sensor = medium == sim::Medium::Sensor;
    // Film is scanned in all sizes.
    const double scale = isFilm(medium)
                             ? (dice.chance(0.3f) ? 1 : double(dice.betweenLog(0.25f, 1)))
                             : (dice.chance(0.4f) ? 1 : double(dice.between(0.4f, 1)));
    if (scale < 1) cv::resize(clean, pixels, {}, scale, scale, cv::INTER_AREA);
    if (dice.chance(0.5f)) {
        Image mirrored;
        cv::flip(pixels, mirrored, 1);
        pixels = mirrored;
    }
    const bool monochrome = dice.chance(sensor ? 0.25f : 0.3f),
               greyScan = !sensor && monochrome && dice.chance(0.4f);
    if (monochrome) pixels = grey(pixels);
    if (dice.chance(0.3f) && pixels.channels() == 3) pixels = furnished(pixels, dice);
    // Scans are finer than what their lens resolves.
    if (!sensor && dice.chance(0.3f)) {
        Image soft;  // `pixels` may still be `clean` itself
        cv::GaussianBlur(pixels, soft, {}, double(dice.between(0.5f, 1.4f)));
        pixels = soft;
    }
    sim::WearPlan plan{.medium = medium, .seed = dice.seed()};
    plan.amount = dice.chance(0.2f) ? 0 : dice.betweenLog(0.25f, sensor ? 5 : 2);
    if (dice.chance(0.6f)) plan.grain = dice.betweenLog(0.003f, sensor ? 0.012f : 0.03f);
    if (dice.chance(sensor ? 0.4f : 0.55f)) plan.variety = 1;
    plan.harm = harm;
    auto out = sim::wear(pixels, plan);
    if (greyScan) out.worn = grey(out.worn);  // dust has no colour there either
    if (dice.chance(sensor ? 0.25f : 0.3f))
        out.worn = compressed(out.worn, int(dice.between(sensor ? 82 : 75, 97)));
    return out;
}

sim::Worn stainedAtRandom(const Image& clean, std::uint32_t seed) {
    sim::Dice dice(seed);
    Image pixels = clean;
    if (const double scale = double(dice.between(0.4f, 1)); dice.chance(0.6f))
        cv::resize(clean, pixels, {}, scale, scale, cv::INTER_AREA);
    if (dice.chance(0.5f)) pixels = inOneTone(pixels, dice);
    if (dice.chance(0.25f)) strew(pixels = pixels.clone(), dice);
    sim::WearPlan plan{.medium = sim::Medium::Print, .seed = dice.seed(), .harm = true};
    plan.amount = dice.chance(0.25f) ? 0 : dice.betweenLog(0.25f, 2);
    if (dice.chance(0.6f)) plan.grain = dice.betweenLog(0.003f, 0.03f);
    if (dice.chance(0.5f)) plan.variety = 1;
    auto out = sim::wear(pixels, plan);
    if (dice.chance(0.3f)) out.worn = compressed(out.worn, int(dice.between(75, 97)));
    return out;
}

namespace {

/// A forest is surer of the pictures it was trained on: looks are taken further down than in use.
constexpr float kLeastOdds = -5;

enum class Truth { Blemish, Picture, Doubtful };

/// `small` lies in the picture halved `level` times.
Truth truthOf(const Region& small, int level, const Mask& wear) {
    const Region region = find::fullSize(small, level, wear.size());
    if (region.empty()) return Truth::Doubtful;
    Mask on;
    cv::bitwise_and(wear(region.box), region.mask, on);
    const double share = cv::countNonZero(on) / double(region.area());
    if (share >= 0.3) return Truth::Blemish;
    return share > 0.05 ? Truth::Doubtful : Truth::Picture;
}

}  // namespace

Lesson lessonOf(const sim::Worn& worn, find::Origin origin, const find::Forest* scout) {
    Lesson out;
    const Mask wear = worn.map();
    const find::LookRule rule{scout, scout ? kLeastOdds : std::numeric_limits<float>::infinity()};
    const auto surveyed = find::survey(worn.worn, {.origin = origin}, {}, {}, {}, rule);
    if (!surveyed) return out;
    for (const auto& s : *surveyed) {
        size_t look = 0;
        for (size_t i = 0; i < s.regions.size(); ++i) {
            const bool looked = look < s.looked.size() && s.looked[look] == i;
            const size_t at = looked ? look++ : 0;
            const Truth truth = truthOf(s.regions[i], s.level, wear);
            if (truth == Truth::Doubtful) continue;
            const bool blemish = truth == Truth::Blemish;
            out.samples.add(s.described.features[i], blemish);
            if (!looked) continue;
            out.looks.looks.push_back(s.looks[at]);
            out.looks.labels.push_back(blemish ? 1 : 0);
        }
    }
    return out;
}

Samples reviewSamplesOf(const sim::Worn& worn, find::Origin origin, const FirstJudge& first) {
    Samples out;
    const Mask wear = worn.map();
    const auto surveyed =
        find::survey(worn.worn, {.origin = origin}, {}, {}, {}, {.forest = &first.forest});
    if (!surveyed) return out;
    const auto odds = find::firstOdds(*surveyed, first.network);
    for (const auto& r : find::companyOf(*surveyed, odds, worn.worn.size())) {
        const auto& s = (*surveyed)[r.list];
        const Truth truth = truthOf(s.regions[r.candidate], s.level, wear);
        if (truth == Truth::Doubtful || !find::reviewFor(origin, s.polarity)) continue;
        out.add(r.features, truth == Truth::Blemish);
    }
    return out;
}

Samples islandSamplesOf(const sim::Worn& worn, find::Origin origin) {
    Samples out;
    const Mask wear = worn.map();
    for (const auto polarity : find::polaritiesOf({.origin = origin})) {
        const auto islands = find::islandsOf(worn.worn, polarity);
        for (const auto& island : islands.all) {
            const Truth truth = truthOf(island.region, islands.level, wear);
            if (truth != Truth::Doubtful) out.add(island.features, truth == Truth::Blemish);
        }
    }
    return out;
}

namespace {

/// Where lines are worn, and the places next to them, which a faint line's course may touch only.
Mask wornLines(const sim::Worn& worn, int beside) {
    using enum sim::WearKind;
    Mask out(worn.worn.size(), CV_8U, cv::Scalar(0));
    for (const auto kind : {Fibre, Scratch, Crack, Crease})
        cv::bitwise_or(out, worn.map(kind), out);
    const int side = 2 * beside + 1;
    cv::dilate(out, out, cv::getStructuringElement(cv::MORPH_ELLIPSE, {side, side}));
    return out;
}

}  // namespace

Samples lineSamplesOf(const sim::Worn& worn, find::Origin origin) {
    Samples out;
    for (const auto polarity : find::polaritiesOf({.origin = origin})) {
        const auto lines = find::longLinesOf(worn.worn, polarity);
        if (lines.all.empty()) continue;
        const Mask wear = wornLines(worn, 2 << lines.level);
        for (const auto& line : lines.all) {
            const Truth truth = truthOf(line.region, lines.level, wear);
            if (truth != Truth::Doubtful) out.add(line.features, truth == Truth::Blemish);
        }
    }
    return out;
}

Samples stainSamplesOf(const sim::Worn& worn) {
    Samples out;
    Mask wear = worn.map(sim::WearKind::Stain);
    cv::bitwise_or(wear, worn.map(sim::WearKind::Foxing), wear);
    const auto places = find::tintedPlaces(worn.worn, {});
    for (const auto& place : places.all) {
        const Truth truth = truthOf(place.region, places.level, wear);
        if (truth != Truth::Doubtful) out.add(place.features, truth == Truth::Blemish);
    }
    return out;
}

}  // namespace gq::train
