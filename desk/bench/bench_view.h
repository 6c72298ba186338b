#pragma once
#include <QPainterPath>
#include <QWidget>
#include <map>

#include "desk/bench/tile_store.h"
#include "desk/document/pictures.h"
#include "desk/document/work.h"

namespace gq::desk {

/// What the left button does on the picture.
enum class Tool { Look, Touch };

/// The picture: pan and zoom, marks, the touch tool, dragging a source, before and wipe.
class BenchView : public QWidget {
    Q_OBJECT
  public:
    BenchView(DeskDocument& document, Pictures& pictures, Work& work, Jobs& jobs,
              QWidget* parent = nullptr);

    void setTool(Tool tool);
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
    void toggleWipe();
    void toggleQuiet();
    void sourceFromPointer();
    [[nodiscard]] bool wiping() const { return m_wipe; }
    [[nodiscard]] bool quiet() const { return m_quiet; }
    /// Widget position of a stored point, and back.
    [[nodiscard]] QPointF toWidget(PointF stored) const;
    [[nodiscard]] PointF toStored(QPointF widget) const;
    [[nodiscard]] bool settled() const { return m_before.settled() && m_after.settled(); }

  signals:
    void viewChanged();  ///< zoom, light, tool settings

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void keyReleaseEvent(QKeyEvent*) override;
    void leaveEvent(QEvent*) override;

  private:
    enum class Grip { None, Pan, Touch, Source, Wipe };
    [[nodiscard]] QTransform transform() const;
    [[nodiscard]] double fitZoom() const;
    void clampOffset();
    void paintPicture(QPainter& p, const Pyramid& pyramid, TileStore& tiles);
    void paintMarks(QPainter& p);
    void paintTool(QPainter& p);
    void paintWipe(QPainter& p);
    [[nodiscard]] const QPainterPath& contourOf(series::Id id, const Region& region);
    [[nodiscard]] series::Id entryAt(QPointF widget) const;
    [[nodiscard]] Point sourceOf(const series::MendEntry& mend) const;
    [[nodiscard]] bool onSource(QPointF widget) const;
    [[nodiscard]] double wipeX() const { return m_wipeShare * width(); }

    DeskDocument& m_document;
    Pictures& m_pictures;
    Work& m_work;
    TileStore m_before, m_after;
    std::map<series::Id, std::pair<Rect, QPainterPath>> m_contours;
    Tool m_tool = Tool::Look;
    render::ViewingLight m_light;
    float m_toolSize = 24, m_softness = 3;
    double m_zoom = 1, m_wipeShare = 0.5;
    QPointF m_offset;
    bool m_fitted = true, m_hold = false, m_wipe = false, m_quiet = false, m_space = false;
    Grip m_grip = Grip::None;
    QPointF m_pressed, m_pointer;
    bool m_inside = false;
    std::vector<PointF> m_stroke;
    Point m_sourceStart{0, 0}, m_sourceNow{0, 0};
};

}  // namespace gq::desk
