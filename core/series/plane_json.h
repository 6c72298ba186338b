#pragma once
#include <nlohmann/json.hpp>

#include "core/pixels/image.h"
#include "core/pixels/result.h"

namespace gq::series {

/// A small plane as text: "values" in ten-thousandths, separated by commas, row by row over "box".
[[nodiscard]] nlohmann::json planeToJson(const Rect& box, const ImageF& plane);

struct PlacedPlane {
    Rect box;
    ImageF plane;
};
/// Errors: Unreadable when the values do not fit the box.
[[nodiscard]] Result<PlacedPlane> planeFromJson(const nlohmann::json& j);

}  // namespace gq::series
