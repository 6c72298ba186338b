#include "core/find/sight.h"

#include <algorithm>
#include <cmath>

namespace gq::find {
namespace {

constexpr float kDotsPerDegree = 60, kPeakSensitivity = 200;

/// Frame pixels per degree of view at the output.
float pixelsPerDegree(const Size& frame, const Sight& s) {
    const auto width = float(std::max(frame.width, frame.height));
    if (s.use == Sight::Use::Screen)
        return kDotsPerDegree * width / float(std::max(1, s.screenWidth));
    return width / std::max(1.0f, s.printWidth) * s.viewingDistance * 0.017455f;
}

}  // namespace

float seen(const Measures& m, bool logContrast, const Size& frame, const Sight& sight) {
    if (sight.use == Sight::Use::Off) return 1e3f;
    const float degree = pixelsPerDegree(frame, sight);
    const float across = std::max(m.length > 4 * m.width ? m.width : m.size, 0.5f) / degree;
    const float dots = across * kDotsPerDegree;
    // A line thins by its width alone, a dot by its area.
    const bool line = m.length > 4 * m.width;
    const float kept = dots >= 1 ? 1 : line ? dots : dots * dots;
    // Tones are about the square root of light, so a step in tone counts twice as light.
    const float contrast = std::abs(m.contrast) * (logContrast ? 1.0f : 2.0f) * kept;
    const float f = 0.5f / std::max(across, 1 / kDotsPerDegree);
    const float sensitivity =
        2.6f * (0.0192f + 0.114f * f) * std::exp(-std::pow(0.114f * f, 1.1f)) * kPeakSensitivity;
    // Large soft marks are seen by their edges, so sensitivity does not fall without end.
    const float threshold = 1 / std::max(sensitivity, 12.0f);
    return contrast / (threshold * (1 + 2 * std::clamp(m.ring, 0.0f, 4.0f)));
}

}  // namespace gq::find
