#pragma once
#include <QPainter>
#include <functional>

#include "desk/document/mend_work.h"

namespace gq::desk {

/// What the left button does on the picture.
enum class Tool { Look, Touch, Path, Outline, TouchIn, Sift, Heed, Hush, Shield, Bounds, PickBase };
/// True for the tools of Mend.
[[nodiscard]] bool mends(Tool tool);
/// True for tools that draw with a width.
[[nodiscard]] bool brushes(Tool tool);

/// The hand at work with a tool of Mend: takes what the mouse does in stored coordinates, shows the
/// shape as it grows, and makes the mend at its end.
///   Touch     click or drag: a spot, or a stroke that is spanned when it is long.
///   Path      clicks make straight pieces, a double click ends; Ctrl and click follows a line to
///             both ends. Over a selected Rebuild, Shift makes the path its guide.
///   Outline   drag a lasso, or click a polygon and end it with a double click; Shift adds to the
///             selected mend, Alt takes from it; Ctrl and click takes all of a similar tone.
///   Touch-in  Alt and click picks the colour, dragging paints it.
///   Sift      a lasso around specks.
class MendTools {
  public:
    MendTools(MendWork& mends, DeskDocument& document, Pictures& pictures)
        : m_mends(mends), m_document(document), m_pictures(pictures) {}

    struct Hand {
        PointF at;
        Qt::KeyboardModifiers keys;
        float size = 24, softness = 3;
        float pressure = 1;  ///< of a tablet pen, 0..1
    };
    void press(Tool tool, const Hand& hand);
    void move(const Hand& hand);
    /// `click`: the pointer did not leave the place it was pressed at.
    void release(const Hand& hand, bool click);
    void finish(const Hand& hand);  ///< double click or Enter: ends a path or polygon
    void cancel();
    [[nodiscard]] bool drawing() const { return !m_points.empty(); }
    void paint(QPainter& p, const std::function<QPointF(PointF)>& toWidget, double zoom, float size,
               QPointF pointer) const;

    void setTone(const std::array<float, 3>& tone) { m_tone = tone, m_picked = true; }
    [[nodiscard]] const std::array<float, 3>& tone() const { return m_tone; }
    [[nodiscard]] mend::Sifting& sifting() { return m_sifting; }

  private:
    void closeOutline(Tool tool, const Hand& hand);
    void pick(PointF at);
    [[nodiscard]] Size frameSize() const { return m_pictures.frame()->geometry.stored; }

    MendWork& m_mends;
    DeskDocument& m_document;
    Pictures& m_pictures;
    Tool m_tool = Tool::Look;
    bool m_held = false;     ///< the button is down
    bool m_polygon = false;  ///< corners are clicked
    float m_width = 0;       ///< widest of the stroke, by pressure
    std::vector<PointF> m_points;
    std::array<float, 3> m_tone{0.5f, 0.5f, 0.5f};
    bool m_picked = false;
    mend::Sifting m_sifting;
};

}  // namespace gq::desk
