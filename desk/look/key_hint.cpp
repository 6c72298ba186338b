#include "desk/look/key_hint.h"

#include <QAction>
#include <QWidget>

namespace gq::desk {

QString keyHint(const QWidget& widget, const QString& command) {
    const auto* action = widget.window()->findChild<QAction*>(command);
    if (!action || action->shortcut().isEmpty()) return {};
    return QStringLiteral(" (%1)").arg(action->shortcut().toString());
}

}  // namespace gq::desk
