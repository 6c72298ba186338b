#include "desk/app/notice.h"

#include "desk/look/convert.h"
#include "desk/look/theme.h"

namespace gq::desk {
namespace {

constexpr int kNoteMs = 8000, kFaultMs = 15000, kMostFaultMs = 60000;
constexpr qsizetype kMostLines = 4;

}  // namespace

Notice::Notice(QWidget* parent) : QLabel(parent) {
    setObjectName("notice");
    setWordWrap(true);
    setContentsMargins(12, 8, 12, 8);
    setTextFormat(Qt::PlainText);  // names of files are anything
    setTextInteractionFlags(Qt::TextSelectableByMouse);
    m_timer.setSingleShot(true);
    connect(&m_timer, &QTimer::timeout, this, &Notice::clear);
    hide();
}

void Notice::note(const QString& words) {
    m_note = words;
    showLines();
}

void Notice::tell(const Error& error) {
    const QString line = QStringLiteral("⚑  ") + desk::text(error.message());
    if (m_faults.isEmpty()) m_note.clear();
    if (!m_faults.contains(line)) m_faults << line;
    showLines();
}

void Notice::showLines() {
    QStringList lines = m_faults.mid(0, kMostLines);
    if (!m_note.isEmpty()) lines.prepend(m_note);
    if (const auto more = m_faults.size() - kMostLines; more > 0)
        lines << tr("and %n more; point here to read them all", nullptr, int(more));
    setStyleSheet(QStringLiteral("background:%1; color:%2; border-bottom:1px solid %3;")
                      .arg(theme().raised.name(),
                           (m_faults.isEmpty() ? theme().text : theme().look).name(),
                           theme().separator.name()));
    setText(lines.join('\n'));
    setToolTip(m_faults.size() > kMostLines ? m_faults.join('\n') : QString());
    show();
    // Each fault takes its time to read.
    m_timer.start(m_faults.isEmpty() ? kNoteMs
                                     : std::min(kFaultMs * int(m_faults.size()), kMostFaultMs));
}

void Notice::clear() {
    hide();
    m_note.clear();
    m_faults.clear();
}

}  // namespace gq::desk
