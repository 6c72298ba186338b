#include "core/series/lookup.h"

#include <gtest/gtest.h>

#include "tests/testkit/scratch.h"

namespace gq::series {
namespace {

TEST(Lookup, SaysWhatTheFrameSays) {
    Frame f = testkit::frameOf("f0001", {400, 300});
    for (Id id = 1; id <= 30; ++id) {
        FindingEntry e;
        e.id = id;
        e.left = id % 3 == 0;
        f.findings.push_back(e);
    }
    for (Id id = 31; id <= 40; ++id) f.mends.push_back({id, {}, 2 * (id - 30), false});
    f.mends.push_back({41, {}, 0, false});
    f.mends.push_back({42, {}, 99, false});  // its finding is gone
    const Lookup entries(f);
    for (const auto& e : f.findings) {
        EXPECT_EQ(entries.finding(e.id), f.finding(e.id));
        EXPECT_EQ(entries.mendOf(e.id), f.mendOf(e.id)) << e.id;
        EXPECT_EQ(entries.stateOf(e), stateOf(f, e)) << e.id;
    }
    EXPECT_EQ(entries.mendOf(0), nullptr) << "a mend of no finding";
    EXPECT_EQ(entries.finding(99), nullptr);
    EXPECT_EQ(entries.finding(31), nullptr) << "that is a mend";
}

}  // namespace
}  // namespace gq::series
