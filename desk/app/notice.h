#pragma once
#include <QLabel>
#include <QStringList>
#include <QTimer>

#include "core/pixels/result.h"

namespace gq::desk {

/// The strip above the stage that says what happened, for some seconds. Things that come together
/// are listed together: the first few, and how many more (all of them in the tip).
class Notice : public QLabel {
    Q_OBJECT
  public:
    explicit Notice(QWidget* parent = nullptr);

    /// Says what is worth knowing, a line each; faults that are on show stay below it.
    void note(const QString& lines);
    void tell(const Error& error);

  private:
    void showLines();
    void clear();

    QStringList m_notes, m_faults;
    QTimer m_timer;
};

}  // namespace gq::desk
