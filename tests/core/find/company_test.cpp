#include "core/find/company.h"

#include <gtest/gtest.h>

namespace gq::find {
namespace {

Region block(int x, int y, int side) {
    return {Rect(x, y, side, side), Mask(side, side, CV_8U, cv::Scalar(255))};
}

/// One list of a survey with what a first judgement says of its candidates.
void add(std::vector<Surveyed>& survey, std::vector<FirstOdds>& first, int level,
         std::vector<std::pair<Region, float>> candidates) {
    Surveyed s;
    s.level = level;
    FirstOdds odds;
    for (auto& [region, value] : candidates) {
        s.regions.push_back(std::move(region));
        s.described.features.emplace_back();
        s.logOdds.push_back(value);
        odds.trees.push_back(value);
        odds.look.push_back(value);
        odds.taken.push_back(value);
    }
    survey.push_back(std::move(s));
    first.push_back(std::move(odds));
}

float of(const Reviewed& r, CompanyFeature f) {
    return r.features[size_t(kFeatureCount) + size_t(f)];
}

const Size kPicture(2000, 1000);

TEST(Company, KnowsTheSamePlaceOnOtherLevels) {
    std::vector<Surveyed> survey;
    std::vector<FirstOdds> first;
    add(survey, first, 0, {{block(100, 100, 20), 1}, {block(900, 500, 20), 0.5f}});
    add(survey, first, 1, {{block(48, 48, 16), 3}});  // 96..128 in full-size pixels
    const auto reviewed = companyOf(survey, first, kPicture);
    ASSERT_EQ(reviewed.size(), 3u);
    EXPECT_FLOAT_EQ(of(reviewed[0], CoarserOdds), 3);
    EXPECT_FLOAT_EQ(of(reviewed[0], CoarserShare), 1) << "it lies within the coarser one";
    EXPECT_NEAR(of(reviewed[0], CoarserLarger), 1.36, 0.02) << "log2(32*32 / 20*20)";
    EXPECT_LT(of(reviewed[0], FinerOdds), -7) << "nothing finer";
    EXPECT_FLOAT_EQ(of(reviewed[2], FinerOdds), 1);
    EXPECT_LT(of(reviewed[1], CoarserOdds), -7) << "too far away";
}

TEST(Company, CountsThoseAroundAndThoseOfThePicture) {
    std::vector<Surveyed> survey;
    std::vector<FirstOdds> first;
    add(survey, first, 0,
        {{block(500, 500, 10), 0},
         {block(540, 500, 10), 2},
         {block(600, 500, 10), 0.5f},
         {block(900, 500, 10), 4}});
    const auto reviewed = companyOf(survey, first, kPicture);
    EXPECT_FLOAT_EQ(of(reviewed[0], SurestAround), 2);
    EXPECT_FLOAT_EQ(of(reviewed[0], SurerAround), 2);
    EXPECT_FLOAT_EQ(of(reviewed[0], AlikeAround), 1);
    EXPECT_GT(of(reviewed[0], TrueAround), of(reviewed[0], TrueNear));
    EXPECT_FLOAT_EQ(of(reviewed[0], SurerOverall), 3 / 2.0f) << "three on two megapixels";
    EXPECT_FLOAT_EQ(of(reviewed[3], SurerOverall), 0);
}

TEST(Company, LeavesOutTheHopeless) {
    std::vector<Surveyed> survey;
    std::vector<FirstOdds> first;
    add(survey, first, 0, {{block(100, 100, 20), -6}, {block(110, 110, 20), -1}});
    const auto reviewed = companyOf(survey, first, kPicture);
    ASSERT_EQ(reviewed.size(), 1u);
    EXPECT_EQ(reviewed[0].candidate, 1u);
    EXPECT_LT(of(reviewed[0], SameLevelOdds), -7);
}

}  // namespace
}  // namespace gq::find
