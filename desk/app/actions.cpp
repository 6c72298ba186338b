#include "desk/app/actions.h"

#include <QMenuBar>
#include <QWidget>

namespace gq::desk {

Actions::Actions(QWidget* window) : QObject(window), m_window(window) {}

QAction* Actions::add(const QString& id, const QString& menu, const QString& words,
                      const QString& key, const QString& help, std::function<void()> run) {
    auto* a = new QAction(words, m_window);
    a->setObjectName(id);
    a->setShortcut(QKeySequence(key));
    a->setStatusTip(help);
    connect(a, &QAction::triggered, this, [run = std::move(run)] { run(); });
    m_window->addAction(a);
    m_all.push_back({id, menu, key, help, a});
    return a;
}

void Actions::list(const QString& menu, const QString& words, const QString& key) {
    auto* a = new QAction(words, this);
    m_all.push_back({QString(), menu, key, words, a});
}

QAction* Actions::get(const QString& id) const {
    for (const auto& c : m_all)
        if (c.id == id && !id.isEmpty()) return c.action;
    return nullptr;
}

void Actions::fill(QMenuBar& bar) const {
    for (const auto& c : m_all) {
        if (c.id.isEmpty()) continue;
        QMenu* menu = bar.findChild<QMenu*>(c.menu, Qt::FindDirectChildrenOnly);
        if (!menu) {
            menu = bar.addMenu(c.menu);
            menu->setObjectName(c.menu);
        }
        menu->addAction(c.action);
    }
}

}  // namespace gq::desk
