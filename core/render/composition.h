#pragma once
#include <memory>
#include <vector>

#include "core/mend/patch.h"

namespace gq::render {

using mend::PatchPtr;

/// A picture with its mends: the original and the patches that lie on it, in order. Only the parts
/// that are asked for are put together, so it costs no second picture. Cheap to copy, never
/// written after it was made.
/// Threads  re-entrant.
class Composition {
  public:
    Composition() = default;
    explicit Composition(Image original, std::vector<PatchPtr> patches = {})
        : m_original(std::move(original)), m_patches(std::move(patches)) {}

    [[nodiscard]] bool empty() const { return m_original.empty(); }
    [[nodiscard]] Size size() const { return m_original.size(); }
    /// A box with its mends, in the picture's coordinates; shares nothing with the original unless
    /// no mend touches the box.
    [[nodiscard]] Image part(const Rect& box) const;
    /// Lays the mends on a picture that is the original or a copy of it.
    void layOn(Image& pixels) const;

  private:
    Image m_original;
    std::vector<PatchPtr> m_patches;
};

}  // namespace gq::render
