#pragma once
#include "core/pixels/image.h"

namespace gq::find {

/// A scan whose values are proportional to light, as scanners write without a tone curve, leaves
/// most of a film near black, where dust hardly differs in value. This lifts such a scan by the
/// root that brings its median to the middle of what coded scans have (at most the 2.6th, a little
/// over what codings for the screen use); any other is returned as it is, shared. All channels
/// alike. 16 bits, any channels. Threads: parallel inside.
[[nodiscard]] Image lifted(const Image& scan);

}  // namespace gq::find
