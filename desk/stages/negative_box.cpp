#include "desk/stages/negative_box.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QVBoxLayout>
#include <cmath>
#include <utility>

namespace gq::desk {

NegativeBox::NegativeBox(DeskDocument& document, Work& work, QWidget* parent)
    : QWidget(parent), m_document(document), m_work(work) {
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(0, 0, 0, 0);
    all->setSpacing(8);
    auto* buttons = new QGridLayout;
    buttons->setSpacing(6);
    const auto button = [&](const QString& words, const QString& help, const char* name) {
        auto* b = new QPushButton(words);
        b->setObjectName(name);
        b->setToolTip(help);
        return b;
    };
    buttons->addWidget(
        m_findAll =
            button(tr("Invert all"), tr("Finds each frame's film base by itself"), "invertAll"),
        0, 0);
    buttons->addWidget(
        m_find = button(tr("Invert this"), tr("Finds the film base of this frame"), "invertThis"),
        0, 1);
    buttons->addWidget(
        m_pick = button(tr("Pick the base…"), tr("Click on bare film yourself"), "pickBase"), 1, 0);
    buttons->addWidget(
        m_asScanned = button(tr("As scanned"), tr("Show the negative itself"), "asScanned"), 1, 1);
    all->addLayout(buttons);
    m_values = new QWidget;
    auto* values = new QVBoxLayout(m_values);
    values->setContentsMargins(0, 4, 0, 0);
    values->setSpacing(6);
    auto* channels = new QHBoxLayout;
    channels->setSpacing(0);
    m_channel = new QButtonGroup(this);
    const QStringList names{tr("All"), tr("Red"), tr("Green"), tr("Blue")};
    for (int i = 0; i < 4; ++i) {
        auto* b = new QPushButton(names[i]);
        b->setCheckable(true);
        b->setChecked(i == 0);
        b->setProperty("segment", true);
        m_channel->addButton(b, i);
        channels->addWidget(b);
    }
    channels->addStretch();
    values->addLayout(channels);
    // Hundredths, so that the sliders' whole numbers are fine enough.
    values->addWidget(m_exposure = new ValueSlider(tr("Exposure"), -300, 300));
    values->addWidget(m_contrast = new ValueSlider(tr("Contrast"), 40, 300));
    for (auto* slider : {m_exposure, m_contrast}) slider->stretch();
    m_exposure->setToolTip(tr("Hundredths of a stop; 0 makes the densest place nearly white"));
    m_contrast->setToolTip(tr("Steepness in density, 100 = as the film was exposed"));
    values->addWidget(m_monochrome = new QCheckBox(tr("Monochrome film")));
    all->addWidget(m_values);
    connect(m_find, &QPushButton::clicked, this, [this] {
        if (const auto f = m_document.current()) m_work.findBases({f->id});
    });
    connect(m_findAll, &QPushButton::clicked, this, [this] {
        std::vector<std::string> ids;
        for (const auto& f : m_document.now()->frames) ids.push_back(f->id);
        m_work.findBases(ids);
    });
    connect(m_pick, &QPushButton::clicked, this, &NegativeBox::pickBase);
    connect(m_asScanned, &QPushButton::clicked, this,
            [this] { m_work.setInversion(std::nullopt); });
    connect(m_channel, &QButtonGroup::idClicked, this, &NegativeBox::refresh);
    for (auto* slider : {m_exposure, m_contrast})
        for (const auto& [signal, slot] : {std::pair{&ValueSlider::moved, &NegativeBox::preview},
                                           {&ValueSlider::settled, &NegativeBox::take}})
            connect(slider, signal, this, slot);
    connect(m_monochrome, &QCheckBox::toggled, this, [this](bool on) {
        const auto f = m_document.current();
        if (m_filling || !f || !f->inversion) return;
        auto v = *f->inversion;
        v.monochrome = on;
        m_work.setInversion(v);
    });
}

void NegativeBox::refresh() {
    const auto f = m_document.current();
    const bool on = f && f->inversion;
    m_values->setVisible(on);
    m_asScanned->setEnabled(on);
    if (!on) return;
    if (m_before) return;  // the hand is on a slider
    m_filling = true;
    const size_t c = size_t(std::max(1, m_channel->checkedId())) - 1;
    m_exposure->setValue(int(std::lround(f->inversion->exposure[c] * 100)));
    m_contrast->setValue(int(std::lround(f->inversion->contrast[c] * 100)));
    m_monochrome->setChecked(f->inversion->monochrome);
    m_filling = false;
}

film::Inversion NegativeBox::asSet(film::Inversion v) const {
    const int channel = m_channel->checkedId();
    const float exposure = float(m_exposure->value()) / 100,
                contrast = float(m_contrast->value()) / 100;
    if (channel > 0) {
        v.exposure[size_t(channel - 1)] = exposure;
        v.contrast[size_t(channel - 1)] = contrast;
        return v;
    }
    // All channels move by what the first one moves.
    const float more = exposure - v.exposure[0], times = contrast / v.contrast[0];
    for (size_t c = 0; c < 3; ++c) {
        v.exposure[c] += more;
        v.contrast[c] = std::clamp(v.contrast[c] * times, 0.25f, 4.0f);
    }
    return v;
}

void NegativeBox::preview() {
    const auto f = m_document.current();
    if (m_filling || !f || !f->inversion) return;
    if (!m_before) m_before = f->inversion;
    m_work.previewInversion(asSet(*m_before));
}

void NegativeBox::take() {
    const auto f = m_document.current();
    if (m_filling || !f || !f->inversion || !m_before) return;
    const auto before = *std::exchange(m_before, std::nullopt);
    const auto after = asSet(before);
    if (after == before) return;
    m_work.previewInversion(before);  // so that undoing the step leads back to where it began
    m_work.setInversion(after);
}

}  // namespace gq::desk
