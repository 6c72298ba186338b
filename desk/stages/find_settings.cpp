#include "desk/stages/find_settings.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QVBoxLayout>

#include "desk/look/convert.h"
#include "desk/look/theme.h"
#include "desk/stages/series_panel.h"

namespace gq::desk {
namespace {

QSpinBox* numberBox(int least, int most, const QString& unit, const char* name) {
    auto* box = new QSpinBox;
    box->setObjectName(name);
    box->setRange(least, most);
    box->setSuffix(unit);
    box->setFixedWidth(92);
    return box;
}

}  // namespace

FindSettings::FindSettings(DeskDocument& document, Work& work, QWidget* parent)
    : QWidget(parent, Qt::Popup), m_document(document), m_work(work) {
    setObjectName("panel");
    setAttribute(Qt::WA_StyledBackground);
    build();
    for (auto* box : m_kinds) connect(box, &QCheckBox::toggled, this, &FindSettings::take);
    connect(m_polarity, &QComboBox::activated, this, &FindSettings::take);
    connect(m_sight, &QComboBox::activated, this, &FindSettings::take);
    connect(m_skip, &QCheckBox::toggled, this, &FindSettings::take);
    connect(m_strength, &ValueSlider::settled, this, &FindSettings::take);
    for (auto* box : {m_smallest, m_largest, m_screen, m_print, m_distance})
        connect(box, &QSpinBox::valueChanged, this, &FindSettings::take);
    connect(&document, &DeskDocument::changed, this, &FindSettings::refresh);
}

void FindSettings::build() {
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(16, 14, 16, 14);
    all->setSpacing(8);
    all->addWidget(sectionTitle(tr("Look for")));
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(14);
    for (size_t i = 0; i < m_kinds.size(); ++i) {
        QString name = text(find::word(find::allKinds()[i]));
        name[0] = name[0].toUpper();
        m_kinds[i] = new QCheckBox(name);
        m_kinds[i]->setObjectName("kind-" + text(find::word(find::allKinds()[i])));
        grid->addWidget(m_kinds[i], int(i) / 3, int(i) % 3);
    }
    all->addLayout(grid);
    m_polarity = new QComboBox;
    m_polarity->setObjectName("polarity");
    m_polarity->addItems({tr("Light or dark as the origin has it"), tr("Dark marks only"),
                          tr("Light marks only"), tr("Dark and light marks")});
    all->addWidget(m_polarity);
    m_strength = new ValueSlider(tr("Strength"), 0, 100);
    all->addWidget(m_strength);
    auto* sizes = new QHBoxLayout;
    sizes->addWidget(new QLabel(tr("Size")));
    sizes->addWidget(m_smallest = numberBox(0, 2000, tr(" px"), "smallest"));
    sizes->addWidget(new QLabel(tr("to")));
    sizes->addWidget(m_largest = numberBox(0, 9999, tr(" px"), "largest"));
    m_largest->setSpecialValueText(tr("any size"));
    sizes->addStretch();
    all->addLayout(sizes);
    m_sizes = new QLabel;
    m_sizes->setObjectName("dim");
    all->addWidget(m_sizes);
    all->addSpacing(6);
    all->addWidget(sectionTitle(tr("Sight")));
    m_sight = new QComboBox;
    m_sight->setObjectName("sight");
    m_sight->addItems({tr("Show all findings"), tr("On a screen"), tr("On a print")});
    all->addWidget(m_sight);
    auto* output = new QHBoxLayout;
    output->addWidget(m_screen = numberBox(320, 20000, tr(" px wide"), "screenWidth"));
    output->addWidget(m_print = numberBox(20, 20000, tr(" mm wide"), "printWidth"));
    output->addWidget(m_distance = numberBox(100, 20000, tr(" mm away"), "distance"));
    for (auto* box : {m_screen, m_print, m_distance}) box->setFixedWidth(116);
    output->addStretch();
    all->addLayout(output);
    m_skip = new QCheckBox(tr("Leave what cannot be seen out of bulk mending"));
    all->addWidget(m_skip);
    m_outputs = new QLabel;
    m_outputs->setObjectName("dim");
    all->addWidget(m_outputs);
}

QString FindSettings::inMillimetres(double pixels) const {
    const auto frame = m_document.current();
    if (!frame || frame->pixelsPerMm <= 0) return tr("%1 px").arg(pixels);
    return tr("%1 mm").arg(pixels / frame->pixelsPerMm, 0, 'f', 2);
}

void FindSettings::openAt(const QPoint& lowerLeft) {
    refresh();
    adjustSize();
    move(lowerLeft - QPoint(0, height() + 4));
    show();
}

void FindSettings::refresh() {
    const auto s = m_document.now();
    if (!s) return;
    m_filling = true;
    const auto& plan = s->plan;
    for (size_t i = 0; i < m_kinds.size(); ++i)
        m_kinds[i]->setChecked(std::find(plan.kinds.begin(), plan.kinds.end(),
                                         find::allKinds()[i]) != plan.kinds.end());
    m_polarity->setCurrentIndex(plan.polarities.empty()                      ? 0
                                : plan.polarities.size() == 2                ? 3
                                : plan.polarities[0] == find::Polarity::Dark ? 1
                                                                             : 2);
    m_strength->setValue(int(plan.strength));
    m_smallest->setValue(int(plan.smallest));
    m_largest->setValue(int(plan.largest));
    m_sight->setCurrentIndex(int(s->sight.use));
    m_screen->setValue(s->sight.screenWidth);
    m_print->setValue(int(s->sight.printWidth));
    m_distance->setValue(int(s->sight.viewingDistance));
    m_skip->setChecked(s->skipUnseen);
    const bool screen = s->sight.use == find::Sight::Use::Screen,
               print = s->sight.use == find::Sight::Use::Print;
    m_screen->setVisible(screen);
    m_print->setVisible(print);
    m_distance->setVisible(print);
    m_skip->setVisible(screen || print);
    m_sizes->setText(
        tr("On the original: from %1 to %2")
            .arg(inMillimetres(double(plan.smallest)),
                 plan.largest > 0 ? inMillimetres(double(plan.largest)) : tr("any size")));
    const auto frame = m_document.current();
    m_sizes->setVisible(frame && frame->pixelsPerMm > 0);
    int unseen = 0;
    if (frame)
        for (const auto& f : frame->findings)
            unseen += series::proposed(f, plan.line) && !series::inSight(*s, *frame, f);
    m_outputs->setVisible(screen || print);
    m_outputs->setText(
        tr("%1 of this frame cannot be seen there").arg(counted(unseen, tr("finding"))));
    m_filling = false;
    adjustSize();
}

void FindSettings::take() {
    if (m_filling || !m_document.isOpen()) return;
    const auto s = m_document.now();
    find::FindPlan plan = s->plan;
    plan.kinds.clear();
    for (size_t i = 0; i < m_kinds.size(); ++i)
        if (m_kinds[i]->isChecked()) plan.kinds.push_back(find::allKinds()[i]);
    using find::Polarity;
    const std::array<std::vector<Polarity>, 4> polarities{
        {{}, {Polarity::Dark}, {Polarity::Light}, {Polarity::Dark, Polarity::Light}}};
    plan.polarities = polarities[size_t(std::max(0, m_polarity->currentIndex()))];
    plan.strength = float(m_strength->value());
    plan.smallest = float(m_smallest->value());
    plan.largest = float(m_largest->value());
    const find::Sight sight{find::Sight::Use(std::max(0, m_sight->currentIndex())),
                            m_screen->value(), float(m_print->value()), float(m_distance->value())};
    m_work.setPlan(plan, sight, m_skip->isChecked());
}

}  // namespace gq::desk
