#include "core/pixels/parallel.h"

#include <gtest/gtest.h>

#include <atomic>
#include <numeric>
#include <thread>
#include <vector>

namespace gq {
namespace {

std::vector<int> upTo(int count) {
    std::vector<int> out(size_t(count), 0);
    std::iota(out.begin(), out.end(), 0);
    return out;
}

TEST(Parallel, EachPieceOfWorkIsRunOnce) {
    for (const int threads : {1, 3, 0}) {
        setThreads(threads);
        std::vector<std::atomic<int>> runs(500), rows(1000);
        EXPECT_TRUE(forEach(500, [&](int i) { ++runs[size_t(i)]; }));
        EXPECT_TRUE(forRows(1000, [&](int y) { ++rows[size_t(y)]; }));
        for (const auto& n : runs) EXPECT_EQ(n, 1);
        for (const auto& n : rows) EXPECT_EQ(n, 1);
    }
    setThreads(0);
}

TEST(Parallel, WorkWithinWorkIsDone) {
    std::atomic<int> done = 0;
    forEach(8, [&](int) { forEach(8, [&](int) { ++done; }); });
    EXPECT_EQ(done, 64);
}

TEST(Parallel, OneAfterTheOtherKeepsTheOrderAndTheThread) {
    std::vector<int> order;
    const auto here = std::this_thread::get_id();
    EXPECT_TRUE(forEachAtOnce(false, 20, [&](int i) {
        EXPECT_EQ(std::this_thread::get_id(), here);
        order.push_back(i);
    }));
    EXPECT_EQ(order, upTo(20));
}

TEST(Parallel, ResultsAreTakenInOrder) {
    std::vector<int> taken;
    EXPECT_TRUE(inOrder(
        40,
        [](int i) {
            std::this_thread::sleep_for(std::chrono::microseconds((i * 37) % 11 * 50));
            return i * i;
        },
        [&](int i, int&& square) {
            EXPECT_EQ(square, i * i);
            taken.push_back(i);
        }));
    EXPECT_EQ(taken, upTo(40));
}

TEST(Parallel, AStopLeavesTheRestOut) {
    std::stop_source wish;
    std::atomic<int> done = 0, taken = 0;
    const auto stopAtTenth = [&](int) {
        if (++done == 10) wish.request_stop();
    };
    EXPECT_FALSE(forEach(100'000, stopAtTenth, wish.get_token()));
    EXPECT_LT(done, 1000);
    EXPECT_FALSE(inOrder(
        50, [](int i) { return i; }, [&](int, int) { ++taken; }, wish.get_token()));
    EXPECT_EQ(taken, 0);
}

}  // namespace
}  // namespace gq
