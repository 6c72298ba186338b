#pragma once
#include <QDialog>

#include "desk/app/actions.h"

namespace gq::desk {

/// All keys, by menu.
class KeysDialog : public QDialog {
    Q_OBJECT
  public:
    KeysDialog(const Actions& actions, QWidget* parent);
};

}  // namespace gq::desk
