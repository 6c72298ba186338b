#include "desk/app/command_search.h"

#include <QKeyEvent>
#include <QVBoxLayout>

namespace gq::desk {

CommandSearch::CommandSearch(const Actions& actions, QWidget* parent)
    : QDialog(parent, Qt::Popup), m_actions(actions) {
    setAttribute(Qt::WA_DeleteOnClose);
    resize(460, 320);
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(8, 8, 8, 8);
    m_words = new QLineEdit;
    m_words->setPlaceholderText(tr("What do you want to do?"));
    m_list = new QListWidget;
    m_list->setFocusPolicy(Qt::NoFocus);
    all->addWidget(m_words);
    all->addWidget(m_list);
    m_words->installEventFilter(this);
    connect(m_words, &QLineEdit::textChanged, this, &CommandSearch::narrow);
    connect(m_words, &QLineEdit::returnPressed, this, &CommandSearch::run);
    connect(m_list, &QListWidget::itemClicked, this, &CommandSearch::run);
    narrow({});
    if (parent) move(parent->mapToGlobal(QPoint((parent->width() - width()) / 2, 80)));
    m_words->setFocus();
}

void CommandSearch::narrow(const QString& words) {
    m_list->clear();
    for (const auto& c : m_actions.all()) {
        if (c.how != Actions::Command::How::Run || !c.action->isEnabled()) continue;
        const QString key = Actions::keyText(c);
        const QString line = QStringLiteral("%1 › %2").arg(c.menu, c.action->text().remove('&'));
        bool fits = true;
        for (const auto& w : words.split(' ', Qt::SkipEmptyParts))
            fits = fits && (line + ' ' + c.help).contains(w, Qt::CaseInsensitive);
        if (!fits) continue;
        auto* item = new QListWidgetItem(
            key.isEmpty() ? line : QStringLiteral("%1    %2").arg(line, key), m_list);
        item->setData(Qt::UserRole, c.id);
        item->setToolTip(c.help);
    }
    m_list->setCurrentRow(0);
}

bool CommandSearch::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key(), step = key == Qt::Key_Down ? 1
                                                                      : key == Qt::Key_Up ? -1
                                                                                          : 0;
        if (step) {
            m_list->setCurrentRow(
                std::clamp(m_list->currentRow() + step, 0, std::max(0, m_list->count() - 1)));
            return true;
        }
    }
    return QDialog::eventFilter(watched, event);
}

void CommandSearch::run() {
    auto* item = m_list->currentItem();
    if (!item) return;
    QAction* action = m_actions.get(item->data(Qt::UserRole).toString());
    close();
    if (action) action->trigger();
}

}  // namespace gq::desk
