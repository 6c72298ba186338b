#pragma once
#include <QDialog>
#include <QLineEdit>
#include <QListWidget>

#include "desk/app/actions.h"

namespace gq::desk {

/// Type a few letters, Enter runs the command.
class CommandSearch : public QDialog {
    Q_OBJECT
  public:
    CommandSearch(const Actions& actions, QWidget* parent);

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void narrow(const QString& words);
    void run();
    const Actions& m_actions;
    QLineEdit* m_words;
    QListWidget* m_list;
};

}  // namespace gq::desk
