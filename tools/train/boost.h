#pragma once
#include <string>

#include "core/pixels/result.h"
#include "tools/train/samples.h"

namespace gq::train {

struct BoostSettings {
    int trees = 240, depth = 4;
    double rate = 0.12;
    int seed = 7;
};

/// Trains boosted trees and returns them as JSON in the form find::Forest reads.
/// Errors: BadSetting with the library's own words.
[[nodiscard]] Result<std::string> boost(const Samples& samples, const BoostSettings& settings);

}  // namespace gq::train
