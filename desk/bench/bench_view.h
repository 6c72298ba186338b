#pragma once
#include <QPainterPath>
#include <QWidget>
#include <map>

#include "desk/bench/guide_overlay.h"
#include "desk/bench/mend_tools.h"
#include "desk/bench/tile_store.h"
#include "desk/document/pictures.h"
#include "desk/document/work.h"

namespace gq::desk {

/// How the picture before and after its mends is compared: with a seam to drag, one beside the
/// other, or by what they differ in.
enum class Compare { None, Wipe, Beside, Changed };

/// The guide a tool paints, if it paints one.
[[nodiscard]] std::optional<Guide> guideOf(Tool tool);

/// The picture: pan and zoom, marks, the tools, dragging a source, before and after compared.
class BenchView : public QWidget {
    Q_OBJECT
  public:
    BenchView(DeskDocument& document, Pictures& pictures, Work& work, MendWork& mends,
              GuideWork& guides, Jobs& jobs, QWidget* parent = nullptr);

    void setTool(Tool tool);
    [[nodiscard]] Tool tool() const { return m_tool; }
    /// Guide tools: outline instead of a stroke, take away instead of adding, see the mask alone.
    /// Drops a path or outline that is being drawn; false if there is none.
    bool dropShape();
    [[nodiscard]] MendTools& mendTools() { return m_mendTools; }
    void setLasso(bool on);
    void setErase(bool on);
    void setMaskAlone(bool on);
    [[nodiscard]] bool lasso() const { return m_lasso; }
    [[nodiscard]] bool erasing() const { return m_erase; }
    [[nodiscard]] bool maskAlone() const { return m_maskAlone; }
    [[nodiscard]] float toolSize() const { return m_toolSize; }
    void setToolSize(float pixels);  ///< diameter in picture pixels, 2..400
    [[nodiscard]] float softness() const { return m_softness; }
    void setSoftness(float pixels);
    void setLight(const render::ViewingLight& light);
    [[nodiscard]] const render::ViewingLight& light() const { return m_light; }

    [[nodiscard]] double zoom() const { return m_zoom; }  ///< screen pixels per picture pixel
    void zoomTo(double zoom, QPointF about);
    void fit();
    void fitOrFull();
    void showEntry(series::Id entry);  ///< moves so that an entry is in sight

    void holdBefore(bool on);
    void toggle(Compare how);  ///< again ends it
    void toggleQuiet();
    void sourceFromPointer();
    /// Goes to the next (1) or previous (-1) cell of the rounds, at 100 % at least.
    void goRound(int by);
    /// Moves the shown picture a little and back: what stays in place is dust on the screen.
    void screenCheck();
    [[nodiscard]] Compare comparing() const { return m_compare; }
    [[nodiscard]] bool quiet() const { return m_quiet; }
    /// Where the mended picture is shown: all of the widget, or its right half.
    [[nodiscard]] QRectF sheet() const;
    /// Widget position of a stored point on the sheet, and back.
    [[nodiscard]] QPointF toWidget(PointF stored) const;
    [[nodiscard]] PointF toStored(QPointF widget) const;
    [[nodiscard]] bool settled() const { return m_before.settled() && m_after.settled(); }

  signals:
    void viewChanged();                  ///< zoom, light, tool settings
    void basePicked(gq::PointF stored);  ///< the film base was clicked on

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void tabletEvent(QTabletEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void keyReleaseEvent(QKeyEvent*) override;
    void leaveEvent(QEvent*) override;
    bool event(QEvent*) override;

  private:
    enum class Grip { None, Pan, Mend, Source, Turn, Box, Wipe, Guide };
    [[nodiscard]] QTransform transform() const;
    [[nodiscard]] QRectF onScreen(const Rect& stored) const;
    /// What the marks of the chosen mend's source take up on the screen; empty if it has none.
    [[nodiscard]] QRectF sourceMarks() const;
    [[nodiscard]] double fitZoom() const;
    void clampOffset();
    void paintPicture(QPainter& p, const Pyramid& pyramid, TileStore& tiles);
    void paintMarks(QPainter& p);
    void paintTool(QPainter& p);
    void paintInside(QPainter& p, const series::MendEntry& entry);
    void paintWipe(QPainter& p);
    void paintBeside(QPainter& p);
    void paintChanged(QPainter& p);
    void paintNames(QPainter& p);
    [[nodiscard]] const QPainterPath& contourOf(series::Id id, const Region& region);
    [[nodiscard]] QRectF inSight() const;  ///< shown px that the widget shows
    void paintGuides(QPainter& p);
    /// The pointer's place on the sheet; over the picture before, the same place of that.
    QPointF tracked(const QPointF& widget);
    [[nodiscard]] bool overSeam() const;
    [[nodiscard]] QString whyAt(QPointF widget) const;
    [[nodiscard]] series::Id entryAt(QPointF widget) const;
    [[nodiscard]] Point sourceOf(const series::MendEntry& mend) const;
    [[nodiscard]] bool onSource(QPointF widget) const;
    [[nodiscard]] bool onKnob(QPointF widget) const;  ///< that turns the source
    [[nodiscard]] MendTools::Hand hand(const QMouseEvent& e) const;
    void turnTo(QPointF widget);
    void selectBox(const QRectF& widget);
    void toggleAt(QPointF widget);
    [[nodiscard]] QPointF knobOf(const series::MendEntry& mend) const;
    [[nodiscard]] double wipeX() const { return m_wipeShare * width(); }

    DeskDocument& m_document;
    Pictures& m_pictures;
    Work& m_work;
    GuideWork& m_guides;
    GuideOverlay m_overlay;
    MendWork& m_mends;
    MendTools m_mendTools;
    float m_pressure = 1, m_turn = 0;
    TileStore m_before, m_after;
    std::map<std::pair<series::Id, int>, std::pair<Rect, QPainterPath>> m_contours;
    Tool m_tool = Tool::Look;
    render::ViewingLight m_light;
    float m_toolSize = 24, m_softness = 3;
    double m_zoom = 1, m_wipeShare = 0.5;
    QPointF m_offset;
    QRectF m_sourceMarks;  ///< as last drawn
    bool m_lasso = false, m_erase = false, m_maskAlone = false;
    QPointF m_shake;
    bool m_fitted = true, m_hold = false, m_quiet = false, m_space = false;
    Compare m_compare = Compare::None;
    bool m_onBefore = false;  ///< the pointer is, or began its drag, where the picture before is
    Grip m_grip = Grip::None;
    QPointF m_pressed, m_pointer;
    bool m_inside = false;
    std::vector<PointF> m_stroke;
    Point m_sourceStart{0, 0}, m_sourceNow{0, 0};
};

}  // namespace gq::desk
