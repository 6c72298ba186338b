#include "desk/stages/carry_panel.h"

#include <QFormLayout>
#include <QVBoxLayout>
#include <map>

#include "desk/look/convert.h"
#include "desk/look/theme.h"
#include "desk/stages/chart_box.h"
#include "desk/stages/series_panel.h"
#include "desk/stages/set_box.h"

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

CarryPanel::CarryPanel(DeskDocument& document, Work& work, LiveCarry& live, Jobs& jobs,
                       QWidget* parent)
    : QWidget(parent), m_document(document), m_work(work), m_live(live), m_jobs(jobs) {
    setObjectName("panel");
    setAttribute(Qt::WA_StyledBackground);
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(12, 12, 12, 12);
    all->setSpacing(8);
    all->addWidget(m_title = sectionTitle(tr("Carry")));
    auto* form = new QFormLayout;
    form->setVerticalSpacing(8);
    const auto choice = [](const char* name, const QStringList& items, const QString& help) {
        auto* box = new QComboBox;
        box->setObjectName(name);
        box->addItems(items);
        box->setToolTip(help);
        box->setMinimumContentsLength(12);
        return box;
    };
    m_what = choice("carryWhat", {}, tr("Mends of the reference frame"));
    form->addRow(dim(tr("What")), m_what);
    form->addRow(m_whatNote = value());
    m_where = choice("carryWhere",
                     {tr("ticked frames"), tr("those not yet carried to"), tr("all frames")},
                     tr("Frames are ticked at the left"));
    form->addRow(dim(tr("Where")), m_where);
    form->addRow(m_whereNote = value());
    m_source = choice("carrySource", {tr("fresh in each frame"), tr("same everywhere")},
                      tr("Same everywhere suits brackets and focus stacks"));
    form->addRow(dim(tr("Source")), m_source);
    m_shadows = choice("carryShadows", {tr("divide out"), tr("heal")},
                       tr("What four frames or more tell of a shadow is divided out, so that the "
                          "true picture under it comes back"));
    form->addRow(m_shadowsName = dim(tr("Shadows")), m_shadows);
    m_existing = choice("carryExisting", {tr("add to them"), tr("replace earlier carries")},
                        tr("What earlier carries from this frame left in the others"));
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
    m_asIGo = new QCheckBox;
    m_asIGo->setObjectName("carryAsIGo");
    m_asIGo->setToolTip(
        tr("Each mend of the reference that is made, changed or deleted goes to "
           "the ticked frames at once, in the background"));
    all->addWidget(m_asIGo);
    all->addSpacing(8);
    all->addWidget(new SetBox(document, work, jobs));
    all->addSpacing(8);
    all->addWidget(new ChartBox(document, work, jobs));
    all->addStretch();
    m_go = new QPushButton;
    m_go->setObjectName("carry");
    m_go->setProperty("primary", true);
    m_go->setIcon(icon("carry", &Theme::onAccent));
    all->addWidget(m_go);
    for (auto* box : {m_what, m_where, m_source})
        connect(box, &QComboBox::activated, this, &CarryPanel::refresh);
    connect(m_go, &QPushButton::clicked, this, &CarryPanel::carry);
    connect(m_only, &QCheckBox::toggled, this, &CarryPanel::onlyLooks);
    connect(m_asIGo, &QCheckBox::toggled, &live, &LiveCarry::setOn);
    connect(m_shadows, &QComboBox::activated, &live,
            [&live](int item) { live.setUnshade(item == 0); });
    connect(&live, &LiveCarry::changed, this, [this] {
        const QSignalBlocker quiet(m_asIGo);
        m_asIGo->setChecked(m_live.on());
        m_asIGo->setText(m_live.on() ? tr("Carry as I go: %1 of %2")
                                           .arg(m_live.upToDate())
                                           .arg(counted(m_live.frames(), tr("frame")))
                                     : tr("Carry as I go"));
    });
    m_asIGo->setText(tr("Carry as I go"));
    connect(&document, &DeskDocument::changed, this, &CarryPanel::refresh);
    connect(&document, &DeskDocument::ticksChanged, this, &CarryPanel::refresh);
    connect(&document, &DeskDocument::selectionChanged, this, &CarryPanel::refresh);
    connect(&jobs, &Jobs::changed, this, &CarryPanel::refresh);
    refresh();
}

namespace {

/// The name a mend goes by in "What": its finding's kind, or that it was made by hand.
QString kindOf(const series::Frame& frame, const series::MendEntry& m) {
    const auto* f = frame.finding(m.finding);
    return f ? text(find::word(f->finding.kind)) : QString();
}

const QString kAll = QStringLiteral("all"), kChosen = QStringLiteral("chosen"),
              kKind = QStringLiteral("kind:"), kGroup = QStringLiteral("group:");

}  // namespace

std::vector<series::Id> CarryPanel::chosen(const series::Frame& reference) const {
    const QString what = m_what->currentData().toString();
    std::vector<series::Id> out;
    const auto& picked = m_document.chosenMends();
    for (const auto& m : reference.mends) {
        const bool in = what == kChosen
                            ? std::find(picked.begin(), picked.end(), m.id) != picked.end()
                        : what.startsWith(kKind)  ? what.mid(kKind.size()) == kindOf(reference, m)
                        : what.startsWith(kGroup) ? what.mid(kGroup.size()) == text(m.group)
                                                  : true;
        if (in && !m.muted) out.push_back(m.id);
    }
    return out;
}

std::vector<std::string> CarryPanel::targets() const {
    std::vector<std::string> out;
    const auto s = m_document.now();
    const auto open = [&](const series::Frame& f) {
        return std::none_of(f.carried.begin(), f.carried.end(),
                            [&](const auto& c) { return c.fromFrame == s->reference; });
    };
    for (const auto& f : s->frames) {
        const int where = m_where->currentIndex();
        const bool in = where == 0 ? m_document.ticked(f->id) : where == 1 ? open(*f) : true;
        if (in && f->id != s->reference) out.push_back(f->id);
    }
    return out;
}

void CarryPanel::carry() {
    const auto s = m_document.now();
    const auto reference = s ? s->frame(s->reference) : nullptr;
    if (!reference || m_jobs.busy()) return;
    m_work.carry({s->reference, chosen(*reference), targets(),
                  carry::SourceRule(m_source->currentIndex()),
                  carry::Existing(m_existing->currentIndex()), m_shadows->currentIndex() == 0});
}

/// Offers what there is: all, the chosen ones, each kind, each group.
void CarryPanel::refreshWhat(const series::Frame& reference) {
    const QVariant was = m_what->currentData();
    const QSignalBlocker quiet(m_what);
    m_what->clear();
    m_what->addItem(tr("all mends"), kAll);
    const auto& picked = m_document.chosenMends();
    if (std::any_of(picked.begin(), picked.end(),
                    [&](series::Id id) { return reference.mend(id) != nullptr; }))
        m_what->addItem(tr("the chosen mends"), kChosen);
    std::map<QString, int> kinds, groups;
    for (const auto& m : reference.mends) {
        if (m.muted) continue;
        ++kinds[kindOf(reference, m)];
        if (!m.group.empty()) ++groups[text(m.group)];
    }
    QStringList note;
    for (const auto& [kind, n] : kinds) {
        const QString words = kind.isEmpty() ? tr("%1 by hand").arg(n) : counted(n, kind);
        m_what->addItem(words, kKind + kind);
        note << words;
    }
    for (const auto& [group, n] : groups)
        m_what->addItem(tr("“%1”, %2").arg(group).arg(n), kGroup + group);
    m_what->setCurrentIndex(std::max(0, m_what->findData(was)));
    m_whatNote->setText(note.isEmpty() ? tr("no mends yet") : note.join(QStringLiteral(", ")));
}

void CarryPanel::refresh() {
    const auto s = m_document.now();
    const auto reference = s ? s->frame(s->reference) : nullptr;
    m_go->setEnabled(false);
    if (!reference) return;
    m_title->setText(tr("Carry from %1").arg(text(reference->name())));
    refreshWhat(*reference);
    const bool sensor = s->plan.origin == find::Origin::Sensor && m_source->currentIndex() == 0;
    m_shadows->setVisible(sensor);
    m_shadowsName->setVisible(sensor);
    const auto live = chosen(*reference).size();
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
    m_whereNote->setText(tr("%1%2").arg(counted(list.size(), tr("frame")),
                                        turned ? tr(", %1 turned").arg(turned) : QString()));
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
    m_go->setText(tr("Carry %1 to %2")
                      .arg(counted(qsizetype(live), tr("mend")),
                           counted(qsizetype(list.size()), tr("frame"))));
}

}  // namespace gq::desk
