#pragma once
#include <QString>

class QPushButton;
class QWidget;

namespace gq::desk {

/// The key that a command of the widget's window has now, as " (Ctrl+O)"; empty if it has none.
[[nodiscard]] QString keyHint(const QWidget& widget, const QString& command);

/// Writes words on a button, and behind them the key of the command that its property "command"
/// names; the words are kept in its property "words", for when that key is changed.
void nameWithKey(QPushButton& button, const QString& words);

}  // namespace gq::desk
