#pragma once
#include <QString>

#include "core/series/series.h"

namespace gq::desk {

/// Why a finding was proposed, in a few short lines: contrast in units of the noise, size,
/// softness, surroundings, what the series says, and why it lies below the line if it does.
[[nodiscard]] QString whyProposed(const series::FindingEntry& finding, float line);

}  // namespace gq::desk
