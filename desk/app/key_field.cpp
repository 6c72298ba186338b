#include "desk/app/key_field.h"

#include <QKeyEvent>

namespace gq::desk {

KeyField::KeyField(QWidget* parent) : QLineEdit(parent) {
    setPlaceholderText(tr("Press the new key"));
    setContextMenuPolicy(Qt::NoContextMenu);
}

void KeyField::keyPressEvent(QKeyEvent* e) {
    switch (e->key()) {
        case Qt::Key_Escape:
        case Qt::Key_Tab:
        case Qt::Key_Backtab:
            return QLineEdit::keyPressEvent(e);
        case Qt::Key_Shift:
        case Qt::Key_Control:
        case Qt::Key_Alt:
        case Qt::Key_AltGr:
        case Qt::Key_Meta:
        case Qt::Key_CapsLock:
        case Qt::Key_unknown:
            return;
        default:
            emit pressed(QKeySequence(
                QKeyCombination(e->modifiers() & ~Qt::KeypadModifier, Qt::Key(e->key()))));
    }
}

}  // namespace gq::desk
