#include "core/carry/roll_lines.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::carry {
namespace {

const Size kSize(900, 600);

/// Four frames with a scratch along the film at `y` in the first `count`, swaying a little, and one
/// of its own elsewhere in each.
series::Series roll(float y, int count) {
    series::Series s;
    for (int i = 0; i < 4; ++i) {
        series::Frame f = testkit::frameOf("f" + std::to_string(i), kSize);
        const auto add = [&](float at) {
            find::Finding scratch;
            scratch.kind = find::Kind::Scratch;
            scratch.confidence = 0.4f;
            scratch.polarity = find::Polarity::Light;
            scratch.region = stroke({{10, at}, {880, at}}, 3, kSize);
            f.findings.push_back({s.nextId++, std::move(scratch), false, false});
        };
        if (i < count) add(y + float(i % 2));
        add(50 + 100 * float(i));
        s.frames.push_back(std::make_shared<const series::Frame>(std::move(f)));
    }
    return s;
}

int charted(const series::Series& s) {
    int n = 0;
    for (const auto& f : s.frames)
        for (const auto& e : f->findings) n += e.charted && e.finding.confidence > 0.8f;
    return n;
}

const std::vector<std::string> kAll{"f0", "f1", "f2", "f3"};

TEST(RollLines, ALineSharedByTheRollIsTiedTogetherAndSurer) {
    EXPECT_EQ(charted(withRollLines(roll(475, 4), kAll)), 4);
    EXPECT_EQ(charted(withRollLines(roll(475, 3), kAll)), 3);
}

TEST(RollLines, AFrameThatMissedTheLineButShowsItGetsIt) {
    Image worn = testkit::sky(kSize, 3);
    worn.row(477) *= 1.06;
    const auto shown = [&](bool line) {
        return withRollLines(roll(475, 3), kAll,
                             [&, line](const series::Frame&, std::stop_token) -> Result<Image> {
                                 return line ? worn : testkit::sky(kSize, 3);
                             });
    };
    const auto with = shown(true);
    const auto& findings = with.frames[3]->findings;
    ASSERT_EQ(findings.size(), 2u) << "its own and the roll's";
    EXPECT_TRUE(findings[1].charted);
    EXPECT_NEAR(findings[1].finding.region.centre().y, 477.5f, 1.5f);
    EXPECT_EQ(shown(false).frames[3]->findings.size(), 1u) << "nothing shows, nothing is added";
}

TEST(RollLines, APartLeadsToAllOthersAndAnOrdinaryScratchToItselfAlone) {
    const auto s = withRollLines(roll(475, 3), kAll);
    const auto parts = rollLineOf(s, "f1", s.frames[1]->findings[0].id);
    ASSERT_EQ(parts.size(), 3u);
    for (size_t i = 0; i < parts.size(); ++i) {
        EXPECT_EQ(parts[i].frame, s.frames[i]->id);
        EXPECT_EQ(parts[i].finding, s.frames[i]->findings[0].id);
    }
    const auto alone = rollLineOf(s, "f3", s.frames[3]->findings[0].id);
    ASSERT_EQ(alone.size(), 1u);
    EXPECT_EQ(alone[0].frame, "f3");
}

TEST(RollLines, PiecesOfOneFrameTellTogetherAndBecomeOneLine) {
    auto s = roll(475, 4);
    series::Frame broken = *s.frames[1];
    const auto piece = [&](float from, float to) {
        find::Finding out = broken.findings[0].finding;
        out.region = stroke({{from, 476}, {to, 476}}, 3, kSize);
        return out;
    };
    broken.findings.push_back({s.nextId++, piece(500, 720), false, false});
    broken.findings[0].finding = piece(60, 280);
    s = s.with(std::move(broken));
    EXPECT_EQ(charted(withRollLines(s, kAll)), 5) << "the pieces are tied as they are";

    Image worn = testkit::sky(kSize, 3);
    cv::line(worn, {0, 475}, {900, 477}, cv::Scalar::all(50000), 1, cv::LINE_AA);
    const auto shown = withRollLines(
        s, kAll, [&](const series::Frame&, std::stop_token) -> Result<Image> { return worn; });
    EXPECT_EQ(charted(shown), 4);
    const auto& line = shown.frames[1]->findings.back().finding.region;
    EXPECT_GT(line.box.width, 850);
    EXPECT_EQ(line.box.height, 5) << "three and the slant";
}

TEST(RollLines, DoubtfulLinesCountOnlyAsThoseOfTheRoll) {
    const auto lineAt = [](float y) {
        find::Finding f;
        f.kind = find::Kind::Scratch;
        f.polarity = find::Polarity::Dark;
        f.confidence = 0.9f;
        f.region = stroke({{10, y}, {880, y}}, 3, kSize);
        return f;
    };
    Doubtful doubtful;
    for (int i = 0; i < 4; ++i)
        doubtful["f" + std::to_string(i)] = {lineAt(300 + float(i)), lineAt(120 + 100 * float(i))};
    const auto s = withRollLines(roll(475, 2), kAll, {}, doubtful);
    EXPECT_EQ(charted(s), 4);
    for (int i = 0; i < 4; ++i) {
        const auto& last = s.frames[size_t(i)]->findings.back();
        EXPECT_TRUE(last.charted);
        EXPECT_NEAR(last.finding.region.centre().y, 300.0f + float(i), 1);
    }
    Doubtful across;
    for (int i = 0; i < 4; ++i) {
        find::Finding post = lineAt(300);
        post.region = stroke({{450, 10}, {450, 590}}, 3, kSize);
        across["f" + std::to_string(i)] = {post};
    }
    EXPECT_EQ(charted(withRollLines(roll(475, 2), kAll, {}, across)), 0) << "of a scene, likely";
    doubtful["f0"].clear();
    doubtful["f1"].clear();
    EXPECT_EQ(charted(withRollLines(roll(475, 2), kAll, {}, doubtful)), 0);
}

TEST(RollLines, WhatTwoFramesShareByChanceIsNot) {
    const auto s = withRollLines(roll(475, 2), kAll);
    EXPECT_EQ(charted(s), 0);
    EXPECT_FLOAT_EQ(s.frames[0]->findings[0].finding.confidence, 0.4f);
}

}  // namespace
}  // namespace gq::carry
