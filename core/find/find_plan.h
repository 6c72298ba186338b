#pragma once
#include <optional>
#include <string>
#include <vector>

#include "core/find/finding.h"

namespace gq::find {

/// Where a picture came from: decides which blemishes to expect and whether they are light or dark.
enum class Origin { Sensor, Negative, Positive, Print };

/// What is less sure than this is not even listed.
inline constexpr float kListed = 0.06f;

/// What to search for.
struct FindPlan {
    Origin origin = Origin::Sensor;
    std::vector<Kind> kinds = allKinds();
    std::vector<Polarity> polarities;  ///< empty = those of the origin
    float strength = 50;               ///< 0..100; higher finds fainter blemishes and believes more
    float line = 0.5f;                 ///< 0..1; findings above it are proposed
    float smallest = 0;                ///< px; smaller findings are dropped
    float largest = 0;                 ///< px; larger findings are dropped; 0 = no limit
};

[[nodiscard]] std::vector<Polarity> polaritiesOf(const FindPlan& plan);
[[nodiscard]] bool isFilm(Origin origin);
[[nodiscard]] std::string word(Origin origin);
[[nodiscard]] std::optional<Origin> originFromWord(const std::string& text);
[[nodiscard]] const std::vector<Origin>& allOrigins();

}  // namespace gq::find
