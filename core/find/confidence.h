#pragma once
#include <vector>

#include "core/find/closer_look.h"
#include "core/find/company.h"

namespace gq::find {

/// The first judgement of every candidate of a survey, in its order: by the trained forest or by a
/// plain rule where none was trained, with that of `network` for the candidates that have a look.
/// Stopped, it gives nothing of use.
[[nodiscard]] std::vector<FirstOdds> firstOdds(const std::vector<Surveyed>& survey,
                                               LookNetwork network, std::stop_token stop = {});

/// Confidence 0..1 of the candidates of one list of a survey.
struct Confidences {
    std::vector<float> own;
    /// Of a print's, were it film; else empty. Film's forests know hairs and straight scratches,
    /// which a print's, trained on cracks, take for the picture's own.
    std::vector<float> asFilm;
};

/// Confidences of every candidate of a survey of `picture`, in its order: the first judgement,
/// and where a forest was trained the second, which knows the candidate's company.
/// Stopped, it gives nothing of use.
[[nodiscard]] std::vector<Confidences> confidences(const std::vector<Surveyed>& survey,
                                                   Origin origin, const Size& picture,
                                                   std::stop_token stop = {});

/// The rule: strength against the noise, evenness of the surroundings, neutrality.
[[nodiscard]] float ruleLogOdds(const Features& f);

}  // namespace gq::find
