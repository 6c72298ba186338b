#pragma once
#include <optional>

#include "core/series/series.h"

namespace gq::render {

/// A frame with one mend for each connected piece of a whole-picture mask, grown by `grow` px.
/// Without a `method` each piece gets the one that suits its shape.
[[nodiscard]] series::Frame frameOfMask(const Mask& mask, int grow,
                                        std::optional<mend::Method> method, int candidate);

}  // namespace gq::render
