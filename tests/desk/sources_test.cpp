// Where a mend's texture comes from, and how it is laid: by key, by the box, by the pen.
#include <QPointingDevice>
#include <QTabletEvent>

#include "tests/desk/desk_kit.h"

namespace gq::desk {
namespace {

using testkit::kSpots;
using testkit::onBench;
using testkit::press;
using testkit::settle;

class Sources : public testkit::BenchTest {
  protected:
    /// A clone with a hard edge over the first spot, from `by` beside it.
    void cloneFrom(PointF by) {
        press(w(), Qt::Key_T);
        bench().setToolSize(40);
        click(kSpots[0].at);
        auto* method = w().findChild<QComboBox*>("method");
        method->setCurrentIndex(int(mend::Method::Clone));
        emit method->activated(int(mend::Method::Clone));
        slide("Softness", 0);
        const QPoint at = onBench(w(), region().centre() + by);
        QTest::mouseMove(&bench(), at + QPoint(9, 9));
        QTest::mouseMove(&bench(), at);
        press(w(), Qt::Key_F);
        ASSERT_TRUE(mend().source);
    }
    const mend::Mend& mend() { return frame()->mends[0].mend; }
    const Region& region() { return mend().region; }
    Point middle() { return {int(region().centre().x), int(region().centre().y)}; }
    /// Mean difference of the place from the original, whose pixel `from` tells for each of its
    /// own.
    template <class From>
    double differs(From from) {
        const Image now = testkit::shown(w()), was = w().pictures().original();
        double sum = 0;
        int n = 0;
        for (int y = -8; y <= 8; ++y)
            for (int x = -8; x <= 8; ++x, ++n) {
                const Point at = middle() + Point(x, y);
                sum += std::abs(double(now.at<cv::Vec3w>(at)[1]) -
                                double(was.at<cv::Vec3w>(from(x, y))[1]));
            }
        return sum / n;
    }
    void tick(const char* words) {
        for (auto* box : w().findChildren<QCheckBox*>())
            if (box->text() == words && box->isVisible()) {
                QTest::mouseClick(box, Qt::LeftButton, {}, QPoint(8, box->height() / 2));
                settle(w());
                return;
            }
        FAIL() << words << " is not shown";
    }
};

TEST_F(Sources, AreTakenFromUnderThePointerByAKey) {
    cloneFrom({150, 80});
    EXPECT_NEAR(mend().source->x, 150, 2);
    EXPECT_NEAR(mend().source->y, 80, 2);
    const Point source = middle() + *mend().source;
    EXPECT_EQ(differs([&](int x, int y) { return source + Point(x, y); }), 0) << "to the bit";
    press(w(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_FALSE(mend().source) << "one step";
}

TEST_F(Sources, AreMirroredByTheBox) {
    cloneFrom({150, 80});
    tick("Mirrored");
    ASSERT_TRUE(mend().turn.mirrored);
    const Rect box = region().box;
    const double mirrored = differs([&](int x, int y) {
        return Point(2 * box.x + box.width - 1 - (middle().x + x), middle().y + y) + *mend().source;
    });
    EXPECT_LT(mirrored, 2) << "left and right are exchanged";
}

TEST_F(Sources, AreScaledAndTurnedByTheBox) {
    cloneFrom({150, 80});
    const auto sampled = [&](float scale, float degrees) {
        const Rect box = region().box;
        const PointF centre(float(box.x) + float(box.width - 1) / 2,
                            float(box.y) + float(box.height - 1) / 2);
        const float a = -degrees * float(M_PI) / 180;
        return differs([=, this](int x, int y) {
            const PointF d = (PointF(middle() + Point(x, y)) - centre) / scale;
            const PointF s = centre + PointF(*mend().source) +
                             PointF(std::cos(a) * d.x - std::sin(a) * d.y,
                                    std::sin(a) * d.x + std::cos(a) * d.y);
            return Point(cvRound(s.x), cvRound(s.y));
        });
    };
    EXPECT_EQ(sampled(1, 0), 0);
    slide("Scale", 125);
    EXPECT_FLOAT_EQ(mend().turn.scale, 1.25f);
    EXPECT_LT(sampled(1.25f, 0), sampled(1, 0)) << "the source is enlarged by a quarter";
    slide("Scale", 100);
    slide("Turn", 90);
    EXPECT_FLOAT_EQ(mend().turn.degrees, 90);
    EXPECT_LT(sampled(1, 90), 2) << "a quarter turn is exact";
    slide("Turn", 0);
    EXPECT_EQ(sampled(1, 0), 0);
}

TEST_F(Sources, PressureOfAPenThinsAStroke) {
    press(w(), Qt::Key_T);
    bench().setToolSize(60);
    const QPoint at = onBench(w(), {400, 600});
    const auto pen = [&](QEvent::Type type, double pressure) {
        QTabletEvent e(type, QPointingDevice::primaryPointingDevice(), at, bench().mapToGlobal(at),
                       pressure, 0, 0, 0, 0, 0, Qt::NoModifier, Qt::LeftButton, Qt::LeftButton);
        QApplication::sendEvent(&bench(), &e);
    };
    pen(QEvent::TabletPress, 0.5);
    QTest::mouseClick(&bench(), Qt::LeftButton, {}, at);
    pen(QEvent::TabletRelease, 0);
    settle(w());
    click({700, 600});
    ASSERT_EQ(frame()->mends.size(), 2u);
    const auto width = [&](size_t i) { return frame()->mends[i].mend.region.box.width; };
    EXPECT_NEAR(width(0), width(1) / 2, 4);
}

}  // namespace
}  // namespace gq::desk
