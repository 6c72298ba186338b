#pragma once
#include <array>
#include <cstdint>
#include <memory>
#include <optional>
#include <string>

#include "core/pixels/image.h"
#include "core/pixels/region.h"

namespace gq::mend {

/// How a place is corrected; README.md says what each is for.
enum class Method { Heal, Clone, Span, Rebuild, EvenOut, Unshade, TouchIn, Sift };

[[nodiscard]] std::string word(Method method);
[[nodiscard]] std::optional<Method> methodFromWord(const std::string& text);
[[nodiscard]] const std::vector<Method>& allMethods();
/// True if the method takes its texture from a source that can be placed by hand.
[[nodiscard]] bool hasSource(Method method);
/// True if the picture under the mend lives on in its result, so that others may read it.
[[nodiscard]] bool keepsPicture(Method method);

/// How a placed source lies over the place: turned about the region's middle, mirrored, enlarged.
struct Turn {
    float degrees = 0;      ///< clockwise, -180..180
    float scale = 1;        ///< 0.8..1.25; over 1 the source appears larger
    bool mirrored = false;  ///< left and right exchanged before turning

    [[nodiscard]] bool none() const { return degrees == 0 && scale == 1 && !mirrored; }
    bool operator==(const Turn&) const = default;
};

/// What Sift takes for a speck.
struct Sifting {
    float largest = 8;       ///< px across
    float contrast = 0.04f;  ///< least departure from the surroundings, 0..1
    bool light = true, dark = true;

    bool operator==(const Sifting&) const = default;
};

/// The light a grain of dust lets through, known from other frames: natural logarithm of the share,
/// 0 where nothing is held back. Never written after it was made.
struct KnownShade {
    Rect box;         ///< stored coordinates
    ImageF logShare;  ///< CV_32F, box.size(), <= 0
};
using KnownShadePtr = std::shared_ptr<const KnownShade>;

/// What another frame of the same scene shows here, laid on this one; Heal moves it to the place's
/// tone, Clone takes it as it is. Never written after it was made.
struct LentPixels {
    std::string frame;  ///< name of the frame it comes from
    Rect box;           ///< stored coordinates: the footprint and a rim around it
    Image pixels;       ///< CV_16UC3, box.size()
};
using LentPixelsPtr = std::shared_ptr<const LentPixels>;

/// One correction; never baked in. All of a mend's settings are its own.
struct Mend {
    Region region;  ///< what is replaced in full, stored coordinates
    Method method = Method::Heal;
    std::optional<Point> source;  ///< offset of the source from the region, px; empty = searched
    Turn turn;                    ///< of a placed source
    float softness = 2;           ///< width of the edge outside the region, px, 0..64
    float strength = 1;           ///< opacity, 0..1
    float grain = 0.9f;           ///< share of the surroundings' grain put back, 0..1
    int candidate = 0;            ///< which of the searched results; 0 = the best
    std::array<float, 3> tone{0.5f, 0.5f, 0.5f};  ///< Touch-in's colour, 0..1
    Sifting sifting;                              ///< Sift's
    std::vector<std::vector<PointF>> guides;      ///< Rebuild: lines an edge continues along
    Region within;  ///< Rebuild: copied from here alone, as the frame's bounds say when it is laid;
                    ///< empty = from anywhere
    LentPixelsPtr lent;   ///< Heal, Clone: taken instead of a source in this frame; null = none
    KnownShadePtr shade;  ///< Unshade: what is divided out; null = measured in this frame
};

/// Pixels a mend may change: its region and what its method needs around it (a soft edge; the rim
/// of a stain).
[[nodiscard]] Region footprint(const Mend& mend, const Size& picture);
/// The box of that, without working it out.
[[nodiscard]] Rect footprintBox(const Mend& mend, const Size& picture);

/// The method for a region by its shape: a line is spanned, a thick core rebuilt, else healed.
[[nodiscard]] Method methodFor(const Region& region);

/// A number that changes with anything that changes the mend's result.
[[nodiscard]] std::uint64_t contentKey(const Mend& mend);

/// FNV-1a, to build such numbers (Fowler, Noll, Vo, 1991).
[[nodiscard]] std::uint64_t hashBytes(const void* data, size_t size,
                                      std::uint64_t seed = 14695981039346656037ull);

}  // namespace gq::mend
