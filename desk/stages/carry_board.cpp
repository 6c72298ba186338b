#include "desk/stages/carry_board.h"

#include <QHeaderView>
#include <QKeyEvent>
#include <QPainter>
#include <set>

#include "core/carry/chart.h"
#include "desk/look/convert.h"
#include "desk/look/theme.h"

namespace gq::desk {

CarryModel::CarryModel(DeskDocument& document, QObject* parent)
    : QAbstractTableModel(parent), m_document(document) {
    connect(&document, &DeskDocument::changed, this, &CarryModel::rebuild);
}

void CarryModel::rebuild() {
    const auto s = m_document.now();
    std::set<series::Id> shown;
    std::vector<series::FramePtr> frames;
    for (const auto& f : s->frames) {
        bool any = false;
        for (const auto& c : f->carried) {
            if (c.fromFrame != s->reference && c.fromFrame != carry::kChartFrame) continue;
            any = true;
            if (!m_onlyLooks || c.verdict == series::Verdict::NeedsLook) shown.insert(c.fromMend);
        }
        if (any) frames.push_back(f);
    }
    std::vector<series::Id> mends;  // the reference's in its order, then a chart's
    if (const auto reference = s->frame(s->reference))
        for (const auto& m : reference->mends)
            if (shown.erase(m.id)) mends.push_back(m.id);
    mends.insert(mends.end(), shown.begin(), shown.end());
    if (mends == m_mends && frames.size() == m_frames.size()) {
        m_frames = std::move(frames);
        if (!m_mends.empty() && !m_frames.empty())
            emit dataChanged(index(0, 0), index(rowCount() - 1, columnCount() - 1));
        return;
    }
    beginResetModel();
    m_mends = std::move(mends);
    m_frames = std::move(frames);
    endResetModel();
}

void CarryModel::setOnlyLooks(bool on) {
    m_onlyLooks = on;
    if (m_document.isOpen()) rebuild();
}

const series::CarriedEntry* CarryModel::cell(const QModelIndex& i) const {
    for (const auto& c : frame(i.column()).carried)
        if (c.fromMend == mend(i.row())) return &c;
    return nullptr;
}

QVariant CarryModel::data(const QModelIndex& i, int role) const {
    const auto* c = i.isValid() ? cell(i) : nullptr;
    if (c && (role == Qt::ToolTipRole || role == Qt::AccessibleTextRole))
        return tr("%1: %2. Enter opens it there, A accepts it, X leaves the place alone; with "
                  "Shift "
                  "its whole row, with Ctrl its whole column.")
            .arg(text(frame(i.column()).name()), text(series::word(c->verdict)));
    return {};
}

QVariant CarryModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (role != Qt::DisplayRole) return {};
    if (orientation == Qt::Horizontal) return text(frame(section).name());
    const auto s = m_document.now();
    const auto reference = s->frame(s->reference);
    const auto* m = reference ? reference->mend(mend(section)) : nullptr;
    if (!m) return tr("chart");
    const auto* f = reference->finding(m->finding);
    const Rect& box = f ? f->finding.region.box : m->mend.region.box;
    return QStringLiteral("%1\n%2 px")
        .arg(f ? text(find::word(f->finding.kind)) : tr("by hand"))
        .arg(std::max(box.width, box.height));
}

namespace {

class CellDelegate : public QStyledItemDelegate {
  public:
    CellDelegate(CarryModel& model, Crops& crops, QObject* parent)
        : QStyledItemDelegate(parent), m_model(model), m_crops(crops) {}

    void paint(QPainter* p, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        const auto* c = m_model.cell(index);
        const Theme& t = theme();
        const QRect r = option.rect.adjusted(3, 3, -3, -3);
        p->fillRect(option.rect, t.window);
        if (!c) return;
        p->fillRect(r, t.panel);
        const auto* crops =
            m_crops.carried(m_model.frame(index.column()), m_model.mend(index.row()));
        const bool look = c->verdict == series::Verdict::NeedsLook,
                   mended = c->verdict == series::Verdict::Mended;
        const int side = (r.width() - 6) / 2;
        for (int i = 0; i < 2; ++i) {
            const QRect box(r.left() + 2 + i * (side + 2), r.top() + 2, side, r.height() - 22);
            p->fillRect(box, t.raised);
            if (!crops) continue;
            const QImage& image = i && !crops->after.isNull() ? crops->after : crops->before;
            const double aspect = double(box.height()) / box.width();
            const QRectF part(0, image.height() * (1 - aspect) / 2, image.width(),
                              image.height() * aspect);
            p->setOpacity(c->verdict == series::Verdict::NotVisible ? 0.55 : 1);
            p->drawImage(QRectF(box), image, part);
            p->setOpacity(1);
        }
        QFont small = option.font;
        small.setPixelSize(11);
        p->setFont(small);
        p->setPen(look ? t.look : mended ? t.accentText : t.dim);
        p->drawText(QRect(r.left(), r.bottom() - 19, r.width(), 18), Qt::AlignCenter,
                    look ? QStringLiteral("⚑ look") : text(series::word(c->verdict)));
        const bool chosen = option.state & QStyle::State_Selected;
        if (!look && !chosen) return;
        p->setPen(QPen(chosen ? t.accent : t.look, chosen ? 2 : 1));
        p->setBrush(Qt::NoBrush);
        p->drawRect(r.adjusted(0, 0, -1, -1));
    }

  private:
    CarryModel& m_model;
    Crops& m_crops;
};

}  // namespace

CarryBoard::CarryBoard(DeskDocument& document, Work& work, Crops& crops, QWidget* parent)
    : QTableView(parent), m_work(work), m_model(document) {
    setObjectName("board");
    setModel(&m_model);
    setItemDelegate(new CellDelegate(m_model, crops, this));
    setShowGrid(false);
    setSelectionMode(QAbstractItemView::SingleSelection);
    setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    setHorizontalScrollMode(QAbstractItemView::ScrollPerPixel);
    horizontalHeader()->setDefaultSectionSize(112);
    horizontalHeader()->setSectionResizeMode(QHeaderView::Fixed);
    horizontalHeader()->setHighlightSections(false);
    verticalHeader()->setDefaultSectionSize(78);
    verticalHeader()->setSectionResizeMode(QHeaderView::Fixed);
    verticalHeader()->setFixedWidth(72);
    verticalHeader()->setHighlightSections(false);
    connect(&crops, &Crops::made, viewport(), qOverload<>(&QWidget::update));
    connect(this, &QTableView::doubleClicked, this, &CarryBoard::open);
}

void CarryBoard::open(const QModelIndex& i) {
    const auto* c = i.isValid() ? m_model.cell(i) : nullptr;
    if (c) emit openCell(m_model.frame(i.column()).id, c->mend);
}

std::vector<Work::Cell> CarryBoard::cellsAt(const QModelIndex& at,
                                            Qt::KeyboardModifiers keys) const {
    std::vector<Work::Cell> out;
    const bool row = keys & Qt::ShiftModifier, column = keys & Qt::ControlModifier;
    const int top = column ? 0 : at.row(), bottom = column ? m_model.rowCount() - 1 : at.row();
    const int left = row ? 0 : at.column(), right = row ? m_model.columnCount() - 1 : at.column();
    for (int r = top; r <= bottom; ++r)
        for (int c = left; c <= right; ++c)
            if (m_model.cell(m_model.index(r, c)))
                out.push_back({m_model.frame(c).id, m_model.mend(r)});
    return out;
}

void CarryBoard::keyPressEvent(QKeyEvent* e) {
    const QModelIndex i = currentIndex();
    if (!i.isValid() || (e->modifiers() & Qt::AltModifier)) return QTableView::keyPressEvent(e);
    if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter)
        open(i);
    else if (e->key() == Qt::Key_A)
        m_work.accept(cellsAt(i, e->modifiers()));
    else if (e->key() == Qt::Key_X)
        m_work.drop(cellsAt(i, e->modifiers()));
    else
        QTableView::keyPressEvent(e);
}

void CarryBoard::paintEvent(QPaintEvent* e) {
    QTableView::paintEvent(e);
    if (m_model.columnCount() > 0) return;
    QPainter p(viewport());
    p.setPen(theme().dim);
    p.drawText(viewport()->rect().adjusted(40, 0, -40, 0), Qt::AlignCenter | Qt::TextWordWrap,
               tr("Nothing was carried yet. Tick the frames at the left, then carry the reference "
                  "frame's mends to them."));
}

}  // namespace gq::desk
