#include "desk/stages/carry_panel.h"

#include <QFormLayout>
#include <QVBoxLayout>
#include <map>

#include "desk/look/convert.h"
#include "desk/look/theme.h"
#include "desk/stages/series_panel.h"

namespace gq::desk {
namespace {

QLabel* dim(const QString& words) {
    auto* label = new QLabel(words);
    label->setObjectName("dim");
    return label;
}

QLabel* value() {
    auto* label = new QLabel;
    label->setWordWrap(true);
    label->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    return label;
}

}  // namespace

CarryPanel::CarryPanel(DeskDocument& document, Work& work, Jobs& jobs, QWidget* parent)
    : QWidget(parent), m_document(document), m_work(work), m_jobs(jobs) {
    setObjectName("panel");
    setAttribute(Qt::WA_StyledBackground);
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(12, 12, 12, 12);
    all->setSpacing(8);
    all->addWidget(m_title = sectionTitle(tr("Carry")));
    auto* form = new QFormLayout;
    form->setVerticalSpacing(8);
    form->addRow(dim(tr("What")), m_what = value());
    form->addRow(dim(tr("Where")), m_where = value());
    m_source = new QComboBox;
    m_source->addItems({tr("fresh in each frame"), tr("same everywhere")});
    m_source->setToolTip(tr("Same everywhere suits brackets and focus stacks"));
    form->addRow(dim(tr("Source")), m_source);
    m_existing = new QComboBox;
    m_existing->addItems({tr("add to them"), tr("replace earlier carries")});
    m_existing->setCurrentIndex(1);
    form->addRow(dim(tr("Existing mends")), m_existing);
    all->addLayout(form);
    m_refused = new QLabel;
    m_refused->setObjectName("look");
    m_refused->setWordWrap(true);
    all->addWidget(m_refused);
    all->addSpacing(8);
    all->addWidget(sectionTitle(tr("Result")));
    auto* result = new QFormLayout;
    result->setVerticalSpacing(8);
    result->addRow(dim(tr("Mended")), m_mended = value());
    result->addRow(dim(tr("Not visible, left alone")), m_hidden = value());
    auto* look = new QLabel(tr("⚑ Needs a look"));
    look->setObjectName("look");
    result->addRow(look, m_looks = value());
    all->addLayout(result);
    m_only = new QCheckBox(tr("Only rows that need a look"));
    all->addWidget(m_only);
    all->addStretch();
    m_go = new QPushButton;
    m_go->setObjectName("carry");
    m_go->setProperty("primary", true);
    m_go->setIcon(icon("carry"));
    all->addWidget(m_go);
    connect(m_go, &QPushButton::clicked, this, &CarryPanel::carry);
    connect(m_only, &QCheckBox::toggled, this, &CarryPanel::onlyLooks);
    connect(&document, &DeskDocument::changed, this, &CarryPanel::refresh);
    connect(&document, &DeskDocument::ticksChanged, this, &CarryPanel::refresh);
    connect(&jobs, &Jobs::changed, this, &CarryPanel::refresh);
    refresh();
}

std::vector<std::string> CarryPanel::targets() const {
    std::vector<std::string> out;
    const auto s = m_document.now();
    for (const auto& f : s->frames)
        if (f->id != s->reference && m_document.ticked(f->id)) out.push_back(f->id);
    return out;
}

void CarryPanel::carry() {
    const auto s = m_document.now();
    if (!s || m_jobs.busy()) return;
    m_work.carry({s->reference,
                  {},
                  targets(),
                  carry::SourceRule(m_source->currentIndex()),
                  carry::Existing(m_existing->currentIndex())});
}

void CarryPanel::refresh() {
    const auto s = m_document.now();
    const auto reference = s ? s->frame(s->reference) : nullptr;
    m_go->setEnabled(false);
    if (!reference) return;
    m_title->setText(tr("Carry from %1").arg(text(reference->name())));
    std::map<QString, int> kinds;
    int live = 0;
    for (const auto& m : reference->mends) {
        if (m.muted) continue;
        ++live;
        const auto* f = reference->finding(m.finding);
        ++kinds[f ? text(find::word(f->finding.kind)) : tr("by hand")];
    }
    QStringList what;
    for (const auto& [kind, n] : kinds)
        what << (kind == tr("by hand")
                     ? tr("%1 by hand").arg(n)
                     : QStringLiteral("%1 %2%3").arg(n).arg(kind, n == 1 ? "" : "s"));
    m_what->setText(what.isEmpty() ? tr("no mends yet") : what.join(QStringLiteral(", ")));
    int turned = 0;
    QStringList refused;
    const auto list = targets();
    for (const auto& id : list) {
        const auto f = s->frame(id);
        turned +=
            swapsSides(f->geometry.orientation) != swapsSides(reference->geometry.orientation);
        if (const auto why = carry::refusal(*reference, *f); !why.empty())
            refused << tr("%1: %2").arg(text(f->name()), text(why));
    }
    m_where->setText(
        tr("%1 frames%2").arg(list.size()).arg(turned ? tr(", %1 turned").arg(turned) : QString()));
    m_refused->setText(refused.join('\n'));
    m_refused->setVisible(!refused.isEmpty());
    std::array<int, 3> count{};
    for (const auto& f : s->frames)
        for (const auto& c : f->carried)
            if (c.fromFrame == s->reference) ++count[size_t(c.verdict)];
    m_mended->setText(QString::number(count[0]));
    m_hidden->setText(QString::number(count[1]));
    m_looks->setText(QString::number(count[2]));
    m_go->setEnabled(live > 0 && !list.empty() && !m_jobs.busy());
    m_go->setText(tr("Carry %1 mends to %2 frames").arg(live).arg(list.size()));
}

}  // namespace gq::desk
