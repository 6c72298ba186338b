#include "desk/jobs/jobs.h"

#include <gtest/gtest.h>

#include <QCoreApplication>
#include <QPainter>
#include <QTest>
#include <atomic>

namespace gq::desk {
namespace {

/// Works the event loop until nothing runs, at most ten seconds.
void finish(const Jobs& jobs) {
    QTRY_VERIFY_WITH_TIMEOUT(jobs.idle(), 10000);
}

TEST(Jobs, NeverKeepThePaintingWaiting) {
    Jobs jobs;
    std::atomic<bool> painted = false;
    std::atomic<int> running = 0, waited = 0;
    for (int i = 0; i < 4; ++i)
        jobs.run(
            {}, &jobs,
            [&](std::stop_token, const Progress&) {
                ++running;
                for (int k = 0; k < 500 && !painted; ++k) QThread::msleep(10);
                if (painted) ++waited;
                return 0;
            },
            [](int) {});
    while (running < 4) QThread::msleep(5);
    const QImage picture(1500, 1000, QImage::Format_RGB32);
    QImage view(900, 600, QImage::Format_ARGB32_Premultiplied);
    QPainter painter(&view);
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    painter.drawImage(QRectF(0, 0, 900, 600), picture);
    painter.end();
    painted = true;
    finish(jobs);
    EXPECT_EQ(waited, 4) << "all of them were still at work when the picture was drawn";
}

TEST(Jobs, ADialogThatOpensOnAResultHoldsUpNoOther) {
    Jobs jobs;
    int results = 0;
    bool secondWithin = false;
    const auto work = [](std::stop_token, const Progress&) { return 0; };
    jobs.run({}, &jobs, work, [&](int) {
        ++results;
        jobs.run({}, &jobs, work, [&](int) { ++results; });
        secondWithin = QTest::qWaitFor([&] { return results == 2; }, 5000);
    });
    finish(jobs);
    EXPECT_TRUE(secondWithin);
}

TEST(Jobs, ANamedOneTellsHowFarItIsAndStops) {
    Jobs jobs;
    bool done = false;
    jobs.run(
        QStringLiteral("Counting"), &jobs,
        [](std::stop_token stop, const Progress& progress) {
            progress(0.25);
            while (!stop.stop_requested()) QThread::msleep(2);
            return 7;
        },
        [&](int result) { done = result == 7; });
    EXPECT_TRUE(jobs.busy());
    EXPECT_EQ(jobs.name(), "Counting");
    QTRY_COMPARE_WITH_TIMEOUT(jobs.share(), 0.25, 5000);
    EXPECT_GE(jobs.secondsLeft(), 0);
    jobs.stopShown();
    finish(jobs);
    EXPECT_TRUE(done);
    EXPECT_FALSE(jobs.busy());
}

TEST(Jobs, OneThatShowsLateKeepsNothingFromBeingBegun) {
    Jobs jobs;
    std::atomic<bool> goOn = false;
    bool told = false;
    const auto work = [&](std::stop_token stop, const Progress&) {
        while (!goOn && !stop.stop_requested()) QThread::msleep(2);
        return stop.stop_requested();
    };
    jobs.run(
        QStringLiteral("Short"), &jobs, work, [](bool) {}, Jobs::Show::Late);
    EXPECT_FALSE(jobs.showing());
    goOn = true;
    finish(jobs);
    goOn = false;
    bool stopped = false;
    QObject::connect(&jobs, &Jobs::changed, &jobs, [&] { told = true; });
    jobs.run(
        QStringLiteral("Long"), &jobs, work, [&](bool was) { stopped = was; }, Jobs::Show::Late);
    EXPECT_FALSE(jobs.showing());
    EXPECT_FALSE(told);
    QTRY_VERIFY_WITH_TIMEOUT(jobs.showing(), 5000);
    EXPECT_TRUE(told);
    EXPECT_EQ(jobs.name(), "Long");
    EXPECT_FALSE(jobs.busy());
    jobs.stopShown();
    finish(jobs);
    EXPECT_TRUE(stopped);
    EXPECT_FALSE(jobs.showing());
}

TEST(Jobs, TellNothingToAReceiverThatIsGone) {
    Jobs jobs;
    bool told = false;
    {
        QObject receiver;
        jobs.run(
            {}, &receiver,
            [](std::stop_token, const Progress&) {
                QThread::msleep(50);
                return 0;
            },
            [&](int) { told = true; });
    }
    finish(jobs);
    EXPECT_FALSE(told);
}

TEST(Jobs, AllAreStoppedThoseThatBeginMeanwhileToo) {
    Jobs jobs;
    int ended = 0, endedBefore = -1;
    const auto untilStopped = [](std::stop_token stop, const Progress&) {
        while (!stop.stop_requested()) QThread::msleep(2);
        return 0;
    };
    jobs.run({}, &jobs, untilStopped, [&](int) {
        ++ended;
        jobs.run({}, &jobs, untilStopped, [&](int) { ++ended; });
    });
    jobs.run("Named", &jobs, untilStopped, [&](int) { ++ended; });
    jobs.stopAll([&] { endedBefore = ended; });
    EXPECT_EQ(endedBefore, -1);
    QTRY_VERIFY_WITH_TIMEOUT(endedBefore >= 0, 10000);
    EXPECT_EQ(endedBefore, 3);
    EXPECT_FALSE(jobs.stoppingAll());
}

TEST(Jobs, AreStoppedAndWaitedForAtTheEnd) {
    std::atomic<bool> stopped = false;
    {
        Jobs jobs;
        std::atomic<bool> began = false;
        jobs.run(
            {}, &jobs,
            [&](std::stop_token stop, const Progress&) {
                began = true;
                while (!stop.stop_requested()) QThread::msleep(2);
                stopped = true;
                return 0;
            },
            [](int) {});
        while (!began) QThread::msleep(2);
    }
    EXPECT_TRUE(stopped);
}

}  // namespace
}  // namespace gq::desk
