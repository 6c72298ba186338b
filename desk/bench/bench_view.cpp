#include "desk/bench/bench_view.h"

#include <QTimer>
#include <algorithm>
#include <array>
#include <cmath>

#include "core/series/lookup.h"
#include "desk/bench/rounds.h"
#include "desk/ledger/why.h"
#include "desk/look/convert.h"
#include "desk/look/theme.h"

namespace gq::desk {

std::optional<Guide> guideOf(Tool tool) {
    switch (tool) {
        case Tool::Heed:
            return Guide::Heed;
        case Tool::Hush:
            return Guide::Hush;
        case Tool::Shield:
            return Guide::Shield;
        case Tool::Bounds:
            return Guide::Bounds;
        default:
            return std::nullopt;
    }
}

BenchView::BenchView(DeskDocument& document, Pictures& pictures, Work& work, MendWork& mends,
                     GuideWork& guides, Jobs& jobs, QWidget* parent)
    : QWidget(parent),
      m_document(document),
      m_pictures(pictures),
      m_work(work),
      m_guides(guides),
      m_mends(mends),
      m_mendTools(mends, document, pictures),
      m_before(jobs),
      m_after(jobs) {
    setObjectName("bench");
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setMinimumSize(320, 240);
    connect(&pictures, &Pictures::replaced, this, [this] {
        for (auto* tiles : {&m_before, &m_after}) {
            tiles->reset();
            tiles->setInversion(m_pictures.frame()->inversion);
        }
        m_contours.clear();
        if (m_fitted) fit();
        clampOffset();
        update();
    });
    connect(&pictures, &Pictures::touched, this, [this](const std::vector<Rect>& changed) {
        m_after.drop(changed);
        for (const Rect& r : changed) update(onScreen(r).adjusted(-2, -2, 2, 2).toAlignedRect());
        // A chosen mend's source may lie anywhere, and have lain elsewhere.
        update(m_sourceMarks.toAlignedRect());
        m_sourceMarks = sourceMarks();
        update(m_sourceMarks.toAlignedRect());
    });
    for (auto* tiles : {&m_before, &m_after})
        connect(tiles, &TileStore::made, this, qOverload<>(&QWidget::update));
    connect(&document, &DeskDocument::changed, this, [this] {
        const auto frame = m_pictures.frame();
        for (auto* tiles : {&m_before, &m_after})
            if (frame) tiles->setInversion(frame->inversion);
        update();
    });
    for (auto signal : {&DeskDocument::selectionChanged, &DeskDocument::lineMoved})
        connect(&document, signal, this, qOverload<>(&QWidget::update));
}

QTransform BenchView::transform() const {
    const auto frame = m_pictures.frame();
    if (!frame) return {};
    return shownTransform(frame->geometry) * QTransform::fromScale(m_zoom, m_zoom) *
           QTransform::fromTranslate(sheet().left() + m_offset.x() + m_shake.x(),
                                     m_offset.y() + m_shake.y());
}

QRectF BenchView::sheet() const {
    if (m_compare != Compare::Beside) return rect();
    const int half = width() / 2;
    return QRectF(width() - half, 0, half, height());
}

QPointF BenchView::tracked(const QPointF& widget) {
    const double left = sheet().left();
    if (m_grip == Grip::None) m_onBefore = widget.x() < left;
    return m_onBefore ? widget + QPointF(left, 0) : widget;
}

QRectF BenchView::onScreen(const Rect& stored) const {
    return transform().mapRect(QRectF(stored.x, stored.y, stored.width, stored.height));
}

QRectF BenchView::sourceMarks() const {
    constexpr double kBeside = 8;  // px that lines, rings and the knob reach beyond the boxes
    const auto* m = m_document.selectedMend();
    if (!m || sourceOf(*m) == Point(0, 0)) return {};
    const QPointF knob = knobOf(*m);
    return (onScreen(m->mend.region.box) | onScreen(m->mend.region.box + sourceOf(*m)) |
            QRectF(knob.x(), knob.y(), 1, 1))
        .adjusted(-kBeside, -kBeside, kBeside, kBeside);
}

QPointF BenchView::toWidget(PointF s) const {
    return transform().map(QPointF(double(s.x), double(s.y)));
}

PointF BenchView::toStored(QPointF w) const {
    const QPointF s = transform().inverted().map(w);
    return {float(s.x()), float(s.y())};
}

double BenchView::fitZoom() const {
    const auto frame = m_pictures.frame();
    if (!frame) return 1;
    const Size s = frame->geometry.shownSize();
    return std::min({sheet().width() / s.width, sheet().height() / s.height, 1.0});
}

void BenchView::fit() {
    m_zoom = fitZoom();
    m_fitted = true;
    clampOffset();
    update();
    emit viewChanged();
}

void BenchView::fitOrFull() {
    if (m_fitted)
        zoomTo(1 / devicePixelRatioF(), m_inside ? m_pointer : sheet().center());
    else
        fit();
}

void BenchView::zoomTo(double zoom, QPointF about) {
    zoom = std::clamp(zoom, std::min(0.02, fitZoom()), 16.0);
    about -= sheet().topLeft();
    m_offset = about - (about - m_offset) * (zoom / m_zoom);
    m_zoom = zoom;
    m_fitted = false;
    clampOffset();
    update();
    emit viewChanged();
}

void BenchView::clampOffset() {
    const auto frame = m_pictures.frame();
    if (!frame) return;
    const Size s = frame->geometry.shownSize();
    const auto clamped = [](double offset, double picture, double room) {
        return picture <= room ? (room - picture) / 2 : std::clamp(offset, room - picture, 0.0);
    };
    m_offset = {clamped(m_offset.x(), s.width * m_zoom, sheet().width()),
                clamped(m_offset.y(), s.height * m_zoom, sheet().height())};
}

void BenchView::showEntry(series::Id entry) {
    const auto frame = m_pictures.frame();
    if (!frame || !entry) return;
    const auto* f = frame->finding(entry);
    const auto* m = frame->mend(entry);
    if (!f && !m) return;
    const QPointF at = toWidget((f ? f->finding.region : m->mend.region).centre());
    if (sheet().adjusted(40, 40, -40, -40).contains(at)) return;
    m_offset += sheet().center() - at;
    clampOffset();
    update();
}

bool BenchView::dropShape() {
    const bool drawing = m_mendTools.drawing();
    m_mendTools.cancel();
    update();
    return drawing;
}

void BenchView::setTool(Tool tool) {
    if (tool != m_tool) m_mendTools.cancel();
    m_tool = tool;
    setCursor(tool == Tool::Look ? Qt::ArrowCursor : Qt::CrossCursor);
    update();
    emit viewChanged();
}

void BenchView::setLasso(bool on) {
    m_lasso = on;
    update();
    emit viewChanged();
}

void BenchView::setErase(bool on) {
    m_erase = on;
    emit viewChanged();
}

void BenchView::setMaskAlone(bool on) {
    m_maskAlone = on;
    update();
    emit viewChanged();
}

QRectF BenchView::inSight() const {
    return QRectF(-m_offset / m_zoom, sheet().size() / m_zoom);
}

void BenchView::goRound(int by) {
    const auto frame = m_pictures.frame();
    if (!frame) return;
    const double full = 1 / devicePixelRatioF();
    if (m_zoom < full) zoomTo(full, sheet().center());
    const Size shown = frame->geometry.shownSize();
    const auto mark = [&] {
        const QRectF seen = shownTransform(frame->geometry)
                                .inverted()
                                .mapRect(inSight() & QRectF(0, 0, shown.width, shown.height));
        const QRect whole = seen.toAlignedRect();
        m_guides.markSeen(Rect(whole.x(), whole.y(), whole.width(), whole.height()),
                          m_zoom * devicePixelRatioF());
    };
    const QPointF middle = inSight().center();
    const QSizeF cell = inSight().size();
    const PointF to =
        nextRound(shown, {std::max(1, int(cell.width())), std::max(1, int(cell.height()))},
                  {float(middle.x()), float(middle.y())}, by);
    mark();  // what is left was looked at
    m_offset = QPointF(sheet().width() / 2, sheet().height() / 2) -
               QPointF(double(to.x), double(to.y)) * m_zoom;
    m_fitted = false;
    clampOffset();
    mark();
    update();
    emit viewChanged();
}

void BenchView::screenCheck() {
    const std::array<QPointF, 5> steps{QPointF(14, 0), QPointF(14, 10), QPointF(-14, 10),
                                       QPointF(-14, 0), QPointF(0, 0)};
    for (size_t i = 0; i < steps.size(); ++i)
        QTimer::singleShot(int(i) * 180, this, [this, step = steps[i]] {
            m_shake = step;
            update();
        });
}

void BenchView::setToolSize(float pixels) {
    m_toolSize = std::clamp(pixels, 2.0f, 400.0f);
    update();
    emit viewChanged();
}

void BenchView::setSoftness(float pixels) {
    m_softness = std::clamp(pixels, 0.0f, 40.0f);
    update();
    emit viewChanged();
}

void BenchView::setLight(const render::ViewingLight& light) {
    m_light = light;
    m_before.setLight(light);
    m_after.setLight(light);
    update();
    emit viewChanged();
}

void BenchView::holdBefore(bool on) {
    m_hold = on;
    update();
}

void BenchView::toggle(Compare how) {
    const QPointF middle = inSight().center();
    m_compare = m_compare == how ? Compare::None : how;
    m_onBefore = false;
    if (m_fitted) fit();
    m_offset = QPointF(sheet().width() / 2, sheet().height() / 2) - middle * m_zoom;
    clampOffset();
    update();
    emit viewChanged();
}

void BenchView::toggleQuiet() {
    m_quiet = !m_quiet;
    update();
    emit viewChanged();
}

void BenchView::sourceFromPointer() {
    const auto* m = m_document.selectedMend();
    if (!m || !m_inside) return;
    const PointF d = toStored(m_pointer) - m->mend.region.centre();
    m_work.setSource(m->id, {int(std::lround(d.x)), int(std::lround(d.y))}, true);
}

const QPainterPath& BenchView::contourOf(series::Id id, const Region& region) {
    // No truer than the screen shows; the same for zooms of one octave.
    const int octave = std::clamp(int(std::floor(std::log2(m_zoom * devicePixelRatioF()))), -8, 4);
    auto& kept = m_contours[{id, octave}];
    if (kept.first != region.box || kept.second.isEmpty())
        kept = {region.box, outline(region, 0.3 / std::exp2(octave))};
    return kept.second;
}

Point BenchView::sourceOf(const series::MendEntry& mend) const {
    if (mend.mend.source) return *mend.mend.source;
    const auto it = m_pictures.patches().find(mend.id);
    return it == m_pictures.patches().end() ? Point(0, 0) : it->second->source;
}

QString BenchView::whyAt(QPointF w) const {
    const auto frame = m_document.current();
    if (!frame) return {};
    const PointF at = toStored(w);
    const Point pixel(int(at.x), int(at.y));
    for (const auto& f : frame->findings)
        if (f.finding.region.box.contains(pixel) ||
            (entryAt(w) == f.id && series::proposed(f, m_document.line())))
            return whyProposed(f, m_document.line());
    return {};
}

series::Id BenchView::entryAt(QPointF w) const {
    const auto frame = m_document.current();
    if (!frame) return 0;
    const float line = m_document.line();
    series::Id best = 0;
    double nearest = 1e9;
    const auto consider = [&](series::Id id, const Region& region) {
        const QRectF box =
            transform()
                .mapRect(QRectF(region.box.x, region.box.y, region.box.width, region.box.height))
                .adjusted(-7, -7, 7, 7);
        const double d = QLineF(box.center(), w).length();
        if (box.contains(w) && d < nearest) nearest = d, best = id;
    };
    const series::Lookup entries(*frame);
    for (const auto& f : frame->findings)
        if (entries.mendOf(f.id) || (series::proposed(f, line) && !f.left))
            consider(f.id, f.finding.region);
    for (const auto& m : frame->mends)
        if (!entries.finding(m.finding)) consider(m.id, m.mend.region);
    return best;
}

bool BenchView::onSource(QPointF w) const {
    const auto* m = m_document.selectedMend();
    if (!m || m_quiet || !mend::hasSource(m->mend.method)) return false;
    const Point s = sourceOf(*m);
    if (s == Point(0, 0)) return false;
    return onScreen(m->mend.region.box + s).adjusted(-5, -5, 5, 5).contains(w);
}

}  // namespace gq::desk
