#pragma once
#include <QImage>
#include <QPainter>
#include <array>

#include "desk/document/guide_work.h"

namespace gq::desk {

/// Draws the painted guides over the picture: each with a hatching of its own, so that colour is
/// never alone; what lies outside the bounds is darkened. Images are kept until the masks change.
class GuideOverlay {
  public:
    /// `toWidget` maps stored coordinates; `held` is drawn stronger than the others.
    void paint(QPainter& p, const QTransform& toWidget, const GuideWork& guides,
               std::optional<Guide> held);
    /// One mask alone, white on black, over the whole picture: shows holes in it.
    static void paintAlone(QPainter& p, const QTransform& toWidget, const Mask& mask,
                           const Size& frame);

  private:
    struct Kept {
        Mask mask;  ///< held, so that its address is nobody else's
        QImage image;
    };
    std::array<Kept, 4> m_kept;
};

}  // namespace gq::desk
