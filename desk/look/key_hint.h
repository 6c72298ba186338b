#pragma once
#include <QString>

class QWidget;

namespace gq::desk {

/// The key that a command of the widget's window has now, as " (Ctrl+O)"; empty if it has none.
[[nodiscard]] QString keyHint(const QWidget& widget, const QString& command);

}  // namespace gq::desk
