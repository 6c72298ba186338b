#include "core/pixels/words.h"

#include <gtest/gtest.h>

namespace gq {
namespace {

TEST(Counted, TellsOneFromMany) {
    EXPECT_EQ(counted(1, "mend"), "1 mend");
    EXPECT_EQ(counted(0, "mend"), "0 mends");
    EXPECT_EQ(counted(3, "scratch"), "3 scratches");
    EXPECT_EQ(counted(2, "loss"), "2 losses");
}

}  // namespace
}  // namespace gq
