#include "core/carry/openings.h"

#include <algorithm>
#include <cmath>

#include "core/carry/slopes.h"
#include "core/carry/softening.h"

namespace gq::carry {
namespace {

constexpr double kMiddle = 11;
constexpr float kUsualSpread = 22;  ///< px times f-number

/// A shadow seen at the middle opening as it would show at another.
ImageF fromMiddle(const Shadow& shadow, double aperture) {
    Shadow at = shadow;
    const float sigma =
        sigmaAt(kUsualSpread, std::max(aperture, kMiddle), std::min(aperture, kMiddle));
    const ImageF softer = Softening(sigma)(shadow.held);
    // Softening is undone to the first order.
    at.held = aperture > kMiddle ? ImageF(cv::max(ImageF(2 * shadow.held - softer), 0.0f)) : softer;
    return logShareAt(at, 0);
}

}  // namespace

OpeningTries::OpeningTries(const Shadow& shadow) {
    for (size_t i = 0; i < kOpenings.size(); ++i)
        m_known[i] = shadow.aperture > 0 ? logShareAt(shadow, kOpenings[i])
                                         : fromMiddle(shadow, kOpenings[i]);
    m_cover = m_known.front() < std::log(1 - kLeastShare);
}

OpeningsTold OpeningTries::told(const ImageF& logs, const ImageF& trust) const {
    const Slopes view({.logs = logs, .trust = trust}, m_cover);
    OpeningsTold out{};
    for (size_t i = 0; i < out.size(); ++i) out[i] = view.match(m_known[i]).told;
    return out;
}

}  // namespace gq::carry
