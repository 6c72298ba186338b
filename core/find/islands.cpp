#include "core/find/islands.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <optional>

#include "core/find/believed.h"
#include "core/find/broad_marks.h"
#include "core/find/tears.h"
#include "core/pixels/color.h"
#include "core/pixels/parallel.h"
#include "core/pixels/quantile.h"

namespace gq::find {
namespace {

constexpr int kSide = 1800;      ///< px, of half the longer side at most
constexpr int kLeast = 9;        ///< flat px in it
constexpr double kMost = 0.003;  ///< of the picture's area
constexpr int kLarge = 2500;     ///< px of area from which an outline tells straight cuts
constexpr float kLeastStep = 0.04f, kLeastRim = 0.01f;  ///< of tone
constexpr int kAround = 8;                              ///< px
/// On prints; a straight bar is over it from 22 times as long as wide: a hand, a mast.
constexpr float kMostRagged = 7;
/// Doors, windows and gables are as flat and as large, px; to wipe one out is worse than to leave a
/// flake that is not plain: off the log odds besides, on prints.
constexpr int kDoor = 250;
constexpr float kDoubtOfDoors = 2;

/// How often tones are at most so light, for all of a picture.
class Tones {
  public:
    explicit Tones(const ImageF& plane) {
        for (int y = 0; y < plane.rows; ++y)
            for (int x = 0; x < plane.cols; ++x) ++m_upTo[bin(plane.at<float>(y, x))];
        for (size_t i = 1; i < kBins; ++i) m_upTo[i] += m_upTo[i - 1];
    }
    /// Share of the picture with tones over `from` and up to `to`.
    [[nodiscard]] float share(float from, float to) const {
        return float(m_upTo[bin(to)] - m_upTo[bin(from)]) / float(m_upTo[kBins - 1]);
    }

  private:
    static constexpr size_t kBins = 1024;
    static size_t bin(float tone) { return size_t(std::clamp(tone, 0.0f, 1.0f) * (kBins - 1)); }
    std::array<std::int64_t, kBins> m_upTo{};
};

/// A picture as islands are sought in it: as if they were light.
struct Sea {
    const Image& pixels;
    bool dark;
    ImageF plane;  ///< luma, 0..1
    ImageF deviation;
    Tones tones;

    /// Stopped: of no use.
    Sea(const Image& from, bool isDark, std::stop_token stop)
        : pixels(from),
          dark(isDark),
          plane(lightened(from, isDark)),
          deviation(stop.stop_requested() ? plane : Calm(plane, 3).deviation),
          tones(stop.stop_requested() ? ImageF() : plane) {}
    [[nodiscard]] float tone(int y, int x, int channel) const {
        const float v = float(pixels.ptr<ushort>(y)[x * pixels.channels() + channel]) / 65535;
        return dark ? 1 - v : v;
    }
    /// Where it is so calm that it may be an island's inside.
    [[nodiscard]] Mask flat() const {
        std::vector<float> some;
        for (int y = 0; y < deviation.rows; y += 2)
            for (int x = 0; x < deviation.cols; x += 2) some.push_back(deviation.at<float>(y, x));
        constexpr float kFibre = 0.012f, kFlattest = 0.03f;
        return deviation < std::min(1.5f * quantile(std::move(some), 0.05) + kFibre, kFlattest);
    }

  private:
    static ImageF lightened(const Image& from, bool isDark) {
        ImageF out = luma(from);
        if (isDark) cv::subtract(1.0, out, out);
        return out;
    }
};

/// Tones and deviations of some places.
struct Sample {
    std::vector<float> tones, deviations;
    std::array<std::vector<float>, 3> channels;

    void add(const Sea& sea, int y, int x) {
        tones.push_back(sea.plane.at<float>(y, x));
        deviations.push_back(sea.deviation.at<float>(y, x));
        for (int c = 0; c < sea.pixels.channels(); ++c)
            channels[size_t(c)].push_back(sea.tone(y, x, c));
    }
    /// From the 10th to the 90th of a hundred, of the channel that varies most.
    [[nodiscard]] float spread() const {
        float out = 0;
        for (const auto& c : channels)
            if (!c.empty()) out = std::max(out, quantile(c, 0.9) - quantile(c, 0.1));
        return out;
    }
};

/// What lies in an island and around it.
struct Places {
    Sample inside, around;
    std::vector<float> rim;  ///< tones
    float depth = 0;         ///< of the largest disc inside, px

    Places(const Sea& sea, const Region& island) {
        const Region wide = grown(island, kAround, sea.plane.size());
        Mask own(wide.box.size() + Size(2, 2), CV_8U, cv::Scalar(0));
        island.mask.copyTo(
            own(Rect(island.box.tl() - wide.box.tl() + Point(1, 1), island.box.size())));
        cv::Mat in, out;
        cv::distanceTransform(own, in, cv::DIST_L2, 3);
        cv::distanceTransform(own == 0, out, cv::DIST_L2, 3);
        for (int y = 0; y < wide.box.height; ++y)
            for (int x = 0; x < wide.box.width; ++x) {
                const float deep = in.at<float>(y + 1, x + 1), away = out.at<float>(y + 1, x + 1);
                const int atY = wide.box.y + y, atX = wide.box.x + x;
                depth = std::max(depth, deep);
                if (deep > 1.5f) inside.add(sea, atY, atX);
                if (away > 2 && away <= kAround) around.add(sea, atY, atX);
                if (away > 1.2f && away <= 2.5f) rim.push_back(sea.plane.at<float>(atY, atX));
            }
    }
};

/// Share of thrice an island's box, itself left out, that is as light.
float alikeAround(const Sea& sea, const Region& island, float tone) {
    const auto [x, y, width, height] = island.box;
    const Rect box =
        Rect(x - width, y - height, 3 * width, 3 * height) & Rect({0, 0}, sea.plane.size());
    const int alike = cv::countNonZero(sea.plane(box) > tone - 0.02f);
    return float(alike - island.area()) / float(box.area());
}

void describeShape(const Region& island, float depth, const Size& size, IslandFeatures& f) {
    const float area = float(island.area());
    std::vector<std::vector<Point>> outlines;
    cv::findContours(island.mask.clone(), outlines, cv::RETR_EXTERNAL, cv::CHAIN_APPROX_NONE);
    double length = 0, hulls = 0;
    for (const auto& outline : outlines) {
        std::vector<Point> hull;
        cv::convexHull(outline, hull);
        length += cv::arcLength(outline, true), hulls += cv::contourArea(hull);
    }
    const Rect inner(2, 2, size.width - 4, size.height - 4);
    f[IslandArea] = std::log(area);
    f[IslandDepth] = depth;
    f[IslandRoundness] = depth * depth * float(CV_PI) / area;
    f[IslandRaggedness] = float(length * length / (4 * CV_PI)) / area;
    f[IslandFill] = area / std::max(1.0f, float(hulls));
    f[IslandAtEdge] = (island.box & inner) == island.box ? 0 : 1;
}

/// Nothing for what is no island after all.
std::optional<Island> islandAt(const Sea& sea, const Region& flat) {
    Island out;
    out.region = closed(grown(flat, 1, sea.plane.size()));
    const int area = out.region.area();
    if (area > 1.6 * flat.area() + 150) return {};                   // a ring around something else
    if (area > kLarge && straightCut(out.region) > kCut) return {};  // a sheet, a window
    const Places places(sea, out.region);
    const auto& [inside, around, rim, depth] = places;
    if (inside.tones.empty() || around.tones.empty() || rim.empty()) return {};
    const float tone = medianOf(inside.tones), step = tone - medianOf(around.tones);
    if (step < kLeastStep || tone - quantile(rim, 0.9) < kLeastRim) return {};
    auto& f = out.features;
    f[IslandStep] = 0;
    for (int c = 0; c < sea.pixels.channels(); ++c) {
        const auto &own = inside.channels[size_t(c)], &other = around.channels[size_t(c)];
        f[IslandStep] = std::max(f[IslandStep], std::abs(medianOf(own) - medianOf(other)));
        f[IslandColour] = std::max(f[IslandColour], std::abs(medianOf(own) - tone));
    }
    f[IslandSpread] = inside.spread();
    f[IslandSpreadOfStep] = f[IslandSpread] / step;
    f[IslandRestless] = quantile(inside.deviations, 0.9);
    f[AroundSpread] = around.spread();
    f[AroundRestless] = medianOf(around.deviations);
    f[IslandTone] = tone;
    f[LighterOverall] = sea.tones.share(tone + 0.015f, 1);
    f[AlikeOverall] = sea.tones.share(tone - 0.015f, tone + 0.015f);
    f[LightAround] = alikeAround(sea, out.region, tone);
    f[RimLeast] = tone - quantile(rim, 0.95);
    f[RimLow] = tone - quantile(rim, 0.8);
    f[RimMiddle] = tone - medianOf(rim);
    f[RimLowOfStep] = f[RimLow] / step;
    f[RimMiddleOfStep] = f[RimMiddle] / step;
    f[IslandDark] = sea.dark ? 1 : 0;
    describeShape(out.region, depth, sea.plane.size(), f);
    out.noise = medianOf(inside.deviations);
    out.region = grown(out.region, 1, sea.plane.size());  // its edge is soft
    return out;
}

Finding flakeOf(const Island& island, int level, const Size& picture, Polarity polarity) {
    constexpr float kLeastNoise = 0.002f;
    const auto& f = island.features;
    Finding out = markOf(island.region, level, picture, Kind::Speck, polarity, f[IslandStep]);
    out.measures.ring = f[AroundSpread] / f[IslandStep];
    out.measures.noise = std::max(island.noise, kLeastNoise);
    out.measures.peak = f[IslandStep] / out.measures.noise;
    return out;
}

}  // namespace

Islands islandsOf(const Scales& picture, Polarity polarity, std::stop_token stop) {
    const Coarse at = coarse(picture, kSide);
    Islands out{at.level, {}};
    if (std::min(at.pixels.cols, at.pixels.rows) < 2 * kAround) return out;
    const Sea sea(at.pixels, polarity == Polarity::Dark, stop);
    if (stop.stop_requested()) return out;
    const Mask calm = sea.flat();
    if (stop.stop_requested()) return out;
    std::vector<Region> flat = pieces(calm);
    std::erase_if(flat, [&](const Region& r) {
        const int area = r.area();
        return area < kLeast || area > kMost * double(sea.plane.total());
    });
    std::vector<std::optional<Island>> seen(flat.size());
    forEach(
        int(flat.size()), [&](int i) { seen[size_t(i)] = islandAt(sea, flat[size_t(i)]); }, stop);
    for (auto& island : seen)
        if (island) out.all.push_back(std::move(*island));
    return out;
}

std::vector<Finding> flakes(const Scales& picture, Origin origin, Polarity polarity, float least,
                            std::stop_token stop) {
    const Forest* forest = islandForestFor(origin);
    if (!forest) return {};
    Islands islands = islandsOf(picture, polarity, stop);
    if (origin == Origin::Print)
        std::erase_if(islands.all,
                      [](const Island& i) { return i.features[IslandRaggedness] > kMostRagged; });
    auto out = believed(islands.all, *forest, kDoubt, least, [&](const Island& island) {
        return flakeOf(island, islands.level, picture.size(), polarity);
    });
    if (origin == Origin::Print)
        for (auto& f : out)
            if (f.region.area() > kDoor)
                f.confidence = probability(logOdds(f.confidence) - kDoubtOfDoors);
    return out;
}

}  // namespace gq::find
