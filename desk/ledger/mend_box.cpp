#include "desk/ledger/mend_box.h"

#include <QColorDialog>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QMenu>
#include <QVBoxLayout>

#include "desk/look/convert.h"
#include "desk/look/theme.h"

namespace gq::desk {

MendBox::MendBox(DeskDocument& document, MendWork& mends, QWidget* parent)
    : QWidget(parent), m_document(document), m_mends(mends) {
    setObjectName("mendBox");
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(12, 8, 12, 0);
    all->setSpacing(6);
    m_title = new QLabel;
    m_title->setObjectName("title");
    m_title->setFont(titleFont());
    m_method = new QComboBox;
    m_method->setObjectName("method");
    m_method->setToolTip(tr("How the place is mended"));
    for (const auto m : mend::allMethods()) m_method->addItem(nameOf(m));
    all->addWidget(row({m_title, m_method}));
    makeSettings(*all);
    m_report = new QLabel;
    m_report->setObjectName("report");
    m_report->setWordWrap(true);
    m_fix = button({}, {}, "fix");
    all->addWidget(row({m_report, m_fix}));
    makeActions(*all);
    connect(m_method, &QComboBox::activated, this, [this](int i) {
        m_mends.change(tr("change the method"), [&](mend::Mend& m) {
            m.method = mend::allMethods()[size_t(i)];
            m.candidate = 0;
        });
    });
    for (auto signal : {&DeskDocument::changed, &DeskDocument::selectionChanged})
        connect(&document, signal, this, &MendBox::refresh);
    connect(&mends, &MendWork::reported, this, &MendBox::showReport);
    connect(&mends, &MendWork::candidatesDrawn, this, &MendBox::showCandidates);
    refresh();
}

QWidget* MendBox::row(const std::vector<QWidget*>& parts) {
    auto* w = new QWidget;
    auto* line = new QHBoxLayout(w);
    line->setContentsMargins(0, 0, 0, 0);
    line->setSpacing(6);
    for (auto* p : parts) line->addWidget(p);
    return w;
}

QPushButton* MendBox::button(const QString& words, const QString& help, const char* name) {
    auto* b = new QPushButton(words);
    b->setObjectName(name);
    b->setToolTip(help);
    b->setFocusPolicy(Qt::NoFocus);
    return b;
}

ValueSlider* MendBox::slider(const QString& name, int least, int most, const QString& step,
                             Take take) {
    auto* s = new ValueSlider(name, least, most);
    s->stretch();
    connect(s, &ValueSlider::moved, this,
            [this, take](int v) { m_mends.preview([&](mend::Mend& m) { take(m, v); }); });
    connect(s, &ValueSlider::settled, this, [this, take, step](int v) {
        m_mends.change(step, [&](mend::Mend& m) { take(m, v); });
    });
    return s;
}

void MendBox::makeSettings(QVBoxLayout& all) {
    m_softness = slider(tr("Softness"), 0, 40, tr("change the softness"),
                        [](mend::Mend& m, int v) { m.softness = float(v); });
    m_strength = slider(tr("Strength"), 0, 100, tr("change the strength"),
                        [](mend::Mend& m, int v) { m.strength = float(v) / 100; });
    m_grain = slider(tr("Grain"), 0, 100, tr("change the grain"),
                     [](mend::Mend& m, int v) { m.grain = float(v) / 100; });
    m_turn = slider(tr("Turn"), -180, 180, tr("turn the source"),
                    [](mend::Mend& m, int v) { m.turn.degrees = float(v); });
    m_scale = slider(tr("Scale"), 80, 125, tr("scale the source"),
                     [](mend::Mend& m, int v) { m.turn.scale = float(v) / 100; });
    m_mirror = new QCheckBox(tr("Mirrored"));
    connect(m_mirror, &QCheckBox::clicked, this, [this](bool on) {
        m_mends.change(tr("mirror the source"), [&](mend::Mend& m) { m.turn.mirrored = on; });
    });
    m_largest = slider(tr("Largest"), 2, 40, tr("change what is sifted"),
                       [](mend::Mend& m, int v) { m.sifting.largest = float(v); });
    m_contrast = slider(tr("Contrast"), 1, 40, tr("change what is sifted"),
                        [](mend::Mend& m, int v) { m.sifting.contrast = float(v) / 100; });
    m_light = new QCheckBox(tr("Light"));
    m_dark = new QCheckBox(tr("Dark"));
    for (auto* c : {m_light, m_dark})
        connect(c, &QCheckBox::clicked, this, [this] {
            m_mends.change(tr("change what is sifted"), [&](mend::Mend& m) {
                m.sifting.light = m_light->isChecked();
                m.sifting.dark = m_dark->isChecked();
            });
        });
    m_tone = button({}, tr("The colour that is touched in"), "tone");
    connect(m_tone, &QPushButton::clicked, this, [this] {
        const auto* m = m_document.selectedMend();
        if (!m) return;
        const auto& t = m->mend.tone;
        const QColor picked = QColorDialog::getColor(QColor::fromRgbF(t[0], t[1], t[2]), this,
                                                     tr("Colour to touch in"));
        if (picked.isValid())
            m_mends.change(tr("change the colour"), [&](mend::Mend& one) {
                one.tone = {float(picked.redF()), float(picked.greenF()), float(picked.blueF())};
            });
    });
    for (auto* s : {m_softness, m_strength, m_grain}) all.addWidget(s);
    m_placedRow = new QWidget;
    auto* placed = new QVBoxLayout(m_placedRow);
    m_siftRow = new QWidget;
    auto* sift = new QVBoxLayout(m_siftRow);
    for (auto* layout : {placed, sift}) {
        layout->setContentsMargins(0, 0, 0, 0);
        layout->setSpacing(6);
    }
    for (QWidget* w : {static_cast<QWidget*>(m_turn), static_cast<QWidget*>(m_scale),
                       static_cast<QWidget*>(m_mirror)})
        placed->addWidget(w);
    sift->addWidget(m_largest);
    sift->addWidget(m_contrast);
    sift->addWidget(row({m_light, m_dark}));
    auto* toneName = new QLabel(tr("Colour"));
    toneName->setObjectName("dim");
    toneName->setFixedWidth(64);
    m_toneRow = row({toneName, m_tone});
    std::vector<QWidget*> shown;
    for (size_t i = 0; i < m_candidates.size(); ++i) {
        auto* b = button({}, tr("Choose this result"), "candidate");
        b->setIconSize({56, 56});
        b->setFixedSize(66, 66);
        connect(b, &QPushButton::clicked, this, [this, i] {
            m_mends.change(tr("choose a result"),
                           [&](mend::Mend& m) { m.candidate = int(i), m.source.reset(); });
        });
        shown.push_back(m_candidates[i] = b);
    }
    m_candidateRow = row(shown);
    for (auto* w : {m_placedRow, m_siftRow, m_toneRow, m_candidateRow}) all.addWidget(w);
}

void MendBox::makeActions(QVBoxLayout& all) {
    auto* another = button(tr("Another"), tr("The next result"), "anotherResult");
    auto* grow = button(tr("Grow"), tr("The outline by 1 px"), "grow");
    auto* shrink = button(tr("Shrink"), tr("The outline by 1 px"), "shrink");
    m_mute = button(tr("Mute"), tr("Keep it without applying it"), "mute");
    const std::pair<QPushButton*, const char*> keyed[]{
        {another, "another"}, {grow, "grow"}, {shrink, "shrink"}};
    for (const auto& [b, command] : keyed) {
        b->setProperty("command", command);
        b->setProperty("words", b->text());
    }
    m_mute->setProperty("command", "mute");
    m_mute->setCheckable(true);
    m_more = button(tr("More"), tr("Group, order, split, copy to other frames"), "more");
    all.addWidget(row({grow, shrink, m_mute}));
    all.addWidget(row({another, m_more}));
    connect(another, &QPushButton::clicked, this, [this] { m_mends.another(); });
    connect(grow, &QPushButton::clicked, this, [this] { m_mends.grow(1); });
    connect(shrink, &QPushButton::clicked, this, [this] { m_mends.grow(-1); });
    connect(m_mute, &QPushButton::clicked, this, [this](bool on) { m_mends.setMuted(on); });
    connect(m_more, &QPushButton::clicked, this, &MendBox::openMore);
    connect(m_fix, &QPushButton::clicked, this, [this] {
        const auto& r = m_mends.report();
        if (!r.left.empty())
            m_mends.growOverLeft();
        else if (!r.remnant.empty())
            m_mends.mendRest();
        else if (r.checks.repeats() || r.checks.seamShows())
            m_mends.another();
        else if (r.twoMaterials)
            m_mends.split();
    });
}

void MendBox::openMore() {
    QMenu menu(this);
    menu.addAction(tr("Group…"), this, [this] {
        bool ok = false;
        const auto* m = m_document.selectedMend();
        const QString name =
            QInputDialog::getText(this, tr("Group"), tr("Name of the group (empty = none)"),
                                  QLineEdit::Normal, m ? text(m->group) : QString(), &ok);
        if (ok) m_mends.setGroup(name);
    });
    if (const auto* m = m_document.selectedMend(); m && !m->group.empty())
        menu.addAction(tr("Choose all of “%1”").arg(text(m->group)), this,
                       [this, group = m->group] {
                           std::vector<series::Id> ids;
                           for (const auto& e : m_document.current()->mends)
                               if (e.group == group) ids.push_back(e.id);
                           m_document.selectMends(ids);
                       });
    menu.addAction(tr("Lay earlier"), this, [this] { m_mends.reorder(-1); });
    menu.addAction(tr("Lay later"), this, [this] { m_mends.reorder(1); });
    menu.addAction(tr("Split where materials meet"), this, [this] { m_mends.split(); });
    menu.addAction(tr("Take it from another frame"), this,
                   [this] { m_mends.lendFromAnotherFrame(); });
    menu.addAction(tr("Copy to the ticked frames"), this, [this] { m_mends.duplicate(); });
    menu.exec(m_more->mapToGlobal(QPoint(0, -menu.sizeHint().height())));
}

void MendBox::refresh() {
    const auto* entry = m_document.selectedMend();
    if (!entry) return;
    const auto& m = entry->mend;
    const auto count = int(m_document.chosenMends().size());
    m_title->setText(count > 1              ? tr("%1 mends").arg(count)
                     : entry->group.empty() ? tr("Mend")
                                            : tr("Mend · %1").arg(text(entry->group)));
    m_method->setCurrentIndex(int(m.method));
    m_softness->setValue(int(std::lround(m.softness)));
    m_strength->setValue(int(std::lround(m.strength * 100)));
    m_grain->setValue(int(std::lround(m.grain * 100)));
    m_turn->setValue(int(std::lround(m.turn.degrees)));
    m_scale->setValue(int(std::lround(m.turn.scale * 100)));
    m_mirror->setChecked(m.turn.mirrored);
    m_largest->setValue(int(std::lround(m.sifting.largest)));
    m_contrast->setValue(int(std::lround(m.sifting.contrast * 100)));
    m_light->setChecked(m.sifting.light);
    m_dark->setChecked(m.sifting.dark);
    m_tone->setStyleSheet(QStringLiteral("background:%1;")
                              .arg(QColor::fromRgbF(m.tone[0], m.tone[1], m.tone[2]).name()));
    m_mute->setChecked(entry->muted);
    using enum mend::Method;
    m_softness->setVisible(m.method != EvenOut && m.method != Sift);
    m_grain->setVisible(m.method != Clone && m.method != EvenOut && m.method != Unshade &&
                        m.method != Rebuild);
    m_placedRow->setVisible(mend::hasSource(m.method) && m.source.has_value());
    m_siftRow->setVisible(m.method == Sift);
    m_toneRow->setVisible(m.method == TouchIn);
    m_candidateRow->setVisible(m.method == Rebuild);
    for (size_t i = 0; i < m_candidates.size(); ++i)
        m_candidates[i]->setProperty("primary", int(i) == m.candidate);
    showReport();
}

void MendBox::showCandidates() {
    const auto& drawn = m_mends.candidates();
    for (size_t i = 0; i < m_candidates.size(); ++i)
        m_candidates[i]->setIcon(i < drawn.size() ? QIcon(QPixmap::fromImage(drawn[i])) : QIcon());
}

void MendBox::showReport() {
    const auto* m = m_document.selectedMend();
    const auto& r = m_mends.report();
    QString words, fix;
    if (!m || r.mend != m->id) {
        words = m && m->muted ? tr("Muted: kept, not applied") : QString();
    } else if (!r.left.empty()) {
        words = tr("⚑ The outline leaves part of it outside");
        fix = tr("Take it in");
    } else if (!r.remnant.empty()) {
        words = r.remnant.size() == 1
                    ? tr("⚑ One finding is still seen here")
                    : tr("⚑ %1 findings are still seen here").arg(r.remnant.size());
        fix = tr("Mend the rest");
    } else if (r.checks.repeats()) {
        words = tr("⚑ The same texture shows twice near by");
        fix = tr("Another");
    } else if (r.checks.seamShows()) {
        words = tr("⚑ The edge shows (step %1 times its surroundings')")
                    .arg(double(r.checks.seam), 0, 'f', 1);
        fix = tr("Another");
    } else if (r.twoMaterials) {
        words = tr("It crosses two materials");
        fix = tr("Split");
    } else {
        words = tr("✓ Nothing left, edge unseen (%1)").arg(double(r.checks.seam), 0, 'f', 2);
    }
    m_report->setText(words);
    m_fix->setText(fix);
    m_fix->setVisible(!fix.isEmpty());
}

}  // namespace gq::desk
