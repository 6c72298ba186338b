// What the bench draws over the picture: outlines, sources, before, the wipe.
#include <QPainterPath>
#include <QScreen>

#include "desk/look/convert.h"
#include "tests/desk/desk_kit.h"

namespace gq::desk {
namespace {

using testkit::kFrame;
using testkit::kSpots;
using testkit::onBench;
using testkit::press;

class Marks : public testkit::BenchTest {
  protected:
    /// What stands on the screen, however little of it was drawn last.
    QImage drawn() {
        testkit::settle(w());
        const QPoint at = bench().mapTo(&w(), QPoint());
        return w()
            .screen()
            ->grabWindow(w().winId(), at.x(), at.y(), bench().width(), bench().height())
            .toImage()
            .convertToFormat(QImage::Format_RGB32);
    }
    /// How many pixels of a box about a stored point two drawings differ in.
    int changed(const QImage& a, const QImage& b, PointF at, float radius) {
        const QPoint from = onBench(w(), at - PointF(radius, radius)),
                     to = onBench(w(), at + PointF(radius, radius));
        int n = 0;
        for (int y = from.y(); y <= to.y(); ++y)
            for (int x = from.x(); x <= to.x(); ++x) n += a.pixel(x, y) != b.pixel(x, y);
        return n;
    }
    /// Without marks and with them.
    std::pair<QImage, QImage> quietAndMarked() {
        press(w(), Qt::Key_Q);
        QImage quiet = drawn();
        press(w(), Qt::Key_Q);
        return {std::move(quiet), drawn()};
    }
    void touch(PointF at) {
        press(w(), Qt::Key_T);
        bench().setToolSize(34);
        click(at);
        press(w(), Qt::Key_V);
    }
};

TEST_F(Marks, FollowTheFindingsAndCanBeHidden) {
    press(w(), Qt::Key_F, Qt::ControlModifier);
    const auto [quiet, marked] = quietAndMarked();
    for (const auto& s : kSpots) EXPECT_GT(changed(quiet, marked, s.at, 30), 20) << s.at;
    EXPECT_EQ(changed(quiet, marked, {400, 600}, 60), 0) << "nothing was found there";
}

TEST_F(Marks, OfThousandsAreDotsUntilTheyAreLookedAt) {
    press(w(), Qt::Key_F, Qt::ControlModifier);
    series::Series s = *w().document().now();
    series::Frame f = *s.frames[0];
    for (int i = 0; i < 2000; ++i) {
        find::Finding one;
        one.region = disc(PointF(20 + float(i % 50) * 23, 20 + float(i / 50) * 19), 2, kFrame);
        one.kind = find::Kind::Speck;
        one.confidence = 0.9f;
        f.findings.push_back({s.nextId++, one, false, false});
    }
    const auto first = f.findings[f.findings.size() - 2000].id;
    w().document().commit(s.with(f), "specks");
    const PointF at(20 + 25 * 23, 20 + 20 * 19);
    const auto [quiet, marked] = quietAndMarked();
    const double side = 11 / bench().zoom();  // px of the screen: a dot fits in, ticks do not
    const int dot = changed(quiet, marked, at, float(side / 2));
    EXPECT_GT(dot, 8);
    EXPECT_LE(dot, 40);
    EXPECT_NE(w().crops().entry(first), nullptr) << "its row is in sight";
    bench().zoomTo(8, QPointF(onBench(w(), at)));
    const auto [calm, near] = quietAndMarked();
    EXPECT_GT(changed(calm, near, at, 5), 100) << "its outline and ticks";
}

TEST_F(Marks, OfManyMendsAtOnceEveryOneIsShownAndTakenBack) {
    series::Series s = *w().document().now();
    series::Frame f = *s.frames[0];
    for (int i = 0; i < 1200; ++i) {
        mend::Mend one;
        one.region = disc(PointF(20 + float(i % 48) * 24, 20 + float(i / 48) * 30), 3, kFrame);
        f.mends.push_back({s.nextId++, one, 0, false});
    }
    w().document().commit(s.with(f), "mends");
    const auto differs = [&](const Image& from) {
        cv::Mat apart;
        cv::absdiff(w().pictures().after().levels[0], narrow(from), apart);
        return cv::countNonZero(apart.reshape(1));
    };
    testkit::settle(w());
    EXPECT_EQ(differs(testkit::shown(w())), 0);
    EXPECT_GT(differs(w().pictures().original()), 1200) << "they are seen";
    w().document().undo();
    testkit::settle(w());
    EXPECT_EQ(differs(w().pictures().original()), 0);
}

TEST_F(Marks, ShowTheSourceOfTheChosenMendAndNoOther) {
    touch(kSpots[0].at);
    touch(kSpots[1].at);
    ASSERT_EQ(frame()->mends.size(), 2u);
    w().document().select(frame()->mends[0].id);
    testkit::settle(w());
    const auto source = [&](size_t i) {
        const auto& m = frame()->mends[i];
        const auto patch = w().pictures().patches().find(m.id);
        return PointF(m.mend.region.centre()) + PointF(patch->second->source);
    };
    const PointF first = source(0), second = source(1);
    ASSERT_GT(cv::norm(first - second), 80) << "told apart";
    const auto [quiet, marked] = quietAndMarked();
    EXPECT_GT(changed(quiet, marked, first, 24), 30) << "its own";
    w().document().selectMends({});
    testkit::settle(w());
    EXPECT_LT(changed(quiet, drawn(), first, 12), changed(quiet, marked, first, 12) / 3)
        << "gone with the selection";
}

TEST_F(Marks, StayWholeAfterAnotherMendAndOnAnotherZoom) {
    touch(kSpots[0].at);
    w().document().select(frame()->mends[0].id);
    testkit::settle(w());
    const auto before = quietAndMarked();
    const int at = changed(before.first, before.second, kSpots[0].at, 30);
    // A mend elsewhere redraws the picture; the chosen one's marks must not be cut.
    series::Series s = *w().document().now();
    series::Frame f = *frame();
    f.mends.push_back({s.nextId++, {disc({700, 600}, 14, testkit::kFrame)}});
    w().document().commit(s.with(f), "mend");
    w().document().select(frame()->mends[0].id);
    testkit::settle(w());
    const auto after = quietAndMarked();
    EXPECT_NEAR(changed(after.first, after.second, kSpots[0].at, 30), at, at / 10);
    bench().zoomTo(bench().zoom() * 3, bench().toWidget(kSpots[0].at));
    testkit::settle(w());
    const auto close = quietAndMarked();
    EXPECT_GT(changed(close.first, close.second, kSpots[0].at, 30), at)
        << "a line of the same width around a larger place";
}

TEST_F(Marks, TheOutlineOnScreenKeepsToTheRegion) {
    touch(kSpots[1].at);
    const Region& region = frame()->mends[0].mend.region;
    for (const double zoom : {0.5, 1.0, 3.0}) {
        const QPainterPath path = outline(region, 0.35 / zoom);
        const QRectF box = path.boundingRect();
        EXPECT_NEAR(box.left(), region.box.x, 1 / zoom);
        EXPECT_NEAR(box.right(), region.box.br().x, 1 / zoom);
        double inside = 0;
        for (int y = 0; y < region.box.height; ++y)
            for (int x = 0; x < region.box.width; ++x) {
                const QPointF p(region.box.x + x + 0.5, region.box.y + y + 0.5);
                inside += path.contains(p) == (region.mask.at<uchar>(y, x) != 0);
            }
        EXPECT_GT(inside / region.box.area(), 0.93) << "at zoom " << zoom;
    }
}

TEST_F(Marks, BeforeIsShownWhileItsKeyIsHeldAndBesideTheWipe) {
    touch(kSpots[1].at);
    press(w(), Qt::Key_Q);
    const auto tone = [&](const QImage& image, PointF at) {
        return qGreen(image.pixel(onBench(w(), at)));
    };
    const int after = tone(drawn(), kSpots[1].at);
    QTest::keyPress(&w(), Qt::Key_B);
    const int before = tone(drawn(), kSpots[1].at);
    QTest::keyRelease(&w(), Qt::Key_B);
    EXPECT_LT(before, after - 8) << "the shadow is back";
    EXPECT_EQ(tone(drawn(), kSpots[1].at), after);
    press(w(), Qt::Key_W);
    // The wipe stands in the middle: what is left of it is the picture before.
    ASSERT_LT(onBench(w(), kSpots[0].at).x(), bench().width() / 2);
    ASSERT_GT(onBench(w(), kSpots[2].at).x(), bench().width() / 2);
    QTest::mousePress(&bench(), Qt::LeftButton, {}, {bench().width() / 2, 200});
    const int right = onBench(w(), kSpots[1].at).x() + 60;
    QTest::mouseMove(&bench(), {right - 5, 200});
    QTest::mouseMove(&bench(), {right, 200});
    QTest::mouseRelease(&bench(), Qt::LeftButton, {}, {right, 200});
    EXPECT_EQ(tone(drawn(), kSpots[1].at), before) << "dragged past it";
}

}  // namespace
}  // namespace gq::desk
