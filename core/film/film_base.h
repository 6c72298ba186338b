#pragma once
#include <array>
#include <optional>

#include "core/pixels/image.h"

namespace gq::film {

/// The light that comes through bare film, and where it was read.
struct FilmBase {
    std::array<float, 3> light{1, 1, 1};  ///< linear, 0..1; red, green, blue
    bool bare = false;  ///< read from bare film; otherwise from the thinnest places of the picture
    float rim = 0;      ///< 0..1 of the film's outline, within any holder, that is bare

    /// Whether this looks like a negative as scanned: bare film all around it, or bare film of a
    /// masked (orange) stock along half of its outline.
    [[nodiscard]] bool tellsNegative() const;
};

/// The base of a scanned negative by itself. Bare film is the brightest even tone of the scan that
/// nearly nothing outshines, except open light (holes, what lies beside the film). Without bare
/// film in view, each channel's brightest parts stand for it. Nothing when no place of the scan is
/// much denser than that. Shapes: 1 or 3 channels of 16 bits.
[[nodiscard]] std::optional<FilmBase> findBase(const Image& scan);

/// Where the exposed picture lies in the scan, without bare film and the holder around it; all of
/// the scan's inner part when that cannot be told.
[[nodiscard]] Rect exposedPart(const Image& scan, const std::array<float, 3>& base);

}  // namespace gq::film
