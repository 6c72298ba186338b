#include "desk/stages/contact_sheet.h"

#include <QContextMenuEvent>
#include <QDragEnterEvent>
#include <QKeyEvent>
#include <QMimeData>
#include <QPainter>

#include "desk/look/key_hint.h"
#include "desk/look/theme.h"

namespace gq::desk {

ContactSheet::ContactSheet(DeskDocument& document, FrameModel& model, Crops& crops, QWidget* parent)
    : QListView(parent), m_document(document), m_frames(model) {
    setObjectName("sheet");
    setModel(&model);
    setItemDelegate(new FrameDelegate(document, model, crops, true, this));
    setViewMode(QListView::IconMode);
    setResizeMode(QListView::Adjust);
    setMovement(QListView::Static);
    setUniformItemSizes(true);
    setSelectionMode(QAbstractItemView::NoSelection);
    setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    setSpacing(4);
    setAcceptDrops(true);
    connect(this, &QListView::clicked, this,
            [this](const QModelIndex& i) { m_document.setCurrent(m_frames.frame(i.row()).id); });
    connect(this, &QListView::doubleClicked, this, &ContactSheet::openFrame);
}

void ContactSheet::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasUrls()) e->acceptProposedAction();
}

void ContactSheet::dragMoveEvent(QDragMoveEvent* e) {
    e->acceptProposedAction();
}

void ContactSheet::dropEvent(QDropEvent* e) {
    std::vector<std::filesystem::path> paths;
    for (const auto& url : e->mimeData()->urls())
        if (url.isLocalFile()) paths.emplace_back(url.toLocalFile().toStdString());
    if (!paths.empty()) m_document.addFrames(paths);
    e->acceptProposedAction();
}

void ContactSheet::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Delete)
        emit takeOut();
    else
        QListView::keyPressEvent(e);
}

void ContactSheet::contextMenuEvent(QContextMenuEvent* e) {
    const QModelIndex i = indexAt(e->pos());
    if (!i.isValid()) return;
    m_document.setCurrent(m_frames.frame(i.row()).id);
    emit menuAsked(e->globalPos());
}

void ContactSheet::paintEvent(QPaintEvent* e) {
    QListView::paintEvent(e);
    if (model()->rowCount() > 0) return;
    QPainter p(viewport());
    p.setPen(theme().dim);
    p.drawText(
        viewport()->rect(), Qt::AlignCenter,
        tr("Drop pictures or a folder here, or open a folder%1").arg(keyHint(*this, "open")));
}

}  // namespace gq::desk
