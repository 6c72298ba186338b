#pragma once
#include <gtest/gtest.h>

#include "core/mend/patch.h"

namespace gq::mend {

/// The picture with one mend laid, or as it was, and a failure, where it cannot be made.
inline Image mended(const Image& pixels, const Mend& mend, const std::vector<Region>& avoid = {}) {
    const auto patch = makePatch({pixels, avoid}, mend);
    EXPECT_TRUE(patch) << (patch ? "" : patch.error().message());
    Image out = pixels.clone();
    if (patch) lay(*patch, out);
    return out;
}

}  // namespace gq::mend
