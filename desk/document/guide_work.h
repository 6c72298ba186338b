#pragma once
#include <QObject>

#include "desk/document/pictures.h"

namespace gq::desk {

/// The four painted areas that steer Find.
enum class Guide { Heed, Hush, Shield, Bounds };

/// Edits of the current frame's guides; each is one undo step.
class GuideWork : public QObject {
    Q_OBJECT
  public:
    GuideWork(DeskDocument& document, Pictures& pictures, Jobs& jobs, QObject* parent = nullptr);

    /// A stroke in stored coordinates; heed and hush gain half their strength with each.
    void paint(Guide guide, const std::vector<PointF>& path, float width, bool erase);
    void fill(Guide guide, const std::vector<PointF>& outline, bool erase);
    void invert(Guide guide);
    void soften(Guide guide);
    void clear(Guide guide);
    void clearAll();
    /// Bounds become the smooth areas of the picture, worked out in the background.
    void smoothOnly();
    /// Takes over all guides to the ticked frames.
    void carry();

    [[nodiscard]] Mask mask(Guide guide) const;  ///< of the current frame; empty = none
    [[nodiscard]] static QString name(Guide guide);

    /// Notes that a part of the current frame (stored px) was looked at at `zoom` in rounds.
    void markSeen(const Rect& part, double zoom);

  private:
    using Change = std::function<Mask(const Mask&, const Size&)>;
    void change(Guide guide, const QString& what, const Change& by);

    DeskDocument& m_document;
    Pictures& m_pictures;
    Jobs& m_jobs;
};

}  // namespace gq::desk
