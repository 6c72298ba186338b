#pragma once
#include <QKeySequence>
#include <QLineEdit>

namespace gq::desk {

/// Takes the next key pressed in it, with what is held down, instead of a text. Tab and Esc go on
/// to the dialog.
class KeyField : public QLineEdit {
    Q_OBJECT
  public:
    explicit KeyField(QWidget* parent = nullptr);

  signals:
    void pressed(const QKeySequence& key);

  protected:
    void keyPressEvent(QKeyEvent* e) override;
};

}  // namespace gq::desk
