#include "desk/look/key_hint.h"

#include <QAction>
#include <QPushButton>

namespace gq::desk {
namespace {

QString keyOf(const QWidget& widget, const QString& command) {
    const auto* action = widget.window()->findChild<QAction*>(command);
    return action ? action->shortcut().toString() : QString();
}

}  // namespace

QString keyHint(const QWidget& widget, const QString& command) {
    const QString key = keyOf(widget, command);
    return key.isEmpty() ? QString() : QStringLiteral(" (%1)").arg(key);
}

void nameWithKey(QPushButton& button, const QString& words) {
    button.setProperty("words", words);
    const QString key = keyOf(button, button.property("command").toString());
    button.setText(key.isEmpty() ? words : QStringLiteral("%1  %2").arg(words, key));
}

}  // namespace gq::desk
