#include "core/carry/presence.h"

#include <gtest/gtest.h>

namespace gq::carry {
namespace {

std::string at(int minute) {
    return "2026:06:01 10:" + std::to_string(10 + minute) + ":00";
}

/// A grain that lay there in the first six of twelve frames, a minute each, by frames that see
/// well.
std::vector<Witness> gone() {
    std::vector<Witness> out;
    for (int i = 0; i < 12; ++i) out.push_back({at(i), i < 6 ? 8.0 : -8.0});
    return out;
}

TEST(Presence, IsToldByTheFramesNearInTime) {
    EXPECT_GT(presenceAt(gone(), at(2)), 2);
    EXPECT_LT(presenceAt(gone(), at(9)), -2);
    EXPECT_GT(presenceAt(gone(), "2026:05:31 18:00:00"), 1) << "before the first";
    EXPECT_LT(presenceAt(gone(), "2026:06:01 18:00:00"), -1) << "after the last";
}

TEST(Presence, FramesThatTellNothingLeaveItToThoseAround) {
    auto witnesses = gone();
    witnesses[1].told = witnesses[2].told = witnesses[3].told = 0.1;
    EXPECT_GT(presenceAt(witnesses, at(2)), 2);
    witnesses[8].told = witnesses[9].told = -0.1;
    EXPECT_LT(presenceAt(witnesses, at(9)), -2);
}

TEST(Presence, IsLessSureOnAnotherDay) {
    const std::vector<Witness> one{{at(0), 8}};
    const double sameDay = presenceAt(one, at(30)), later = presenceAt(one, "2026:06:05 10:00:00");
    EXPECT_GT(sameDay, later + 0.5);
    EXPECT_GT(later, 0);
}

TEST(Presence, FramesThatDoNotSayWhenCountAlike) {
    EXPECT_NEAR(presenceAt(gone(), ""), presenceAt({}, ""), 1e-9) << "as many for as against";
    EXPECT_GT(presenceAt({{"", 8}, {"", 8}, {"", -8}}, ""), 2);
    EXPECT_LT(presenceAt({{"", -8}, {"", -8}, {"", 1}}, ""), -2);
}

TEST(Presence, OfAChartedGrainIsLikelyAndNeverCertain) {
    EXPECT_GT(presenceAt({}, at(0)), 1);
    std::vector<Witness> many(100, {at(0), 50});
    EXPECT_LT(presenceAt(many, at(0)), 4);
}

}  // namespace
}  // namespace gq::carry
