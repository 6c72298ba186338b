#pragma once
#include <cstdint>
#include <optional>
#include <string>

#include "core/pixels/region.h"

namespace gq::mend {

enum class Method { Heal };

[[nodiscard]] std::string word(Method method);
[[nodiscard]] std::optional<Method> methodFromWord(const std::string& text);

/// One correction; never baked in. All of a mend's settings are its own.
struct Mend {
    Region region;  ///< what is replaced in full, stored coordinates
    Method method = Method::Heal;
    std::optional<Point> source;  ///< offset of the source from the region, px; empty = searched
    float softness = 2;           ///< width of the edge outside the region, px, 0..64
    float strength = 1;           ///< opacity, 0..1
    float grain = 0.9f;           ///< share of the surroundings' grain put back, 0..1
    int candidate = 0;            ///< which of the searched results; 0 = the best
};

/// Pixels a mend may change: its region and the soft edge around it.
[[nodiscard]] Region footprint(const Mend& mend, const Size& picture);

/// A number that changes with anything that changes the mend's result.
[[nodiscard]] std::uint64_t contentKey(const Mend& mend);

/// FNV-1a, to build such numbers (Fowler, Noll, Vo, 1991).
[[nodiscard]] std::uint64_t hashBytes(const void* data, size_t size,
                                      std::uint64_t seed = 14695981039346656037ull);

}  // namespace gq::mend
