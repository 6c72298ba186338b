#include "desk/stages/deliver_panel.h"

#include <QFileDialog>
#include <QHBoxLayout>
#include <QVBoxLayout>

#include "core/files/folder_scan.h"
#include "desk/look/convert.h"
#include "desk/look/theme.h"
#include "desk/stages/series_panel.h"

namespace gq::desk {
namespace {

bool hasRaw(const series::Frame& f) {
    return files::looksRaw(f.companion.empty() ? f.file : f.companion);
}

}  // namespace

DeliverPanel::DeliverPanel(DeskDocument& document, Work& work, Jobs& jobs, QWidget* parent)
    : QWidget(parent), m_document(document), m_work(work), m_jobs(jobs) {
    setObjectName("panel");
    setAttribute(Qt::WA_StyledBackground);
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(12, 12, 12, 12);
    all->setSpacing(8);
    all->addWidget(sectionTitle(tr("What")));
    all->addWidget(m_what = new QLabel);
    m_what->setWordWrap(true);
    all->addSpacing(8);
    all->addWidget(sectionTitle(tr("Format")));
    m_format = new QComboBox;
    m_format->setObjectName("format");
    m_format->addItems({tr("TIFF, 8 bits"), tr("TIFF, 16 bits"), tr("PNG, 8 bits"),
                        tr("PNG, 16 bits"), tr("JPEG"), tr("DNG, raw samples")});
    all->addWidget(m_format);
    auto* quality = new QHBoxLayout;
    quality->addWidget(m_quality = new QLabel(tr("Quality")));
    m_jpeg = new QSpinBox;
    m_jpeg->setRange(1, 100);
    m_jpeg->setValue(95);
    quality->addWidget(m_jpeg);
    all->addLayout(quality);
    m_rawToo = new QCheckBox(tr("Raw files of pairs too, as TIFF"));
    m_rawToo->setObjectName("rawToo");
    m_rawToo->setToolTip(tr("With the same mends, 16 bits, as NAME-raw.tif"));
    all->addWidget(m_rawToo);
    all->addSpacing(8);
    all->addWidget(sectionTitle(tr("Folder")));
    m_folder = new QLineEdit;
    m_folder->setObjectName("folder");
    auto* choose = new QPushButton(tr("Choose…"));
    auto* folder = new QHBoxLayout;
    folder->addWidget(m_folder, 1);
    folder->addWidget(choose);
    all->addLayout(folder);
    m_replace = new QCheckBox(tr("Replace files that are there"));
    m_replace->setObjectName("replace");
    all->addWidget(m_replace);
    m_promise = new QLabel;
    m_promise->setObjectName("dim");
    m_promise->setWordWrap(true);
    all->addSpacing(8);
    all->addWidget(m_promise);
    all->addStretch();
    m_go = new QPushButton;
    m_go->setObjectName("deliver");
    m_go->setProperty("primary", true);
    m_go->setIcon(icon("deliver", &Theme::onAccent));
    all->addWidget(m_go);
    connect(m_format, &QComboBox::currentIndexChanged, this, &DeliverPanel::refresh);
    connect(choose, &QPushButton::clicked, this, [this] {
        const QString dir = QFileDialog::getExistingDirectory(
            this, tr("Folder for the finished files"), m_folder->text());
        if (!dir.isEmpty()) m_folder->setText(dir);
    });
    connect(m_go, &QPushButton::clicked, this, &DeliverPanel::deliver);
    connect(&document, &DeskDocument::opened, this, [this] {
        const auto& frames = m_document.now()->frames;
        if (!frames.empty())
            m_folder->setText(text((frames.front()->file.parent_path() / "clean").string()));
        const bool eightBits = std::all_of(frames.begin(), frames.end(), [](const auto& f) {
            return files::formatForName(f->file, 8) == files::Format::Jpeg;
        });
        m_format->setCurrentIndex(eightBits ? 0 : 1);
    });
    for (auto signal : {&DeskDocument::changed, &DeskDocument::ticksChanged})
        connect(&document, signal, this, &DeliverPanel::refresh);
    connect(&jobs, &Jobs::changed, this, &DeliverPanel::refresh);
    connect(m_folder, &QLineEdit::textChanged, this, &DeliverPanel::refresh);
    connect(m_replace, &QCheckBox::toggled, this, &DeliverPanel::refresh);
    refresh();
}

std::vector<std::string> DeliverPanel::frames() const {
    std::vector<std::string> out;
    const auto s = m_document.now();
    for (const auto& f : s->frames)
        if (f->id == s->reference || m_document.ticked(f->id)) out.push_back(f->id);
    return out;
}

void DeliverPanel::deliver() {
    if (m_document.isOpen()) m_work.deliver(frames(), folder(), plan());
}

std::filesystem::path DeliverPanel::folder() const {
    return m_folder->text().toStdString();
}

std::vector<std::pair<std::string, std::filesystem::path>> DeliverPanel::plannedFiles() const {
    std::vector<std::pair<std::string, std::filesystem::path>> out;
    for (const auto& id : frames())
        out.emplace_back(
            id, render::deliveryPaths(*m_document.now()->frame(id), folder(), plan()).front());
    return out;
}

bool DeliverPanel::wouldStay(const std::filesystem::path& file) const {
    std::error_code code;
    return !m_replace->isChecked() && std::filesystem::exists(file, code);
}

bool DeliverPanel::isStarted() const {
    using How = Work::Delivery::State;
    const auto& queue = m_work.queue();
    if (queue.empty()) return false;
    if (std::ranges::any_of(queue, [](const auto& d) {
            return d.state == How::Waiting || d.state == How::Writing;
        }))
        return true;
    return std::ranges::equal(plannedFiles(), queue, [](const auto& f, const auto& d) {
        return f.first == d.frame && text(f.second.string()) == d.target;
    });
}

render::DeliveryPlan DeliverPanel::plan() const {
    const auto& formats = files::allFormats();
    const auto chosen = size_t(m_format->currentIndex());
    render::DeliveryPlan out{{.jpegQuality = m_jpeg->value(), .replace = m_replace->isChecked()},
                             chosen == formats.size(),
                             m_rawToo->isChecked()};
    if (!out.dng) out.write.format = formats[chosen];
    return out;
}

void DeliverPanel::refresh() {
    const bool dng = plan().dng, jpeg = !dng && plan().write.format == files::Format::Jpeg;
    m_promise->setText(
        dng ? tr("Originals are never written to. Shadows that are divided out (Unshade) are "
                 "divided out of the raw samples and mended in the file's own previews; every "
                 "other sample and tag stays as it is. Other mends are for the developed "
                 "picture.")
            : tr("Originals are never written to. Outside the mends every pixel keeps its value; "
                 "profile and metadata are kept."));
    m_quality->setVisible(jpeg);
    m_jpeg->setVisible(jpeg);
    m_go->setEnabled(false);
    if (!m_document.isOpen()) return;
    const auto list = frames();
    int mends = 0, looks = 0;
    size_t raws = 0;
    bool pairs = false;
    for (const auto& id : list) {
        const auto frame = m_document.now()->frame(id);
        for (const auto& m : frame->mends) ++(m.muted ? looks : mends);
        raws += hasRaw(*frame);
        pairs |= !frame->companion.empty();
    }
    m_rawToo->setVisible(pairs && !dng);
    const QString frameCount = counted(list.size(), tr("frame"));
    m_what->setText(
        tr("%1 with %2").arg(frameCount, counted(mends, tr("mend"))) +
        (looks ? tr("\n⚑ %1 still to be looked at; delivered as they came")
                     .arg(counted(looks, tr("place")))
               : QString()) +
        (dng && raws < list.size()
             ? tr("\n⚑ %1 without a raw file").arg(counted(list.size() - raws, tr("frame")))
             : QString()));
    m_go->setText(tr("Deliver %1").arg(frameCount));
    m_go->setEnabled(!list.empty() && !m_folder->text().isEmpty() && !m_jobs.busy());
    emit planned();
}

}  // namespace gq::desk
