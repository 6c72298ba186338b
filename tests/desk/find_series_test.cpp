// Whole series searched in the window, and how Find lets the picture be looked at.
#include <QAction>
#include <QComboBox>
#include <fstream>
#include <opencv2/imgproc.hpp>

#include "core/find/hazes.h"
#include "tests/desk/desk_kit.h"

namespace gq::desk {
namespace {

using testkit::clickButton;
using testkit::kFrame;
using testkit::onBench;
using testkit::press;
using testkit::settle;
using Spots = std::vector<gq::testkit::Spot>;

class FindSeries : public testing::Test {
  protected:
    /// A window in Find on pictures that are made one by one.
    template <class Make>
    void open(int count, Make make) {
        std::filesystem::create_directories(dir / "s");
        for (int i = 0; i < count; ++i)
            gq::testkit::write(dir / "s" / ("S-" + std::to_string(i + 1) + ".jpg"), make(i), 8);
        window = testkit::windowOn(dir / "s");
    }
    void trigger(const char* id) {
        auto* action = w().findChild<QAction*>(id);
        ASSERT_NE(action, nullptr) << id;
        action->trigger();
        settle(w());
    }
    void searchAll() {
        w().setStage(Stage::Find);
        settle(w());
        clickButton(w(), "findSeries");
        settle(w());
    }
    /// Five frames of a sensor with `kSpots`.
    void openDusty() {
        open(5, [](int i) {
            return gq::testkit::dusty(gq::testkit::sky(kFrame, std::uint32_t(i + 1)),
                                      testkit::kSpots);
        });
    }
    /// Mends all of the second frame; true if the shadows at `kSpots` are divided out.
    bool dividesThemOut() {
        press(w(), Qt::Key_PageDown);
        press(w(), Qt::Key_M, Qt::ControlModifier);
        const auto mends = w().document().current()->mends;
        return std::ranges::all_of(testkit::kSpots, [&](const auto& spot) {
            return std::ranges::any_of(mends, [&](const auto& m) {
                return m.mend.method == mend::Method::Unshade &&
                       m.mend.region.contains(Point(spot.at));
            });
        });
    }
    MainWindow& w() { return *window; }
    /// What is found above the line at a place of a frame.
    const series::FindingEntry* at(size_t frame, PointF place) {
        for (const auto& f : w().document().now()->frames[frame]->findings)
            if (series::proposed(f, w().document().line()) &&
                f.finding.region.contains({int(place.x), int(place.y)}))
                return &f;
        return nullptr;
    }
    gq::testkit::Scratch dir;
    std::unique_ptr<MainWindow> window;
};

TEST_F(FindSeries, WhatTheFramesTellOfADustySensorIsDividedOut) {
    openDusty();
    searchAll();
    EXPECT_TRUE(dividesThemOut());
    const Mask dust = gq::testkit::maskOf(testkit::kSpots, kFrame, 1.0f);
    const Image clean = gq::testkit::sky(kFrame, 2);
    EXPECT_GT(gq::testkit::psnr(testkit::shown(w()), clean, dust),
              gq::testkit::psnr(w().pictures().original(), clean, dust) + 10);
}

TEST_F(FindSeries, WhatTheFramesToldOfTheirSensorIsKnownAfterReopening) {
    openDusty();
    searchAll();
    window.reset();
    window = testkit::windowOn(dir / "s");
    w().setStage(Stage::Find);
    EXPECT_TRUE(dividesThemOut());
    press(w(), Qt::Key_PageDown);
    press(w(), Qt::Key_F, Qt::ControlModifier);  // the third frame by itself
    for (const auto& spot : testkit::kSpots) {
        const auto* found = at(2, spot.at);
        ASSERT_NE(found, nullptr) << spot.at;
        EXPECT_TRUE(found->charted) << "in the light of the others";
    }
}

TEST_F(FindSeries, ADamagedChartIsSaidAndTheSeriesOpensWithoutIt) {
    openDusty();
    searchAll();
    window.reset();
    std::ofstream(dir / "s" / "gentle-quill" / "charts" / "1.json") << "damaged";
    window = testkit::windowOn(dir / "s");
    EXPECT_TRUE(w().notice().contains("1.json")) << w().notice().toStdString();
    EXPECT_EQ(w().document().now()->frames.size(), 5u);
    w().setStage(Stage::Find);
    EXPECT_FALSE(dividesThemOut()) << "they are healed";
    EXPECT_FALSE(w().document().current()->mends.empty());
}

TEST_F(FindSeries, PrintsOfOneFlatbedAreSearchedForTheGrainsOfItsGlass) {
    const Spots glass{{{300, 200}, 5, 0.6f}, {{700, 500}, 6, 0.6f}};
    const auto own = [](int i) { return PointF(200.0f + 250.0f * float(i), 650); };
    open(3, [&](int i) {
        Spots all = glass;
        all.push_back({own(i), 6, 0.6f});
        return gq::testkit::specked(gq::testkit::sky(kFrame, std::uint32_t(i + 1)) * 0.6, all);
    });
    auto* origin = [&]() -> QComboBox* {
        for (auto* box : w().findChildren<QComboBox*>())
            if (box->findText("Print") >= 0 && box->isVisible()) return box;
        return nullptr;
    }();
    ASSERT_NE(origin, nullptr);
    origin->setFocus();
    for (int i = 0; i < 4 && w().document().now()->plan.origin != find::Origin::Print; ++i) {
        QTest::keyClick(origin, Qt::Key_Down);
        settle(w());
    }
    ASSERT_EQ(w().document().now()->plan.origin, find::Origin::Print);
    searchAll();
    for (size_t i = 0; i < 3; ++i) {
        for (const auto& grain : glass) {
            ASSERT_TRUE(at(i, grain.at)) << i << ' ' << grain.at;
            EXPECT_TRUE(at(i, grain.at)->charted) << "the other scans show it there too";
        }
        ASSERT_TRUE(at(i, own(int(i)))) << i;
        EXPECT_FALSE(at(i, own(int(i)))->charted) << "the print's own";
    }
}

TEST_F(FindSeries, AMarkOnTheLensIsOneFindingTiedToAllFrames) {
    const PointF mark(500, 300);
    open(5, [&](int i) {
        Image out = gq::testkit::sky(kFrame, std::uint32_t(i + 1));
        for (int y = 0; y < out.rows; ++y)
            for (int x = 0; x < out.cols; ++x) {
                const double d = std::hypot(x - double(mark.x), y - double(mark.y)) / 55;
                auto& v = out.at<cv::Vec<ushort, 3>>(y, x);
                v *= 1 - 0.06 * std::exp(-d * d * d * d);
            }
        return out;
    });
    searchAll();
    for (size_t i = 0; i < 5; ++i) {
        const auto* f = at(i, mark);
        ASSERT_TRUE(f) << i;
        EXPECT_TRUE(f->charted);
        EXPECT_TRUE(find::isHaze(f->finding, kFrame));
    }
}

/// Sky above, grass below, a spot in each.
Image halfAndHalf() {
    Image out = gq::testkit::sky(kFrame);
    const Rect ground(0, 400, 1200, 400);
    gq::testkit::grass(kFrame)(ground).copyTo(out(ground));
    return gq::testkit::dusty(out, {{{400, 200}, 9, 0.3f}, {{800, 600}, 9, 0.75f}});
}

TEST_F(FindSeries, SmoothAreasOnlyAreTheBoundsOfASearch) {
    open(1, [](int) { return halfAndHalf(); });
    trigger("smoothOnly");
    const auto guides = w().document().current()->guides;
    ASSERT_TRUE(guides);
    const auto share = [&](const Rect& box) { return cv::mean(guides->bounds(box))[0] / 255; };
    EXPECT_GT(share({20, 20, 260, 60}), 0.9) << "the sky";
    EXPECT_LT(share({20, 120, 260, 60}), 0.1) << "the grass";
    w().setStage(Stage::Find);
    press(w(), Qt::Key_F, Qt::ControlModifier);
    EXPECT_TRUE(at(0, {400, 200}));
    EXPECT_FALSE(at(0, {800, 600}));
    trigger("clearGuides");
    EXPECT_FALSE(w().document().current()->guides &&
                 !w().document().current()->guides->bounds.empty());
}

TEST_F(FindSeries, TheSoughtLightShowsASpotAlikeInSkyAndGrass) {
    open(1, [](int) { return halfAndHalf(); });
    w().setStage(Stage::Find);
    settle(w());
    const auto toneAt = [&](PointF place) {
        const QImage shown = w().bench().grab().toImage();
        const double k = w().bench().devicePixelRatioF();
        return qGray(shown.pixel((QPointF(onBench(w(), place)) * k).toPoint()));
    };
    const auto stands = [&](PointF spot, PointF beside) {
        return std::abs(toneAt(spot) - toneAt(beside));
    };
    const int plain = stands({400, 200}, {460, 200});
    trigger("sought");
    const int sky = stands({400, 200}, {460, 200});
    EXPECT_GT(sky, plain + 20);
    EXPECT_GT(stands({800, 600}, {860, 600}), sky / 2);
    EXPECT_EQ(w().document().current()->mends.size(), 0u) << "it changes the view alone";
}

}  // namespace
}  // namespace gq::desk
