#include "desk/app/keys_dialog.h"

#include <QHeaderView>
#include <QTableWidget>
#include <QVBoxLayout>

namespace gq::desk {

KeysDialog::KeysDialog(const Actions& actions, QWidget* parent) : QDialog(parent) {
    setWindowTitle(tr("Keys"));
    resize(560, 560);
    auto* all = new QVBoxLayout(this);
    auto* table = new QTableWidget(0, 3);
    table->setHorizontalHeaderLabels({tr("Menu"), tr("Command"), tr("Key")});
    table->horizontalHeader()->setSectionResizeMode(1, QHeaderView::Stretch);
    table->verticalHeader()->hide();
    table->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table->setShowGrid(false);
    for (const auto& c : actions.all()) {
        if (c.key.isEmpty()) continue;
        const int row = table->rowCount();
        table->insertRow(row);
        const QStringList cells{c.menu, c.action->text().remove('&'), c.key};
        for (int i = 0; i < 3; ++i) table->setItem(row, i, new QTableWidgetItem(cells[i]));
    }
    all->addWidget(table);
}

}  // namespace gq::desk
