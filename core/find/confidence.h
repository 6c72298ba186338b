#pragma once
#include <vector>

#include "core/find/survey.h"

namespace gq::find {

/// Confidence 0..1 of every candidate of a survey, in its order: by the trained forest, or by a
/// plain rule where none was trained; then the picture's own share of true ones is re-estimated, so
/// that lone look-alikes in a clean picture fall.
/// Stopped, it gives nothing of use.
/// Source: Saerens, Latinne, Decaestecker, Neural Computation 14(1), 2002.
[[nodiscard]] std::vector<std::vector<float>> confidences(const std::vector<Surveyed>& survey,
                                                          Origin origin, std::stop_token stop = {});

/// The rule: strength against the noise, evenness of the surroundings, neutrality.
[[nodiscard]] float ruleLogOdds(const Features& f);

}  // namespace gq::find
