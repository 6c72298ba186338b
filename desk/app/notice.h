#pragma once
#include <QLabel>
#include <QStringList>
#include <QTimer>

#include "core/pixels/result.h"

namespace gq::desk {

/// The strip above the stage that says what happened, for some seconds. Faults that come together
/// are listed together: the first few, and how many more (all of them in the tip).
class Notice : public QLabel {
    Q_OBJECT
  public:
    explicit Notice(QWidget* parent = nullptr);

    /// Says one thing; faults that are on show stay below it.
    void note(const QString& words);
    void tell(const Error& error);

  private:
    void showLines();
    void clear();

    QString m_note;
    QStringList m_faults;
    QTimer m_timer;
};

}  // namespace gq::desk
