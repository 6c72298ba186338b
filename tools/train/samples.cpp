#include "tools/train/samples.h"

#include <opencv2/imgproc.hpp>

#include "tools/accuracy/photographs.h"

namespace gq::train {

void Samples::add(const Samples& other) {
    features.insert(features.end(), other.features.begin(), other.features.end());
    labels.insert(labels.end(), other.labels.begin(), other.labels.end());
}

sim::Worn wornAtRandom(const Image& clean, sim::Medium medium, std::uint32_t seed) {
    sim::Dice dice(seed);
    Image pixels = clean;
    const double scale = dice.chance(0.5f) ? 1 : double(dice.between(0.5f, 1));
    if (scale < 1) cv::resize(clean, pixels, {}, scale, scale, cv::INTER_AREA);
    if (dice.chance(0.5f)) {
        Image mirrored;
        cv::flip(pixels, mirrored, 1);
        pixels = mirrored;
    }
    if (dice.chance(0.25f)) {
        const Image grey = accuracy::monochrome(pixels);
        cv::merge(std::vector<cv::Mat>{grey, grey, grey}, pixels);
    }
    sim::WearPlan plan{.medium = medium, .seed = dice.seed()};
    plan.amount = dice.chance(0.2f) ? 0 : dice.betweenLog(0.25f, 2);
    const bool sensor = medium == sim::Medium::Sensor;
    if (dice.chance(0.6f)) plan.grain = dice.betweenLog(0.003f, sensor ? 0.012f : 0.03f);
    return sim::wear(pixels, plan);
}

Samples samplesOf(const sim::Worn& worn, find::Origin origin) {
    Samples out;
    const Size size = worn.worn.size();
    const Mask wear = worn.map();
    const auto surveyed = find::survey({worn.worn, 8}, {.origin = origin});
    if (!surveyed) return out;
    for (const auto& s : *surveyed)
        for (size_t i = 0; i < s.regions.size(); ++i) {
            const Region region = find::fullSize(s.regions[i], s.level, size);
            if (region.empty()) continue;
            Mask on;
            cv::bitwise_and(wear(region.box), region.mask, on);
            const double share = cv::countNonZero(on) / double(region.area());
            if (share > 0.05 && share < 0.3) continue;
            out.features.push_back(s.described.features[i]);
            out.labels.push_back(share >= 0.3 ? 1.0f : 0.0f);
        }
    return out;
}

}  // namespace gq::train
