#include "desk/app/preferences_dialog.h"

#include <QButtonGroup>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QVBoxLayout>

#include "desk/bench/tray.h"
#include "desk/look/theme.h"

namespace gq::desk {
namespace {

QLabel* title(const QString& words) {
    auto* label = new QLabel(words);
    label->setObjectName("title");
    label->setFont(titleFont());
    return label;
}

QPushButton* named(const QString& words, const char* name) {
    auto* b = new QPushButton(words);
    b->setObjectName(name);
    b->setAutoDefault(false);
    return b;
}

}  // namespace

PreferencesDialog::PreferencesDialog(Actions& actions, Preferences& preferences, QWidget* parent)
    : QDialog(parent), m_actions(actions), m_preferences(preferences) {
    setObjectName("preferences");
    setWindowTitle(tr("Preferences"));
    resize(620, 640);
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(16, 16, 16, 12);
    all->setSpacing(8);
    all->addWidget(title(tr("Window")));
    all->addWidget(makeLook());
    all->addSpacing(8);
    all->addWidget(title(tr("Keys")));
    m_words = new QLineEdit;
    m_words->setObjectName("keyWords");
    m_words->setPlaceholderText(tr("A command's words, or a key"));
    all->addWidget(m_words);
    m_keys = new QTableWidget(0, 3);
    m_keys->setHorizontalHeaderLabels({tr("Menu"), tr("Command"), tr("Key")});
    m_keys->horizontalHeader()->setSectionResizeMode(1, QHeaderView::Stretch);
    m_keys->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    m_keys->setColumnWidth(0, 80);
    m_keys->setColumnWidth(2, 150);
    m_keys->verticalHeader()->hide();
    m_keys->setEditTriggers(QAbstractItemView::NoEditTriggers);
    m_keys->setSelectionBehavior(QAbstractItemView::SelectRows);
    m_keys->setSelectionMode(QAbstractItemView::SingleSelection);
    m_keys->setShowGrid(false);
    m_keys->setTabKeyNavigation(false);
    all->addWidget(m_keys, 1);
    all->addWidget(makeKeyRow());
    m_told = new QLabel;
    m_told->setObjectName("look");
    m_told->setWordWrap(true);
    m_told->setMinimumHeight(34);
    all->addWidget(m_told);
    auto* last = new QHBoxLayout;
    auto* usual = named(tr("All keys as they came"), "usualKeys");
    auto* done = named(tr("Done"), "done");
    done->setProperty("primary", true);
    last->addWidget(usual);
    last->addStretch();
    last->addWidget(done);
    all->addLayout(last);

    fillKeys();
    m_keys->setCurrentCell(0, 1);
    showChosen();
    connect(m_words, &QLineEdit::textChanged, this, &PreferencesDialog::narrow);
    connect(m_keys, &QTableWidget::currentCellChanged, this, [this] {
        tell({});
        showChosen();
    });
    connect(m_keys, &QTableWidget::cellActivated, m_field, [this] { m_field->setFocus(); });
    connect(m_field, &KeyField::pressed, this, &PreferencesDialog::give);
    connect(m_none, &QPushButton::clicked, this, [this] { give({}); });
    connect(m_usual, &QPushButton::clicked, this, [this] {
        if (const auto* c = chosen()) give(QKeySequence(c->usualKey));
    });
    connect(usual, &QPushButton::clicked, this, [this] {
        m_actions.setUsualKeys();
        fillKeys();
        tell(m_preferences.problem());
    });
    connect(done, &QPushButton::clicked, this, &QDialog::accept);
}

QWidget* PreferencesDialog::makeLook() {
    auto* box = new QWidget;
    auto* row = new QHBoxLayout(box);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(0);
    auto* tone = new QButtonGroup(this);
    for (const bool dark : {true, false}) {
        auto* b = named(dark ? tr("Dark") : tr("Light"), dark ? "dark" : "light");
        b->setCheckable(true);
        b->setProperty("segment", true);
        b->setChecked(theme().dark == dark);
        tone->addButton(b, dark);
        row->addWidget(b);
    }
    row->addSpacing(24);
    auto* surround = new ValueSlider(tr("Grey around the picture, %"), Preferences::kDarkest,
                                     Preferences::kLightest);
    surround->setObjectName("surround");
    surround->setToolTip(tr("How much light it returns; %1 is a photographer's middle grey")
                             .arg(Preferences::kUsual));
    surround->setValue(m_preferences.surround());
    surround->stretch(176);
    row->addWidget(surround, 1);
    connect(tone, &QButtonGroup::idClicked, this, [this](int dark) {
        m_preferences.setDark(dark != 0);
        emit lookChanged();
        tell(m_preferences.problem());
    });
    connect(surround, &ValueSlider::settled, this, [this](int percent) {
        m_preferences.setSurround(percent);
        emit lookChanged();
        tell(m_preferences.problem());
    });
    return box;
}

QWidget* PreferencesDialog::makeKeyRow() {
    auto* box = new QWidget;
    auto* row = new QHBoxLayout(box);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(8);
    m_name = new QLabel;
    m_name->setObjectName("dim");
    m_field = new KeyField;
    m_field->setObjectName("newKey");
    m_field->setFixedWidth(140);
    m_none = named(tr("No key"), "noKey");
    m_usual = named({}, "usualKey");
    row->addWidget(m_name, 1);
    for (QWidget* w : {static_cast<QWidget*>(m_field), static_cast<QWidget*>(m_none),
                       static_cast<QWidget*>(m_usual)})
        row->addWidget(w);
    return box;
}

void PreferencesDialog::showKeys() {
    m_words->setFocus();
}

void PreferencesDialog::fillKeys() {
    const auto& all = m_actions.all();
    m_keys->setRowCount(int(all.size()));
    for (int i = 0; i < int(all.size()); ++i) {
        const auto& c = all[size_t(i)];
        const QStringList cells{c.menu, c.action->text().remove('&'), Actions::keyText(c)};
        const bool own = c.how != Actions::Command::How::Gesture &&
                         c.action->shortcut() != QKeySequence(c.usualKey);
        for (int k = 0; k < 3; ++k) {
            auto* item =
                new QTableWidgetItem(k == 2 && own ? cells[k] + tr("  · yours") : cells[k]);
            if (c.how == Actions::Command::How::Gesture) item->setForeground(theme().dim);
            m_keys->setItem(i, k, item);
        }
    }
    narrow(m_words->text());
    showChosen();
}

void PreferencesDialog::narrow(const QString& words) {
    for (int i = 0; i < m_keys->rowCount(); ++i) {
        QString row;
        for (int k = 0; k < 3; ++k) row += m_keys->item(i, k)->text() + ' ';
        m_keys->setRowHidden(i, !row.contains(words.trimmed(), Qt::CaseInsensitive));
    }
}

const Actions::Command* PreferencesDialog::chosen() const {
    const int row = m_keys->currentRow();
    return row < 0 ? nullptr : &m_actions.all()[size_t(row)];
}

void PreferencesDialog::showChosen() {
    const auto* c = chosen();
    const bool open = c && c->how != Actions::Command::How::Gesture;
    m_name->setText(c ? c->action->text().remove('&') : QString());
    m_field->clear();
    m_field->setEnabled(open);
    m_none->setEnabled(open && !c->action->shortcut().isEmpty());
    m_usual->setEnabled(open && c->action->shortcut() != QKeySequence(c->usualKey));
    m_usual->setText(open && !c->usualKey.isEmpty() ? tr("As it came: %1").arg(c->usualKey)
                                                    : tr("As it came"));
}

void PreferencesDialog::give(const QKeySequence& key) {
    const auto* c = chosen();
    if (!c) return;
    const QString refused = m_actions.refusal(c->id, key);
    tell(refused);
    if (!refused.isEmpty()) return;
    m_actions.setKey(c->id, key);
    fillKeys();
    tell(m_preferences.problem());
}

void PreferencesDialog::tell(const QString& words) {
    m_told->setText(words.isEmpty() ? QString() : QStringLiteral("⚑ ") + words);
}

}  // namespace gq::desk
