#include "desk/app/notice.h"

#include "desk/look/convert.h"
#include "desk/look/theme.h"

namespace gq::desk {
namespace {

constexpr int kNoteMs = 8000, kFaultMs = 15000, kMostMs = 60000;
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

void Notice::note(const QString& lines) {
    m_notes = lines.split('\n');
    showLines();
}

void Notice::tell(const Error& error) {
    const QString line = QStringLiteral("⚑  ") + desk::text(error.message());
    if (m_faults.isEmpty()) m_notes.clear();
    if (!m_faults.contains(line)) m_faults << line;
    showLines();
}

void Notice::showLines() {
    QStringList lines;
    bool cut = false;
    for (const auto* some : {&m_notes, &m_faults}) {
        lines << some->mid(0, kMostLines);
        const auto more = some->size() - kMostLines;
        if (more <= 0) continue;
        lines << tr("and %n more; point here to read them all", nullptr, int(more));
        cut = true;
    }
    setStyleSheet(QStringLiteral("background:%1; color:%2; border-bottom:1px solid %3;")
                      .arg(theme().raised.name(),
                           (m_faults.isEmpty() ? theme().text : theme().look).name(),
                           theme().separator.name()));
    setText(lines.join('\n'));
    setToolTip(cut ? (m_notes + m_faults).join('\n') : QString());
    show();
    // Each takes its time to read.
    m_timer.start(
        std::min(kNoteMs * int(m_notes.size()) + kFaultMs * int(m_faults.size()), kMostMs));
}

void Notice::clear() {
    hide();
    m_notes.clear();
    m_faults.clear();
}

}  // namespace gq::desk
