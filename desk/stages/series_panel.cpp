#include "desk/stages/series_panel.h"

#include <QDateTime>
#include <QHBoxLayout>
#include <QMenu>
#include <QVBoxLayout>
#include <set>

#include "desk/look/convert.h"
#include "desk/look/theme.h"

namespace gq::desk {

QLabel* sectionTitle(const QString& words) {
    auto* label = new QLabel(words);
    label->setObjectName("title");
    label->setFont(titleFont());
    return label;
}

namespace {

/// The date and time of Exif for reading; as it is if it is none.
QString takenAt(const std::string& exif) {
    const auto at = QDateTime::fromString(text(exif), "yyyy:MM:dd HH:mm:ss");
    return at.isValid() ? QLocale(QLocale::English).toString(at, "d MMMM yyyy, HH:mm") : text(exif);
}

}  // namespace

SeriesPanel::SeriesPanel(DeskDocument& document, Work& work, GatherWork& gather, Crops& crops,
                         QWidget* parent)
    : QWidget(parent), m_document(document), m_work(work), m_gather(gather), m_crops(crops) {
    setObjectName("panel");
    setAttribute(Qt::WA_StyledBackground);
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(12, 12, 12, 12);
    all->setSpacing(8);
    all->addWidget(m_title = sectionTitle(tr("Series")));
    all->addWidget(m_facts = new QLabel);
    m_facts->setWordWrap(true);
    all->addWidget(m_amiss = new QLabel);
    m_amiss->setWordWrap(true);
    m_amiss->setObjectName("look");
    all->addWidget(m_locate = new QPushButton(tr("Locate…")));
    m_locate->setObjectName("locate");
    m_locate->setToolTip(tr("Choose a folder; pictures below it are told by their content"));
    all->addWidget(m_takeAsTheyAre = new QPushButton(tr("Take as they are now")));
    m_takeAsTheyAre->setObjectName("takeAsTheyAre");
    m_takeAsTheyAre->setToolTip(tr("Findings and mends stay at their places"));
    connect(m_locate, &QPushButton::clicked, this, &SeriesPanel::locate);
    connect(m_takeAsTheyAre, &QPushButton::clicked, &gather, &GatherWork::takeAsTheyAre);
    connect(&gather, &GatherWork::statesChanged, this, [this] {
        tellAmiss();
        suggest();
    });
    all->addSpacing(8);
    all->addWidget(sectionTitle(tr("Origin")));
    m_origin = new QComboBox;
    m_origin->addItems(
        {tr("Digital sensor"), tr("Film negative"), tr("Film positive"), tr("Print")});
    m_origin->setToolTip(
        tr("Decides which blemishes to expect, and whether they are light or dark"));
    all->addWidget(m_origin);
    all->addWidget(m_negativeTitle = sectionTitle(tr("Negative")));
    all->addWidget(m_negative = new NegativeBox(document, work));
    connect(m_negative, &NegativeBox::pickBase, this, &SeriesPanel::pickBase);
    all->addSpacing(8);
    all->addWidget(m_frameTitle = sectionTitle(tr("Frame")));
    all->addWidget(m_frameFacts = new QLabel);
    m_frameFacts->setWordWrap(true);
    m_reference = new QPushButton(tr("Make it the reference"));
    m_reference->setIcon(icon("pennant"));
    m_reference->setToolTip(
        tr("The frame on which the dust shows best: bright, smooth, few dark details"));
    all->addWidget(m_reference);
    all->addWidget(m_suggestion = new QLabel);
    m_suggestion->setWordWrap(true);
    m_suggestion->setObjectName("dim");
    m_takeSuggestion = new QPushButton(tr("Take the suggestion"));
    m_takeSuggestion->setObjectName("takeSuggestion");
    all->addWidget(m_takeSuggestion);
    connect(m_takeSuggestion, &QPushButton::clicked, this,
            [this] { m_work.setReference(m_suggested); });
    connect(&crops, &Crops::made, this, &SeriesPanel::suggest);
    all->addStretch();
    auto* add = new QPushButton(tr("Add frames…"));
    add->setIcon(icon("add"));
    auto* devices = new QPushButton(tr("Bring in…"));
    devices->setToolTip(tr("From the simulated camera card or scanner"));
    auto* menu = new QMenu(devices);
    for (const auto& [id, words] :
         {std::pair<QString, QString>{"card", tr("Camera card: Cloud watch")},
          {"film", tr("Film scanner: Roll 7")},
          {"flatbed", tr("Flatbed: Keeper's album")}})
        menu->addAction(words, this, [this, id = id] { emit bringIn(id); });
    devices->setMenu(menu);
    auto* go = new QPushButton(tr("Go on to Find"));
    go->setProperty("primary", true);
    auto* sources = new QHBoxLayout;
    sources->addWidget(add);
    sources->addWidget(devices);
    all->addLayout(sources);
    all->addWidget(go);
    connect(add, &QPushButton::clicked, this, &SeriesPanel::addFrames);
    connect(go, &QPushButton::clicked, this, &SeriesPanel::goFind);
    connect(m_origin, &QComboBox::activated, this, [this](int i) {
        if (m_document.isOpen()) m_work.setOrigin(find::allOrigins()[size_t(i)]);
    });
    connect(m_reference, &QPushButton::clicked, this, [this] {
        if (const auto f = m_document.current()) m_work.setReference(f->id);
    });
    connect(&document, &DeskDocument::changed, this, &SeriesPanel::refresh);
    connect(&document, &DeskDocument::currentChanged, this, &SeriesPanel::refresh);
    refresh();
}

void SeriesPanel::refresh() {
    const auto s = m_document.now();
    const auto f = m_document.current();
    setEnabled(s != nullptr);
    if (!s || !f) return;
    std::set<std::string> cameras;
    int turned = 0;
    for (const auto& frame : s->frames) {
        if (!frame->camera.empty()) cameras.insert(frame->camera);
        turned += swapsSides(frame->geometry.orientation);
    }
    QStringList names;
    for (const auto& c : cameras) names << text(c);
    m_title->setText(text(s->name));
    m_facts->setText(tr("%1 frames, %2 turned\n%3\n\nKept in %4")
                         .arg(s->frames.size())
                         .arg(turned)
                         .arg(names.isEmpty() ? tr("camera not told") : names.join(", "),
                              text(m_document.folder().filename().string())));
    m_origin->setCurrentIndex(int(s->plan.origin));
    const bool negative = s->plan.origin == find::Origin::Negative;
    m_negativeTitle->setVisible(negative);
    m_negative->setVisible(negative);
    m_negative->refresh();
    tellAmiss();
    suggest();
    const Size size = f->geometry.shownSize();
    m_frameTitle->setText(text(f->name()));
    m_frameFacts->setText(tr("%1 × %2 px\n%3%4")
                              .arg(size.width)
                              .arg(size.height)
                              .arg(takenAt(f->taken), f->aperture > 0
                                                          ? tr("  f/%1").arg(f->aperture, 0, 'g', 3)
                                                          : QString()));
    m_reference->setEnabled(s->reference != f->id);
    m_reference->setText(s->reference == f->id ? tr("This is the reference")
                                               : tr("Make it the reference"));
}

void SeriesPanel::tellAmiss() {
    const auto missing = m_gather.framesIn(series::FileState::Missing),
               changed = m_gather.framesIn(series::FileState::Changed);
    QStringList lines;
    if (!missing.empty())
        lines << tr("⚑ Not where they were: %1").arg(counted(int(missing.size()), tr("picture")));
    if (!changed.empty())
        lines << tr("⚑ Changed since then: %1")
                     .arg(counted(int(changed.size()), tr("picture")));
    m_amiss->setText(lines.join("\n"));
    m_amiss->setVisible(!lines.isEmpty());
    m_locate->setVisible(!missing.empty());
    m_takeAsTheyAre->setVisible(!changed.empty());
}

void SeriesPanel::suggest() {
    const auto s = m_document.now();
    const bool sensor = s && s->plan.origin == find::Origin::Sensor && s->frames.size() > 1;
    find::Suitability best;
    m_suggested.clear();
    for (const auto& f : sensor ? s->frames : std::vector<series::FramePtr>{}) {
        const auto* fit = m_crops.suitability(*f);
        if (!fit && m_gather.stateOf(f->id) == series::FileState::Missing) continue;
        if (!fit) {  // not all are read yet
            m_suggested.clear();
            break;
        }
        if (m_suggested.empty() || fit->score > best.score) best = *fit, m_suggested = f->id;
    }
    const bool other = !m_suggested.empty() && m_suggested != s->reference;
    m_suggestion->setVisible(!m_suggested.empty());
    m_takeSuggestion->setVisible(other);
    if (m_suggested.empty()) return;
    m_suggestion->setText(
        tr("%1 shows the dust best: %2 % of it bright, %3 % smooth%4")
            .arg(text(s->frame(m_suggested)->name()))
            .arg(int(best.bright * 100))
            .arg(int(best.smooth * 100))
            .arg(s->frame(m_suggested)->aperture > 0
                     ? tr(", f/%1").arg(s->frame(m_suggested)->aperture, 0, 'g', 3)
                     : QString()));
}

}  // namespace gq::desk
