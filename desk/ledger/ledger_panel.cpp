#include "desk/ledger/ledger_panel.h"

#include <QButtonGroup>
#include <QComboBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QVBoxLayout>

#include "core/render/mend_findings.h"
#include "core/series/lookup.h"
#include "desk/ledger/confidence_chart.h"
#include "desk/ledger/ledger_delegate.h"
#include "desk/look/convert.h"
#include "desk/look/key_hint.h"
#include "desk/look/theme.h"

namespace gq::desk {

namespace {

/// Does the filter hide anything?
bool narrowed(const LedgerModel& model) {
    return model.filter() != LedgerModel::Filter{};
}

}  // namespace

LedgerPanel::LedgerPanel(DeskDocument& document, Work& work, MendWork& mends, Crops& crops,
                         QWidget* parent)
    : QWidget(parent), m_document(document), m_work(work), m_model(document) {
    setObjectName("panel");
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(0, 12, 0, 12);
    all->setSpacing(8);
    auto* head = new QVBoxLayout;
    head->setContentsMargins(12, 0, 12, 0);
    head->setSpacing(8);
    all->addLayout(head);
    m_title = new QLabel;
    m_title->setObjectName("title");
    m_title->setFont(titleFont());
    auto* sort = new QComboBox;
    sort->addItems({tr("by confidence"), tr("by size"), tr("by contrast"), tr("by kind")});
    sort->setFixedWidth(124);
    auto* top = new QHBoxLayout;
    top->addWidget(m_title, 1);
    top->addWidget(sort);
    head->addLayout(top);
    auto* chips = new QHBoxLayout;
    chips->setSpacing(6);
    auto* group = new QButtonGroup(this);
    for (size_t i = 0; i < 3; ++i) {
        m_chips[i] = new QPushButton;
        m_chips[i]->setCheckable(true);
        m_chips[i]->setProperty("chip", true);
        m_chips[i]->setFocusPolicy(Qt::NoFocus);
        m_chips[i]->setChecked(i == 0);
        group->addButton(m_chips[i], int(i));
        chips->addWidget(m_chips[i]);
    }
    chips->addStretch();
    head->addLayout(chips);
    m_finder = new QWidget;
    auto* finder = new QVBoxLayout(m_finder);
    finder->setContentsMargins(0, 0, 0, 0);
    finder->setSpacing(8);
    finder->addWidget(makeFilter());
    finder->addWidget(new ConfidenceChart(document, work));
    auto* under = new QHBoxLayout;
    m_line = new QLabel;
    m_line->setObjectName("dim");
    m_counts = new QLabel;
    m_counts->setObjectName("dim");
    under->addWidget(m_line);
    under->addStretch();
    under->addWidget(m_counts);
    finder->addLayout(under);
    head->addWidget(m_finder);

    m_list = new QListView;
    m_list->setObjectName("ledger");
    m_list->setModel(&m_model);
    m_list->setItemDelegate(new LedgerDelegate(m_model, crops, this));
    m_list->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    m_list->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_list->setFocusPolicy(Qt::NoFocus);
    m_empty = new QLabel;
    m_empty->setObjectName("dim");
    m_empty->setWordWrap(true);
    m_empty->setAlignment(Qt::AlignTop);
    m_empty->setContentsMargins(12, 8, 12, 0);
    all->addWidget(m_list, 1);
    all->addWidget(m_empty, 1);
    all->addWidget(m_mendBox = new MendBox(document, mends));
    m_bulk = new QWidget;
    auto* buttons = new QGridLayout(m_bulk);
    buttons->setContentsMargins(12, 0, 12, 0);
    buttons->setSpacing(6);
    m_leave = new QPushButton;
    m_leave->setProperty("command", "leave");
    m_mend = new QPushButton;
    m_mend->setProperty("command", "mend");
    m_leaveAll = new QPushButton(tr("Leave all"));
    m_leaveAll->setObjectName("leaveAll");
    m_leaveAll->setToolTip(tr("Leave everything listed alone"));
    m_all = new QPushButton(tr("Mend all"));
    m_all->setObjectName("mendAll");
    m_all->setProperty("primary", true);
    int place = 0;
    for (auto* button : {m_leave, m_mend, m_leaveAll, m_all}) {
        button->setFocusPolicy(Qt::NoFocus);
        buttons->addWidget(button, place / 2, place % 2);
        ++place;
    }
    all->addWidget(m_bulk);

    connect(group, &QButtonGroup::idClicked, this, [this](int i) {
        m_model.setShow(LedgerModel::Show(i));
        refresh();
    });
    connect(sort, &QComboBox::activated, this, [this](int i) {
        m_model.setSort(LedgerModel::Sort(i));
        follow();
    });
    connect(&crops, &Crops::made, m_list->viewport(), qOverload<>(&QWidget::update));
    connect(&m_model, &QAbstractItemModel::modelReset, this, [this] {
        refresh();
        follow();
    });
    connect(&document, &DeskDocument::selectionChanged, this, [this] {
        refresh();
        follow();
    });
    connect(m_list->selectionModel(), &QItemSelectionModel::currentChanged, this,
            [this](const QModelIndex& i) {
                if (m_following || !i.isValid() || m_model.row(i.row()).fold) return;
                const auto id = m_model.row(i.row()).id;
                m_document.select(id);
                emit entryChosen(id);
            });
    connect(m_list, &QListView::clicked, this, [this](const QModelIndex& i) {
        if (m_model.row(i.row()).fold) m_model.toggleFold();
    });
    connect(m_leave, &QPushButton::clicked, this, [this] { m_work.leave(m_document.selected()); });
    connect(m_mend, &QPushButton::clicked, this, [this] { m_work.mendOne(m_document.selected()); });
    connect(m_all, &QPushButton::clicked, this, [this] {
        if (narrowed(m_model))
            m_work.mend(m_model.listedOpen());
        else
            m_work.mendAllAbove();
    });
    connect(m_leaveAll, &QPushButton::clicked, this,
            [this] { m_work.leaveThese(m_model.listedOpen()); });
    connect(&document, &DeskDocument::lineMoved, this, [this] { showLine(); });
    refresh();
}

void LedgerPanel::setMending(bool on) {
    m_mending = on;
    refresh();
}

/// Narrows the list; bulk actions then act on what is listed.
QWidget* LedgerPanel::makeFilter() {
    auto* box = new QWidget;
    auto* row = new QHBoxLayout(box);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(6);
    m_kind = new QComboBox;
    m_kind->setObjectName("filterKind");
    m_kind->addItem(tr("All kinds"));
    for (const auto k : find::allKinds()) {
        QString name = text(find::word(k));
        name[0] = name[0].toUpper();
        m_kind->addItem(name);
    }
    const auto number = [](const QString& before, const QString& after, int most,
                           const char* name) {
        auto* n = new QSpinBox;
        n->setObjectName(name);
        n->setRange(0, most);
        n->setPrefix(before);
        n->setSuffix(after);
        n->setButtonSymbols(QAbstractSpinBox::NoButtons);
        n->setFixedWidth(76);
        return n;
    };
    m_leastSize = number(tr("≥ "), tr(" px"), 9999, "filterSize");
    m_leastSize->setToolTip(tr("List only findings of at least this size"));
    m_leastSure = number(tr("≥ "), tr(" %"), 100, "filterSure");
    m_leastSure->setToolTip(tr("List only findings at least this sure"));
    m_onlySeen = new QCheckBox(tr("In sight"));
    m_onlySeen->setToolTip(tr("List only what the chosen output shows"));
    for (QWidget* w : {static_cast<QWidget*>(m_kind), static_cast<QWidget*>(m_leastSize),
                       static_cast<QWidget*>(m_leastSure), static_cast<QWidget*>(m_onlySeen)})
        row->addWidget(w);
    const auto take = [this] {
        LedgerModel::Filter f;
        if (m_kind->currentIndex() > 0)
            f.kind = find::allKinds()[size_t(m_kind->currentIndex() - 1)];
        f.leastSize = float(m_leastSize->value());
        f.leastConfidence = float(m_leastSure->value()) / 100;
        f.onlySeen = m_onlySeen->isChecked();
        m_model.setFilter(f);
    };
    connect(m_kind, &QComboBox::activated, this, take);
    connect(m_leastSize, &QSpinBox::valueChanged, this, take);
    connect(m_leastSure, &QSpinBox::valueChanged, this, take);
    connect(m_onlySeen, &QCheckBox::toggled, this, take);
    return box;
}

void LedgerPanel::step(int by) {
    const int n = m_model.rowCount();
    int i = m_list->currentIndex().isValid() ? m_list->currentIndex().row() : (by > 0 ? -1 : n);
    do i += by;
    while (i >= 0 && i < n && m_model.row(i).fold);
    if (i < 0 || i >= n) return;
    m_list->setCurrentIndex(m_model.index(i));
    m_list->scrollTo(m_model.index(i));
}

void LedgerPanel::follow() {
    // A selected entry is always in the list: the list turns to where it is.
    const bool mended = m_document.selectedMend() != nullptr;
    const auto* finding = m_document.selectedFinding();
    const auto wanted = mended                     ? LedgerModel::Show::Mended
                        : finding && finding->left ? LedgerModel::Show::Left
                                                   : LedgerModel::Show::Open;
    if ((mended || finding) && m_model.show() != wanted &&
        m_model.indexOf(m_document.selected()) < 0) {
        m_chips[size_t(wanted)]->setChecked(true);
        m_model.setShow(wanted);
        return;
    }
    m_following = true;
    const int i = m_model.indexOf(m_document.selected());
    m_list->setCurrentIndex(i < 0 ? QModelIndex() : m_model.index(i));
    if (i >= 0) m_list->scrollTo(m_model.index(i));
    m_following = false;
}

/// The line as it is held, and how many lie on either side of it.
void LedgerPanel::showLine() {
    const auto frame = m_document.current();
    if (!frame) return;
    const float line = m_document.line();
    int above = 0, below = 0;
    const series::Lookup entries(*frame);
    for (const auto& f : frame->findings)
        if (entries.stateOf(f) == series::State::Open)
            ++(series::proposed(f, line) ? above : below);
    m_line->setText(tr("Line %1").arg(double(line), 0, 'f', 2));
    QString counts = tr("%1 above · %2 below").arg(above).arg(below);
    if (m_model.unseen() > 0) counts += tr(" · %1 unseen").arg(m_model.unseen());
    m_counts->setText(counts);
}

void LedgerPanel::refresh() {
    const auto frame = m_document.current();
    m_title->setText(frame ? tr("Findings · %1").arg(text(frame->name())) : tr("Findings"));
    const std::array<QString, 3> names{tr("Open %1"), tr("Mended %1"), tr("Left %1")};
    for (size_t i = 0; i < 3; ++i)
        m_chips[i]->setText(names[i].arg(m_model.count(LedgerModel::Show(i))));
    const int open = m_model.count(LedgerModel::Show::Open);
    showLine();
    const bool empty = m_model.rowCount() == 0;
    m_list->setVisible(!empty);
    m_empty->setVisible(empty);
    m_empty->setText(
        !frame || !frame->searched ? tr("Nothing was searched for on this frame yet. Find on it%1, "
                                        "or touch a spot in Mend%2.")
                                         .arg(keyHint(*this, "find"), keyHint(*this, "stage2"))
        : m_model.show() == LedgerModel::Show::Open ? tr("Nothing is open on this frame.")
                                                    : tr("None here yet."));
    const auto* f = m_document.selectedFinding();
    const bool openOne = f && !m_document.selectedMend();
    // A selected mend's settings take the place of what finding needs.
    const bool settings = m_document.selectedMend() && m_mending;
    m_mendBox->setVisible(settings);
    m_finder->setVisible(!settings);
    m_bulk->setVisible(!settings);
    m_leave->setEnabled(openOne);
    m_mend->setEnabled(openOne);
    const int row = m_model.indexOf(m_document.selected());
    const int along = openOne && row >= 0 ? m_model.row(row).rollFrames : 0;
    const QString where = along > 1 ? tr(" on all %1").arg(along) : QString();
    nameWithKey(*m_leave, (openOne && f->left ? tr("Reopen%1") : tr("Leave%1")).arg(where));
    nameWithKey(*m_mend, tr("Mend%1").arg(where));
    for (auto* button : {m_leave, m_mend})
        button->setToolTip(along > 1 ? tr("This line runs along the roll: on all %1 frames that "
                                          "show it")
                                           .arg(along)
                                     : QString());
    const bool filtered = narrowed(m_model);
    const auto s = m_document.now();
    const int listed = filtered             ? int(m_model.listedOpen().size())
                       : s && s->skipUnseen ? open - m_model.unseen()
                                            : open;
    m_all->setEnabled(listed > 0);
    m_all->setText(listed > 0 ? (filtered ? tr("Mend these %1") : tr("Mend all %1")).arg(listed)
                              : tr("Mend all"));
    m_leaveAll->setEnabled(!m_model.listedOpen().empty());
    m_leaveAll->setText(filtered ? tr("Leave these") : tr("Leave all"));
    m_onlySeen->setVisible(s && s->sight.use != find::Sight::Use::Off);
}

}  // namespace gq::desk
