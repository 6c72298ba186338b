#pragma once
#include <optional>

#include "core/find/finding.h"

namespace gq::carry {

/// How far a film sways in the gate and in a scanner's holder: share of the side across it.
inline constexpr float kSway = 0.01f;

inline constexpr float kLongEnough = 0.35f;  ///< of the frame, to tell of a roll's line
inline constexpr float kSlant = 0.15f;  ///< rise by run that a scratch along the film has at most

/// The course of a line along a roll, in pixels of its frames: where it crosses the film, and from
/// where to where it runs.
struct Course {
    bool level = true;
    float at = 0, from = 0, to = 0, width = 1;
    find::Polarity polarity = find::Polarity::Light;
};

/// The course of one scratch along the film, by its finding; none if it is something else.
[[nodiscard]] std::optional<Course> courseOf(const find::Finding& finding);
/// Its length as a share of the side it runs along.
[[nodiscard]] float runShare(const Course& course, const Size& size);

/// The line as a frame shows it, if it does: straight within a fifth of a degree, standing out in
/// most of sixteen pieces of its run and by 4.5 deviations in all. Cost: some passes over the
/// rows around it. Threads: re-entrant.
[[nodiscard]] std::optional<find::Finding> lineIn(const Image& pixels, const Course& course);

}  // namespace gq::carry
