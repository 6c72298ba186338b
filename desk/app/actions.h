#pragma once
#include <QAction>
#include <QObject>
#include <functional>
#include <vector>

#include "desk/app/preferences.h"

class QMenuBar;

namespace gq::desk {

/// Every command of the window, registered once: id, menu, words, key, help. Menus, the command
/// search, the list of keys, and the keys that buttons and their tips name are made from it.
class Actions : public QObject {
    Q_OBJECT
  public:
    struct Command {
        QString id, menu, help;
        QString usualKey;  ///< as it comes; of a gesture its words
        QAction* action = nullptr;
        enum class How { Run, Held, Gesture } how = How::Run;
    };
    Actions(QWidget* window, Preferences& preferences);

    QAction* add(const QString& id, const QString& menu, const QString& words, const QString& key,
                 const QString& help, std::function<void()> run);
    /// A key that works while it is held down; whoever handles it asks `isKeyOf`.
    void hold(const QString& id, const QString& menu, const QString& words, const QString& key);
    /// What the wheel or a list's own keys do; listed, not to be changed.
    void list(const QString& menu, const QString& words, const QString& gesture);
    [[nodiscard]] QAction* get(const QString& id) const;
    [[nodiscard]] const std::vector<Command>& all() const { return m_all; }
    void fill(QMenuBar& bar) const;

    [[nodiscard]] static QString keyText(const Command& command);
    [[nodiscard]] bool isKeyOf(const QString& id, const QKeyEvent& event) const;
    /// Why the command can't have that key, in words; empty if it can.
    [[nodiscard]] QString refusal(const QString& id, const QKeySequence& key) const;
    /// Gives it a key that is not refused, or none, and keeps that.
    void setKey(const QString& id, const QKeySequence& key);
    void setUsualKeys();
    /// To be called once all are registered: a key that a file edited by hand gives to a command
    /// but that another one has, or that the picture needs, counts as not chosen.
    void settleKeys();

    /// Buttons with a property "command" tell that command's key at the end of their tip, those
    /// with a property "words" on themselves instead.
    void nameKeys() const;

  private:
    QAction* make(Command command, const QString& words);
    [[nodiscard]] const Command* find(const QString& id) const;
    /// The command that has a key, `apart` from one; null if none has.
    [[nodiscard]] const Command* hasKey(const QKeySequence& key, const Command& apart) const;
    QWidget* m_window;
    Preferences& m_preferences;
    std::vector<Command> m_all;
};

}  // namespace gq::desk
