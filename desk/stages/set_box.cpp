#include "desk/stages/set_box.h"

#include <QCheckBox>
#include <QDialog>
#include <QFileDialog>
#include <QVBoxLayout>

#include "core/files/picture_writer.h"
#include "core/render/merged.h"
#include "core/render/search_series.h"
#include "desk/look/convert.h"
#include "desk/stages/cut_dialog.h"
#include "desk/stages/series_panel.h"

namespace gq::desk {
using series::Purpose;

namespace {

constexpr double kSearching = 0.5;  ///< of the time that joining takes
constexpr double kPreview = 2;      ///< megapixels of each frame that goes into a preview

/// A merged picture, with its mends and without.
class MergeView : public QDialog {
  public:
    MergeView(const QString& title, const QImage& mended, const QImage& asTaken, QWidget* parent)
        : QDialog(parent) {
        setObjectName("mergeView");
        setWindowTitle(title);
        setAttribute(Qt::WA_DeleteOnClose);
        auto* all = new QVBoxLayout(this);
        auto* picture = new QLabel;
        picture->setObjectName("merged");
        picture->setAlignment(Qt::AlignCenter);
        auto* bare = new QCheckBox(QObject::tr("Without the mends"));
        const auto show = [=](bool without) {
            picture->setPixmap(QPixmap::fromImage(
                (without ? asTaken : mended)
                    .scaled(1100, 680, Qt::KeepAspectRatio, Qt::SmoothTransformation)));
        };
        connect(bare, &QCheckBox::toggled, picture, show);
        all->addWidget(picture, 1);
        all->addWidget(bare);
        show(false);
    }
};

}  // namespace

SetBox::SetBox(DeskDocument& document, Work& work, Jobs& jobs, QWidget* parent)
    : QWidget(parent), m_document(document), m_work(work), m_jobs(jobs) {
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(0, 0, 0, 0);
    all->setSpacing(8);
    all->addWidget(sectionTitle(tr("The ticked frames are")));
    m_purpose = new QComboBox;
    m_purpose->setObjectName("purpose");
    m_purpose->addItems(
        {tr("pictures of their own"), tr("a bracket"), tr("a focus stack"), tr("a panorama")});
    m_purpose->setToolTip(
        tr("Frames of a bracket or a focus stack are corrected alike: same place, same source. A "
           "panorama is joined with seams that go around dust."));
    all->addWidget(m_purpose);
    m_note = new QLabel;
    m_note->setObjectName("dim");
    m_note->setWordWrap(true);
    all->addWidget(m_note);
    m_go = new QPushButton;
    m_go->setObjectName("together");
    all->addWidget(m_go);
    m_cut = new QPushButton(tr("Cut or turned…"));
    m_cut->setObjectName("cut");
    m_cut->setToolTip(
        tr("Tell how pictures were cut out of what the camera took, or turned for "
           "good by another program"));
    all->addWidget(m_cut);
    connect(m_cut, &QPushButton::clicked, this, &SetBox::askCut);
    connect(m_purpose, &QComboBox::activated, this, &SetBox::choose);
    connect(m_go, &QPushButton::clicked, this, &SetBox::together);
    connect(&document, &DeskDocument::changed, this, &SetBox::refresh);
    connect(&document, &DeskDocument::currentChanged, this, &SetBox::refresh);
    connect(&jobs, &Jobs::changed, this, &SetBox::refresh);
    refresh();
}

void SetBox::refresh() {
    const auto f = m_document.current();
    m_go->setVisible(f && !f->set.empty());
    m_note->setVisible(f && !f->set.empty());
    m_purpose->setEnabled(f != nullptr);
    m_cut->setEnabled(f != nullptr);
    if (!f) return;
    m_purpose->setCurrentIndex(int(f->purpose));
    if (f->set.empty()) return;
    m_note->setText(tr("%1 is in the %2 of %3 that begins with %4")
                        .arg(text(f->name()), text(series::word(f->purpose)))
                        .arg(series::setOf(*m_document.now(), *f).size())
                        .arg(text(f->set)));
    m_go->setText(f->purpose == Purpose::Panorama ? tr("Join…") : tr("Preview the merge"));
    m_go->setEnabled(!m_jobs.busy());
}

void SetBox::choose(int purpose) {
    m_work.setPurpose(m_document.tickedFrames(), Purpose(purpose));
}

void SetBox::askCut() {
    const auto f = m_document.current();
    const auto reference = m_document.now()->frame(m_document.now()->reference);
    if (!f) return;
    CutDialog dialog(*f, (reference ? *reference : *f).geometry.sensorSize(), window());
    if (dialog.exec() != QDialog::Accepted) return;
    auto frames = m_document.tickedFrames();
    frames.push_back(f->id);
    m_work.setCut(frames, *f, dialog.cut());
}

void SetBox::together() {
    const auto f = m_document.current();
    if (!f || f->set.empty()) return;
    if (f->purpose != Purpose::Panorama) return preview();
    const QString file = QFileDialog::getSaveFileName(
        this, tr("Join the panorama"), text(f->set) + QStringLiteral("-panorama.tif"));
    if (!file.isEmpty()) join(file);
}

void SetBox::preview() {
    const auto s = m_document.now();
    const auto f = m_document.current();
    const auto frames = series::setOf(*s, *f);
    struct Preview {
        std::array<QImage, 2> pictures;  ///< with the mends, without
        int untold = 0;
    };
    m_jobs.run(
        tr("Merging"), this,
        [=](std::stop_token stop, const Progress& progress) -> Result<Preview> {
            Preview out;
            for (const bool mends : {true, false}) {
                const auto made = render::merged(
                    frames, f->purpose, s->plan.line, kPreview, mends,
                    [&](double share) { progress((share + (mends ? 0 : 1)) / 2); }, stop);
                if (!made) return tl::unexpected(made.error());
                out.pictures[mends ? 0 : 1] = toQImage(narrow(made->picture.picture.pixels));
                out.untold = made->untold;
            }
            return out;
        },
        [this, f](Result<Preview> made) {
            if (!made) {
                if (made.error().kind != Error::Kind::Cancelled)
                    emit m_document.failed(made.error());
                return;
            }
            if (made->untold > 0)
                emit m_work.told(tr("%1 of the frames show too little to tell how they lie on the "
                                    "others.")
                                     .arg(made->untold));
            const auto& [mended, asTheyCame] = made->pictures;
            (new MergeView(tr("The %1 as merged").arg(text(series::word(f->purpose))), mended,
                           asTheyCame, window()))
                ->show();
        });
}

void SetBox::join(const QString& file) {
    const auto s = m_document.now();
    for (const auto& f : s->frames)
        if (std::error_code code; std::filesystem::equivalent(f->file, file.toStdString(), code)) {
            emit m_document.failed({Error::Kind::Refused,
                                    "this is an original, which is never written to",
                                    file.toStdString(), "Choose another name."});
            return;
        }
    const auto frames = series::setOf(*s, *m_document.current());
    m_jobs.run(
        tr("Joining"), this,
        [=](std::stop_token stop, const Progress& progress) -> Result<render::Merged> {
            const auto known = render::searchedFrames(*s, frames, render::Untold::OneCamera,
                                                      partOf(progress, 0, kSearching), stop);
            if (!known) return tl::unexpected(known.error());
            auto made = render::merged(*known, Purpose::Panorama, s->plan.line, 0, true,
                                       partOf(progress, kSearching, 1), stop);
            if (!made) return tl::unexpected(made.error());
            if (auto ok = files::writePicture(file.toStdString(), made->picture,
                                              {.format = files::Format::Tiff16, .replace = true});
                !ok)
                return tl::unexpected(ok.error());
            made->picture = {};
            return made;
        },
        [this, file](Result<render::Merged> made) {
            if (!made) {
                if (made.error().kind != Error::Kind::Cancelled)
                    emit m_document.failed(made.error());
                return;
            }
            emit m_work.told(tr("The panorama is in the series now. Its seams go around %1 "
                                "blemishes; %2 are shown by one frame only.")
                                 .arg(made->avoided)
                                 .arg(made->left));
            m_document.addFrames({file.toStdString()});
        });
}

}  // namespace gq::desk
