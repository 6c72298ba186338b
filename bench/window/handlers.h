#pragma once
#include <QApplication>
#include <map>
#include <string>

#include "desk/app/main_window.h"

namespace gq::desk {

/// Times the handlers of the window's thread; of nested ones the outermost.
class TimedApplication : public QApplication {
  public:
    using QApplication::QApplication;
    bool notify(QObject* receiver, QEvent* event) override;
    /// ms of the longest since the last call, and what it was.
    std::pair<double, std::string> takeLongest();

  private:
    bool m_nested = false;
    std::pair<double, std::string> m_longest;
};

/// Goes through a restorer's work on the open series; the longest handler of each step is kept for
/// `tellHandlers`. The application has to be a TimedApplication.
void handlers(const std::string& series, MainWindow& w);

/// Prints what was kept as a table.
void tellHandlers();

}  // namespace gq::desk
