#pragma once
#include "core/pixels/image.h"

namespace gq {

/// A part of a picture, addressed in the whole picture's coordinates, so that what reads only a
/// neighbourhood can be given just that. Shares the pixels.
class Excerpt {
  public:
    Excerpt(const Image& whole) : m_pixels(whole), m_picture(whole.size()) {}
    /// `pixels` are those at `origin` of a picture of size `picture`.
    Excerpt(const Image& pixels, Point origin, Size picture)
        : m_pixels(pixels), m_origin(origin), m_picture(picture) {}

    /// The pixels of a box, which must lie in this part.
    [[nodiscard]] Image operator()(const Rect& box) const { return m_pixels(box - m_origin); }
    [[nodiscard]] Size size() const { return m_picture; }  ///< of the whole picture
    [[nodiscard]] int channels() const { return m_pixels.channels(); }

  private:
    Image m_pixels;
    Point m_origin;
    Size m_picture;
};

}  // namespace gq
