#include "desk/app/actions.h"

#include <QKeyEvent>
#include <QMenuBar>
#include <QPushButton>
#include <QWidget>

#include "desk/look/key_hint.h"

namespace gq::desk {
namespace {

/// Keys that the picture, lists and boxes need themselves.
bool needed(const QKeySequence& key) {
    if (key.isEmpty()) return false;
    const QKeyCombination k = key[0];
    if (k.keyboardModifiers() & (Qt::AltModifier | Qt::MetaModifier)) return false;
    switch (k.key()) {
        case Qt::Key_Left:
        case Qt::Key_Right:
        case Qt::Key_Up:
        case Qt::Key_Down:
        case Qt::Key_Tab:
        case Qt::Key_Backtab:
        case Qt::Key_A:  // these two are the carry board's
        case Qt::Key_X:
            return true;
        case Qt::Key_Space:
        case Qt::Key_Return:
        case Qt::Key_Enter:
        case Qt::Key_Escape:
            return !(k.keyboardModifiers() & Qt::ControlModifier);
        default:
            return false;
    }
}

}  // namespace

Actions::Actions(QWidget* window, Preferences& preferences)
    : QObject(window), m_window(window), m_preferences(preferences) {}

QAction* Actions::make(Command command, const QString& words) {
    command.action = new QAction(words, this);
    command.action->setObjectName(command.id);
    command.action->setStatusTip(command.help);
    if (command.how != Command::How::Gesture)
        command.action->setShortcut(
            m_preferences.key(command.id).value_or(QKeySequence(command.usualKey)));
    m_all.push_back(command);
    return command.action;
}

QAction* Actions::add(const QString& id, const QString& menu, const QString& words,
                      const QString& key, const QString& help, std::function<void()> run) {
    QAction* a = make({id, menu, help, key}, words);
    connect(a, &QAction::triggered, this, [run = std::move(run)] { run(); });
    m_window->addAction(a);
    return a;
}

void Actions::hold(const QString& id, const QString& menu, const QString& words,
                   const QString& key) {
    make({id, menu, words, key, nullptr, Command::How::Held}, words);
}

void Actions::list(const QString& menu, const QString& words, const QString& gesture) {
    make({{}, menu, words, gesture, nullptr, Command::How::Gesture}, words);
}

const Actions::Command* Actions::find(const QString& id) const {
    for (const auto& c : m_all)
        if (c.id == id && !id.isEmpty()) return &c;
    return nullptr;
}

QAction* Actions::get(const QString& id) const {
    const Command* c = find(id);
    return c ? c->action : nullptr;
}

void Actions::fill(QMenuBar& bar) const {
    for (const auto& c : m_all) {
        if (c.how != Command::How::Run) continue;
        QMenu* menu = bar.findChild<QMenu*>(c.menu, Qt::FindDirectChildrenOnly);
        if (!menu) {
            menu = bar.addMenu(c.menu);
            menu->setObjectName(c.menu);
        }
        menu->addAction(c.action);
    }
}

QString Actions::keyText(const Command& command) {
    return command.how == Command::How::Gesture ? command.usualKey
                                                : command.action->shortcut().toString();
}

bool Actions::isKeyOf(const QString& id, const QKeyEvent& event) const {
    const QAction* a = get(id);
    return a && !a->shortcut().isEmpty() && a->shortcut() == QKeySequence(event.keyCombination());
}

const Actions::Command* Actions::hasKey(const QKeySequence& key, const Command& apart) const {
    for (const auto& c : m_all)
        if (&c != &apart && !key.isEmpty() && c.action->shortcut() == key) return &c;
    return nullptr;
}

QString Actions::refusal(const QString& id, const QKeySequence& key) const {
    const Command* self = find(id);
    if (!self) return tr("That belongs to the wheel and can't be changed.");
    if (key.isEmpty() || key == self->action->shortcut()) return {};
    if (const Command* other = hasKey(key, *self))
        return tr("%1 is the key of “%2”. Give that one another key first.")
            .arg(key.toString(), other->action->text());
    if (needed(key) && key != QKeySequence(self->usualKey))
        return tr("%1 is needed by the picture and the lists themselves.").arg(key.toString());
    return {};
}

void Actions::setKey(const QString& id, const QKeySequence& key) {
    const Command* c = find(id);
    if (!c) return;
    c->action->setShortcut(key);
    m_preferences.setKey(
        id, key == QKeySequence(c->usualKey) ? std::nullopt : std::optional<QKeySequence>(key));
    nameKeys();
}

void Actions::setUsualKeys() {
    for (const auto& c : m_all) {
        if (c.how == Command::How::Gesture) continue;
        c.action->setShortcut(QKeySequence(c.usualKey));
        m_preferences.setKey(c.id, std::nullopt);
    }
    nameKeys();
}

void Actions::settleKeys() {
    // The usual key of one may be what a file gives to another, which then is the next to yield.
    for (bool settled = false; !settled;) {
        settled = true;
        for (const auto& c : m_all) {
            const QKeySequence key = c.action->shortcut(), usual(c.usualKey);
            if (c.how == Command::How::Gesture || key == usual) continue;
            if (!hasKey(key, c) && !needed(key)) continue;
            c.action->setShortcut(usual);
            settled = false;
        }
    }
}

void Actions::nameKeys() const {
    for (auto* button : m_window->findChildren<QPushButton*>()) {
        const Command* c = find(button->property("command").toString());
        if (!c) continue;
        if (const QString words = button->property("words").toString(); !words.isEmpty()) {
            nameWithKey(*button, words);
            continue;
        }
        if (!button->property("tip").isValid()) button->setProperty("tip", button->toolTip());
        button->setToolTip(button->property("tip").toString() + keyHint(*button, c->id));
    }
}

}  // namespace gq::desk
