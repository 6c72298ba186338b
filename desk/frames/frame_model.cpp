#include "desk/frames/frame_model.h"

#include "core/series/lookup.h"
#include "desk/look/convert.h"

namespace gq::desk {

FrameCounts countsOf(const series::Frame& frame, float line) {
    FrameCounts out;
    const series::Lookup entries(frame);
    for (const auto& e : frame.findings)
        if (entries.stateOf(e) == series::State::Open && series::proposed(e, line)) ++out.open;
    for (const auto& m : frame.mends) ++(m.muted ? out.looks : out.mended);
    return out;
}

FrameModel::FrameModel(DeskDocument& document, Crops& crops, const GatherWork& gather,
                       QObject* parent)
    : QAbstractListModel(parent), m_document(document), m_gather(gather) {
    const auto repaint = [this] {
        if (!m_frames.empty()) emit dataChanged(index(0), index(rowCount() - 1));
    };
    connect(&document, &DeskDocument::changed, this, &FrameModel::rebuild);
    connect(&document, &DeskDocument::currentChanged, this, repaint);
    connect(&document, &DeskDocument::ticksChanged, this, repaint);
    connect(&crops, &Crops::made, this, repaint);
    connect(&gather, &GatherWork::statesChanged, this, repaint);
}

void FrameModel::rebuild() {
    const auto& frames = m_document.now()->frames;
    if (frames.size() != m_frames.size()) {
        beginResetModel();
        m_frames = frames;
        endResetModel();
        return;
    }
    m_frames = frames;
    if (!frames.empty()) emit dataChanged(index(0), index(rowCount() - 1));
}

QVariant FrameModel::data(const QModelIndex& index, int role) const {
    if (!index.isValid()) return {};
    const auto& f = frame(index.row());
    if (role == Qt::DisplayRole || role == Qt::AccessibleTextRole) return text(f.name());
    if (role == Qt::ToolTipRole) {
        const Size s = f.geometry.shownSize();
        QString tip = tr("%1\n%2 × %3 px · %4")
                          .arg(text(f.file.string()))
                          .arg(s.width)
                          .arg(s.height)
                          .arg(text(f.camera.empty() ? "camera not told" : f.camera));
        if (const QString word = amiss(index.row()); !word.isEmpty()) tip += "\n" + word;
        return tip;
    }
    return {};
}

int FrameModel::currentRow() const {
    const auto current = m_document.current();
    for (size_t i = 0; current && i < m_frames.size(); ++i)
        if (m_frames[i]->id == current->id) return int(i);
    return -1;
}

QString FrameModel::amiss(int row) const {
    switch (m_gather.stateOf(frame(row).id)) {
        case series::FileState::Missing:
            return tr("not found");
        case series::FileState::Changed:
            return tr("changed since");
        case series::FileState::There:
            break;
    }
    return {};
}

FrameCounts FrameModel::counts(int row) const {
    return countsOf(frame(row), m_document.now()->plan.line);
}

}  // namespace gq::desk
