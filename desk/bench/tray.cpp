#include "desk/bench/tray.h"

#include <QHBoxLayout>

#include "desk/look/theme.h"

namespace gq::desk {

ValueSlider::ValueSlider(const QString& name, int least, int most, QWidget* parent)
    : QWidget(parent) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(6);
    auto* label = new QLabel(name);
    label->setObjectName("dim");
    m_slider = new QSlider(Qt::Horizontal);
    m_slider->setRange(least, most);
    m_slider->setFixedWidth(70);
    m_slider->setFocusPolicy(Qt::ClickFocus);
    m_slider->setAccessibleName(name);
    m_number = new QSpinBox;
    m_number->setObjectName("value");
    m_number->setRange(least, most);
    m_number->setButtonSymbols(QAbstractSpinBox::NoButtons);
    m_number->setFixedWidth(least < -99 ? 48 : 30);
    m_number->setFocusPolicy(Qt::ClickFocus);
    row->addWidget(label);
    row->addWidget(m_slider);
    row->addWidget(m_number);
    connect(m_slider, &QSlider::valueChanged, this, [this](int v) {
        const QSignalBlocker quiet(m_number);
        m_number->setValue(v);
        emit moved(v);
        if (!m_slider->isSliderDown()) emit settled(v);
    });
    connect(m_slider, &QSlider::sliderReleased, this, [this] { emit settled(m_slider->value()); });
    connect(m_number, &QSpinBox::valueChanged, this, [this](int v) { m_slider->setValue(v); });
}

void ValueSlider::stretch(int nameWidth) {
    findChild<QLabel*>()->setFixedWidth(nameWidth);
    m_slider->setMinimumWidth(70);
    m_slider->setMaximumWidth(QWIDGETSIZE_MAX);
    m_number->setFixedWidth(40);
}

void ValueSlider::setValue(int value) {
    if (m_slider->isSliderDown()) return;
    const QSignalBlocker a(m_slider), b(m_number);
    m_slider->setValue(value);
    m_number->setValue(value);
}

/// What a held guide tool needs: how it paints, and what is done with the whole mask.
QWidget* Tray::makeGuideBox() {
    auto* box = new QWidget;
    auto* row = new QHBoxLayout(box);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(6);
    row->addWidget(m_guideName = new QLabel);
    const auto button = [&](const QString& words, const QString& help, const char* name) {
        auto* b = new QPushButton(words);
        b->setObjectName(name);
        b->setToolTip(help);
        b->setFocusPolicy(Qt::NoFocus);
        row->addWidget(b);
        return b;
    };
    m_lasso = button(tr("Lasso"), tr("Outline an area instead of brushing"), "guideLasso");
    m_erase = button(tr("Erase"), tr("Take away instead of adding (or hold Alt)"), "guideErase");
    m_alone = button(tr("Mask"), tr("See the mask alone, to find holes in it"), "guideAlone");
    for (auto* b : {m_lasso, m_erase, m_alone}) b->setCheckable(true);
    auto* invert = button(tr("Invert"), tr("Turn the mask inside out"), "guideInvert");
    auto* soften = button(tr("Soften"), tr("Blur the edges of the mask"), "guideSoften");
    auto* clear = button(tr("Clear"), tr("Take the whole mask away"), "guideClear");
    auto* done = button(tr("Done"), tr("Put the tool down (Esc)"), "guideDone");
    connect(m_lasso, &QPushButton::toggled, &m_bench, &BenchView::setLasso);
    connect(m_erase, &QPushButton::toggled, &m_bench, &BenchView::setErase);
    connect(m_alone, &QPushButton::toggled, &m_bench, &BenchView::setMaskAlone);
    const auto onHeld = [this](void (GuideWork::*what)(Guide)) {
        return [this, what] {
            if (const auto g = guideOf(m_bench.tool())) (m_guides.*what)(*g);
        };
    };
    connect(invert, &QPushButton::clicked, this, onHeld(&GuideWork::invert));
    connect(soften, &QPushButton::clicked, this, onHeld(&GuideWork::soften));
    connect(clear, &QPushButton::clicked, this, onHeld(&GuideWork::clear));
    connect(done, &QPushButton::clicked, this, [this] { m_bench.setTool(Tool::Look); });
    return box;
}

/// The tools of Mend, side by side.
QWidget* Tray::makeToolBox() {
    auto* box = new QWidget;
    auto* row = new QHBoxLayout(box);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(0);
    m_tools = new QButtonGroup(this);
    struct Held {
        Tool tool;
        const char* command;
        QString name, help;
    };
    const std::vector<Held> all{
        {Tool::Touch, "touch", tr("Touch"), tr("Click a spot or drag along a hair")},
        {Tool::Path, "path", tr("Path"),
         tr("Click from end to end, double click ends; Ctrl and click follows a line by itself")},
        {Tool::Outline, "outline", tr("Outline"),
         tr("Drag around an area, or click its corners; Shift adds, Alt takes away, Ctrl and click "
            "takes a similar tone")},
        {Tool::TouchIn, "touchIn", tr("Touch-in"), tr("Paint a tone; Alt and click picks it")},
        {Tool::Sift, "sift", tr("Sift"), tr("Drag around specks: each is mended by itself")}};
    for (const auto& held : all) {
        auto* b = new QPushButton(held.name);
        b->setObjectName("tool");
        b->setCheckable(true);
        b->setProperty("segment", true);
        b->setToolTip(held.help);
        b->setProperty("command", held.command);
        b->setFocusPolicy(Qt::NoFocus);
        m_tools->addButton(b, int(held.tool));
        row->addWidget(b);
    }
    connect(m_tools, &QButtonGroup::idClicked, this, [this](int t) { m_bench.setTool(Tool(t)); });
    return box;
}

Tray::Tray(DeskDocument& document, GuideWork& guides, BenchView& bench, Jobs& jobs, QWidget* parent)
    : QWidget(parent), m_document(document), m_guides(guides), m_bench(bench), m_jobs(jobs) {
    setObjectName("tray");
    setAttribute(Qt::WA_StyledBackground);
    setFixedHeight(44);
    setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    m_pages = new QStackedWidget(this);
    auto* outer = new QHBoxLayout(this);
    outer->setContentsMargins(12, 0, 12, 0);
    outer->addWidget(m_pages);

    auto* tools = new QWidget;
    auto* row = new QHBoxLayout(tools);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(10);
    m_findHere = new QPushButton(tr("Find here"));
    m_findHere->setIcon(icon("find"));
    m_findHere->setToolTip(tr("Search this frame"));
    m_findHere->setProperty("command", "find");
    m_findSeries = new QPushButton(tr("Find on all"));
    m_findSeries->setObjectName("findSeries");
    m_findSeries->setToolTip(tr("Search the whole series"));
    m_findSeries->setProperty("command", "findAll");
    m_lookFor = new QPushButton(tr("Look for…"));
    m_lookFor->setObjectName("lookFor");
    m_lookFor->setToolTip(tr("Kinds, light or dark, sizes, strength, and the sight line"));
    m_guideButton = new QPushButton(tr("Guide…"));
    m_guideButton->setObjectName("guides");
    m_guideButton->setToolTip(tr("Paint where to search more, less, or not at all"));
    m_guideBox = makeGuideBox();
    m_toolBox = makeToolBox();
    m_size = new ValueSlider(tr("Size"), 2, 400);
    m_softness = new ValueSlider(tr("Softness"), 0, 40);
    m_hint = new QLabel;
    m_hint->setObjectName("dim");
    for (QWidget* w : {static_cast<QWidget*>(m_findHere), static_cast<QWidget*>(m_findSeries),
                       static_cast<QWidget*>(m_lookFor), static_cast<QWidget*>(m_guideButton),
                       static_cast<QWidget*>(m_guideBox), static_cast<QWidget*>(m_toolBox),
                       static_cast<QWidget*>(m_size), static_cast<QWidget*>(m_softness)})
        row->addWidget(w);
    row->addWidget(m_hint);
    row->addStretch();
    m_reach = new ValueSlider(tr("Reach"), 4, 96);
    m_gain = new ValueSlider(tr("Gain"), 1, 20);
    row->addWidget(m_reach);
    row->addWidget(m_gain);
    m_lightBox = new QWidget;
    auto* lights = new QHBoxLayout(m_lightBox);
    lights->setContentsMargins(0, 0, 0, 0);
    lights->setSpacing(0);
    m_lights = new QButtonGroup(this);
    const QStringList names{tr("Plain"), tr("Raking"), tr("Low"), tr("Deep"), tr("Sought")};
    const QStringList tips{tr("The picture as it is"), tr("Relief of local contrast"),
                           tr("Darker, for bright skies"), tr("Black point raised"),
                           tr("What Find sees: departure over the local noise")};
    const QStringList commands{{}, "raking", {}, {}, "sought"};
    for (int i = 0; i < names.size(); ++i) {
        auto* b = new QPushButton(names[i]);
        b->setCheckable(true);
        b->setProperty("segment", true);
        b->setToolTip(tips[i]);
        b->setProperty("command", commands[i]);
        b->setFocusPolicy(Qt::NoFocus);
        m_lights->addButton(b, i);
        lights->addWidget(b);
    }
    row->addWidget(m_lightBox);
    m_zoom = new QLabel;
    m_zoom->setObjectName("dim");
    m_zoom->setMinimumWidth(44);
    m_zoom->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    row->addWidget(m_zoom);
    m_pages->addWidget(tools);

    auto* job = new QWidget;
    auto* line = new QHBoxLayout(job);
    line->setContentsMargins(0, 0, 0, 0);
    line->setSpacing(12);
    m_jobName = new QLabel;
    m_jobBar = new QProgressBar;
    m_jobBar->setRange(0, 1000);
    m_jobBar->setTextVisible(false);
    m_jobLeft = new QLabel;
    m_jobLeft->setObjectName("dim");
    auto* stop = new QPushButton(tr("Stop  Esc"));
    stop->setIcon(icon("stop"));
    stop->setObjectName("stop");
    stop->setProperty("quiet", true);
    stop->setFocusPolicy(Qt::NoFocus);
    line->addWidget(m_jobName);
    line->addWidget(m_jobBar, 1);
    line->addWidget(m_jobLeft);
    line->addWidget(stop);
    m_pages->addWidget(job);

    for (auto* b : {m_findHere, m_findSeries, m_lookFor, m_guideButton})
        b->setFocusPolicy(Qt::NoFocus);
    connect(m_lookFor, &QPushButton::clicked, this,
            [this] { emit lookFor(m_lookFor->mapToGlobal(QPoint(0, 0))); });
    connect(m_guideButton, &QPushButton::clicked, this,
            [this] { emit guideMenu(m_guideButton->mapToGlobal(QPoint(0, 0))); });
    connect(m_findHere, &QPushButton::clicked, this, &Tray::findHere);
    connect(m_findSeries, &QPushButton::clicked, this, &Tray::findSeries);
    connect(stop, &QPushButton::clicked, &jobs, &Jobs::stopShown);
    connect(m_size, &ValueSlider::moved, this, [this](int v) { m_bench.setToolSize(float(v)); });
    connect(m_softness, &ValueSlider::moved, this,
            [this](int v) { m_bench.setSoftness(float(v)); });
    const auto light = [this] {
        m_bench.setLight({render::Light(m_lights->checkedId()), float(m_reach->value()),
                          float(m_gain->value())});
    };
    connect(m_lights, &QButtonGroup::idClicked, this, light);
    connect(m_reach, &ValueSlider::moved, this, light);
    connect(m_gain, &ValueSlider::moved, this, light);
    connect(&bench, &BenchView::viewChanged, this, &Tray::refresh);
    connect(&document, &DeskDocument::changed, this, &Tray::refresh);
    connect(&document, &DeskDocument::selectionChanged, this, &Tray::refresh);
    connect(&jobs, &Jobs::changed, this, &Tray::refreshJob);
    connect(&jobs, &Jobs::progressed, this, &Tray::refreshJob);
    refresh();
}

void Tray::setStage(Stage stage) {
    m_stage = stage;
    refresh();
}

void Tray::refresh() {
    const bool find = m_stage == Stage::Find, mend = m_stage == Stage::Mend, picture = find || mend;
    const bool raking = picture && m_bench.light().light == render::Light::Raking;
    const auto guide = find ? guideOf(m_bench.tool()) : std::nullopt;
    m_findHere->setVisible(find && !guide);
    m_findSeries->setVisible(find && !raking && !guide);
    m_lookFor->setVisible(find && !raking && !guide);
    m_guideButton->setVisible(find && !raking && !guide);
    m_guideBox->setVisible(guide.has_value());
    if (guide) m_guideName->setText(GuideWork::name(*guide));
    m_lasso->setChecked(m_bench.lasso());
    m_erase->setChecked(m_bench.erasing());
    m_alone->setChecked(m_bench.maskAlone());
    const bool brush = mend && brushes(m_bench.tool());
    m_toolBox->setVisible(mend);
    if (auto* b = m_tools->button(int(m_bench.tool()))) b->setChecked(true);
    m_size->setVisible(brush || guide);
    m_softness->setVisible(brush);
    m_reach->setVisible(raking && find);
    m_gain->setVisible(raking && find);
    m_lightBox->setVisible(find && !guide);
    m_zoom->setVisible(picture);
    m_hint->setVisible(!picture || (mend && !brush));
    m_hint->setText(
        m_stage == Stage::Gather ? tr("Double click a frame to look at it; Delete takes it out of "
                                      "the series. The pennant marks the reference frame.")
        : mend                   ? (m_bench.tool() == Tool::Sift ? tr("Drag around specks")
                                                                 : tr("Drag around it, or click its corners"))
        : m_stage == Stage::Carry
            ? tr("Enter opens a cell's frame · A accepts · X leaves alone · Shift: whole row · "
                 "Ctrl: whole column")
            : tr("Ticked frames are delivered; double click one to look at it. Nothing is "
                 "overwritten unasked."));
    m_size->setValue(int(m_bench.toolSize()));
    m_softness->setValue(int(m_bench.softness()));
    m_reach->setValue(int(m_bench.light().reach));
    m_gain->setValue(int(m_bench.light().gain));
    if (auto* b = m_lights->button(int(m_bench.light().light))) b->setChecked(true);
    m_zoom->setText(
        QStringLiteral("%1 %").arg(std::lround(m_bench.zoom() * devicePixelRatioF() * 100)));
}

void Tray::refreshJob() {
    m_pages->setCurrentIndex(m_jobs.showing() ? 1 : 0);
    if (!m_jobs.showing()) return;
    m_jobName->setText(
        QStringLiteral("%1  %2 %").arg(m_jobs.name()).arg(int(m_jobs.share() * 100)));
    m_jobBar->setValue(int(m_jobs.share() * 1000));
    const double left = m_jobs.secondsLeft();
    m_jobLeft->setText(left < 0 ? tr("working")
                                : tr("about %1 s left").arg(std::max(1, int(std::ceil(left)))));
}

}  // namespace gq::desk
