#pragma once
#include <QAction>
#include <QObject>
#include <functional>
#include <vector>

class QMenuBar;

namespace gq::desk {

/// Every command of the window, registered once: id, menu, words, key, help. Menus, the command
/// search and the list of keys are made from it.
class Actions : public QObject {
    Q_OBJECT
  public:
    struct Command {
        QString id, menu, key, help;
        QAction* action = nullptr;
    };
    explicit Actions(QWidget* window);

    QAction* add(const QString& id, const QString& menu, const QString& words, const QString& key,
                 const QString& help, std::function<void()> run);
    /// A key that is held or pressed elsewhere than through an action; listed all the same.
    void list(const QString& menu, const QString& words, const QString& key);
    [[nodiscard]] QAction* get(const QString& id) const;
    [[nodiscard]] const std::vector<Command>& all() const { return m_all; }
    void fill(QMenuBar& bar) const;

  private:
    QWidget* m_window;
    std::vector<Command> m_all;
};

}  // namespace gq::desk
