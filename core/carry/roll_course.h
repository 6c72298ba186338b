#pragma once
#include <optional>

#include "core/find/finding.h"

namespace gq::carry {

/// How far a film sways in the gate and in a scanner's holder: share of the side across it.
inline constexpr float kSway = 0.01f;

/// The course of a line along a roll, in pixels of its frames: what those that show it agree on.
struct Course {
    bool level = true;
    float at = 0, from = 1e9f, to = 0, width = 1;
    find::Polarity polarity = find::Polarity::Light;
};

/// The line as a frame shows it, if it does: straight within a fifth of a degree, standing out in
/// most of sixteen pieces of its run and by 4.5 deviations in all. Cost: about two passes over the
/// picture. Threads: re-entrant.
[[nodiscard]] std::optional<find::Finding> lineIn(const Image& pixels, const Course& course);

}  // namespace gq::carry
