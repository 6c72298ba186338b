// Finding at defaults on own landscapes with simulated wear, for every origin.
#include <gtest/gtest.h>

#include <map>

#include "core/render/search.h"
#include "sim/infrared.h"
#include "sim/photo.h"
#include "sim/scene.h"
#include "sim/wear.h"
#include "tools/accuracy/score.h"

namespace gq {
namespace {

/// A landscape of a seed that nothing was trained on; each is drawn once.
const Image& landscape(std::uint32_t seed) {
    static std::map<std::uint32_t, Image> drawn;
    if (const auto known = drawn.find(seed); known != drawn.end()) return known->second;
    sim::View v;
    v.size = {1500, 1000};
    v.focal = 1500;
    v.yaw = 0.12f + 0.05f * float(seed % 5);
    v.tilt = 0.06f;
    v.cover = -0.1f;
    v.seed = seed;
    Image8 picture(v.size, CV_8UC3);
    sim::develop(sim::renderScene(v), {}, {.seed = seed}, Rect({0, 0}, v.size), picture);
    return drawn[seed] = widen(picture);
}

struct Wanted {
    find::Origin origin;
    sim::Medium medium;
    double recall, precision, wrong;  ///< bounds; wrong ones a megapixel, unworn
    bool infrared = false;            ///< the scan has a fourth channel
};

class EveryOrigin : public testing::TestWithParam<Wanted> {};

TEST_P(EveryOrigin, IsSearchedWithFewMissesAndFewMistakes) {
    const Wanted& wanted = GetParam();
    accuracy::Score worn, unworn;
    for (const std::uint32_t seed : {9101u, 9102u, 9103u}) {
        const Image& clean = landscape(seed);
        for (const float amount : {1.5f, 0.0f}) {
            const auto w = sim::wear(
                clean, {.medium = wanted.medium, .seed = seed, .amount = amount, .grain = 0.006f});
            files::LoadedPicture scan;
            scan.picture = {w.worn, 8};
            if (wanted.infrared) scan.extra = sim::infraredOf(w, sim::Stock::Colour, seed);
            auto found = render::search(scan, {}, {.origin = wanted.origin});
            ASSERT_TRUE(found);
            render::takeScratches(*found);
            EXPECT_TRUE(found->notes.empty());
            (amount > 0 ? worn : unworn).add(accuracy::score(found->findings, 0.5f, w));
        }
    }
    std::printf("recall %.3f of %d, precision %.3f, wrong a megapixel %.2f\n", worn.recall(),
                worn.all().asked, worn.precision(), unworn.wrongPerMegapixel());
    EXPECT_GT(worn.all().asked, 20);
    EXPECT_GE(worn.recall(), wanted.recall);
    EXPECT_GE(worn.precision(), wanted.precision);
    EXPECT_LE(unworn.wrongPerMegapixel(), wanted.wrong);
}

INSTANTIATE_TEST_SUITE_P(
    Accuracy, EveryOrigin,
    testing::Values(Wanted{find::Origin::Sensor, sim::Medium::Sensor, 0.5, 0.9, 0.7},
                    Wanted{find::Origin::Negative, sim::Medium::Negative, 0.85, 0.9, 1},
                    Wanted{find::Origin::Positive, sim::Medium::Positive, 0.85, 0.9, 1},
                    Wanted{find::Origin::Positive, sim::Medium::Positive, 0.97, 0.98, 0.3, true},
                    Wanted{find::Origin::Print, sim::Medium::Print, 0.85, 0.9, 1}));

}  // namespace
}  // namespace gq
