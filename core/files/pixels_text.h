#pragma once
#include <string>

#include "core/pixels/image.h"
#include "core/pixels/result.h"

namespace gq::files {

/// A small picture (16 bits, grey or colour) as text: PNG in base64.
[[nodiscard]] std::string pixelsToText(const Image& pixels);
/// The inverse. Errors: Unreadable.
[[nodiscard]] Result<Image> pixelsFromText(const std::string& text);

}  // namespace gq::files
