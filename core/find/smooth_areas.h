#pragma once
#include "core/pixels/image.h"

namespace gq::find {

/// Where a picture is smooth: sky, water in haze, walls. 255 there, one mask pixel per `scale`
/// picture pixels, holes and islands under 32 mask pixels across taken away.
[[nodiscard]] Mask smoothAreas(const Image& pixels, int scale);

}  // namespace gq::find
