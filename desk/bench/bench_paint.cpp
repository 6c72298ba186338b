// What the bench draws: the picture, marks, guides and the held tool.
#include <QPaintEvent>
#include <QPainter>
#include <algorithm>

#include "core/series/lookup.h"
#include "desk/bench/bench_view.h"
#include "desk/bench/marks.h"
#include "desk/bench/rounds.h"
#include "desk/look/convert.h"
#include "desk/look/key_hint.h"
#include "desk/look/theme.h"

namespace gq::desk {

void BenchView::paintEvent(QPaintEvent* e) {
    QPainter p(this);
    p.setClipRect(e->rect());
    p.fillRect(e->rect(), theme().surround);
    if (!m_pictures.frame() || m_pictures.before().empty()) {
        p.setPen(QColor("#202020"));
        p.drawText(rect(), Qt::AlignCenter,
                   m_document.isOpen()
                       ? tr("Opening the frame")
                       : tr("Open a folder of pictures to begin%1").arg(keyHint(*this, "open")));
        return;
    }
    if (m_compare == Compare::Beside) paintBeside(p);
    p.setClipRect(sheet(), Qt::IntersectClip);
    if (m_hold)
        paintPicture(p, m_pictures.before(), m_before);
    else
        paintPicture(p, m_pictures.after(), m_after);
    if (m_compare == Compare::Wipe && !m_hold) paintWipe(p);
    if (m_compare == Compare::Changed && !m_hold) paintChanged(p);
    paintGuides(p);
    const auto current = m_document.current();
    if (current && !m_pictures.areOf(*current)) {
        p.fillRect(QRect(0, 0, width(), 26), QColor(0, 0, 0, 120));
        p.setPen(Qt::white);
        p.drawText(QRect(12, 0, width() - 24, 26), Qt::AlignVCenter,
                   tr("Opening %1").arg(text(current->name())));
        return;
    }
    p.setRenderHint(QPainter::Antialiasing);
    if (!m_quiet && !m_hold) paintMarks(p);
    if (mends(m_tool) || guideOf(m_tool)) paintTool(p);
    if (m_grip == Grip::Box) {
        p.setBrush(QColor(127, 208, 195, 40));
        p.setPen(QPen(QColor(127, 208, 195), 1));
        p.drawRect(QRectF(m_pressed, m_pointer).normalized());
    }
    if (const auto seen = m_document.current(); seen && !m_quiet)
        paintSeenMap(p, rect(), *seen, inSight());
    p.setClipRect(e->rect());
    paintNames(p);
}

void BenchView::paintPicture(QPainter& p, const Pyramid& pyramid, TileStore& tiles) {
    const double screen = m_zoom * devicePixelRatioF();
    const int level = pyramid.levelFor(screen);
    const auto& image = pyramid.levels[size_t(level)];
    const double k = double(1 << level);
    const QTransform t = QTransform::fromScale(k, k) * transform();
    const QRectF seen =
        t.inverted().mapRect(p.clipBoundingRect()) & QRectF(0, 0, image.cols, image.rows);
    if (seen.isEmpty()) return;
    p.save();
    p.setTransform(t, true);
    p.setRenderHint(QPainter::SmoothPixmapTransform, screen < 2);
    const int side = TileStore::kSide;
    for (int row = int(seen.top()) / side; row <= int(seen.bottom() - 0.001) / side; ++row)
        for (int column = int(seen.left()) / side; column <= int(seen.right() - 0.001) / side;
             ++column)
            p.drawImage(QPointF(column * side, row * side),
                        tiles.tile(pyramid, level, column, row));
    p.restore();
}

void BenchView::paintMarks(QPainter& p) {
    const auto frame = m_document.current();
    const float line = m_document.line();
    MarkPainter marks(p, transform());
    constexpr double kBeside = 24;  // px of the screen that corners and signs take up
    const QRectF seen = transform().inverted().mapRect(
        p.clipBoundingRect().adjusted(-kBeside, -kBeside, kBeside, kBeside));
    const auto visible = [&](const Rect& b) {
        return seen.intersects(QRectF(b.x, b.y, b.width, b.height));
    };
    const auto* selectedMend = m_document.selectedMend();
    const auto* selectedFinding = m_document.selectedFinding();
    const auto chosen = m_document.chosenMends();
    const auto isChosen = [&](const series::MendEntry* m) {
        return m && std::find(chosen.begin(), chosen.end(), m->id) != chosen.end();
    };
    struct Shown {
        series::Id id;
        const Region* region;
        find::Kind kind;
        MarkLook look;
    };
    std::vector<Shown> shown;
    const series::Lookup entries(*frame);
    const auto stateOf = [](const series::MendEntry& m) {
        return m.muted ? MarkLook::State::Look : MarkLook::State::Mended;
    };
    for (const auto& f : frame->findings) {
        if (!visible(f.finding.region.box)) continue;
        const auto* m = entries.mendOf(f.id);
        const bool selected = selectedFinding == &f || isChosen(m),
                   above = series::proposed(f, line);
        if (!selected && (f.left || (!m && !above))) continue;
        const auto state = m ? stateOf(*m) : above ? MarkLook::State::Open : MarkLook::State::Below;
        shown.push_back({f.id, &f.finding.region, f.finding.kind, {state, selected}});
    }
    for (const auto& m : frame->mends)
        if (!entries.finding(m.finding) && visible(m.mend.region.box))
            shown.push_back({m.id, &m.mend.region, find::Kind::Shadow, {stateOf(m), isChosen(&m)}});
    constexpr size_t kMany = 250;  // whose ticks and glyphs would cover the picture
    constexpr double kTiny = 6;    // px of the screen
    for (const auto& s : shown) {
        const Rect& b = s.region->box;
        if (shown.size() > kMany && !s.look.selected &&
            std::max(b.width, b.height) * m_zoom < kTiny)
            marks.dot(QPointF(b.x + b.width / 2.0, b.y + b.height / 2.0), s.look);
        else
            marks.mark(contourOf(s.id, *s.region), s.kind, s.look);
    }
    m_sourceMarks = sourceMarks();
    if (!selectedMend) return;
    paintInside(p, *selectedMend);
    if (!mend::hasSource(selectedMend->mend.method)) return;
    const Point source = m_grip == Grip::Source ? m_sourceNow : sourceOf(*selectedMend);
    if (source != Point(0, 0))
        marks.source(contourOf(selectedMend->id, selectedMend->mend.region), source);
    if (source != Point(0, 0)) {
        p.setBrush(QColor("#8FE6D8"));
        p.setPen(QPen(QColor(0, 0, 0, 160), 1));
        p.drawEllipse(knobOf(*selectedMend), 4.5, 4.5);
    }
}

/// What lies inside a selected mend: the specks that Sift takes, the guides of Rebuild.
void BenchView::paintInside(QPainter& p, const series::MendEntry& entry) {
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(QColor("#8FE6D8"), 1.2));
    const auto patch = m_pictures.patches().find(entry.id);
    if (entry.mend.method == mend::Method::Sift && patch != m_pictures.patches().end())
        p.drawPath(transform().map(outline({patch->second->box, patch->second->footprint})));
    p.setPen(QPen(QColor("#D9A441"), 1.6, Qt::DashLine));
    for (const auto& line : entry.mend.guides) {
        QPainterPath path(toWidget(line.front()));
        for (const auto& s : line) path.lineTo(toWidget(s));
        p.drawPath(path);
    }
}

void BenchView::paintGuides(QPainter& p) {
    const auto held = guideOf(m_tool);
    if (held && m_maskAlone)
        GuideOverlay::paintAlone(p, transform(), m_guides.mask(*held),
                                 m_pictures.frame()->geometry.stored);
    else if (!m_hold && !m_quiet)
        m_overlay.paint(p, transform(), m_guides, held);
}

void BenchView::paintTool(QPainter& p) {
    const double r = double(m_toolSize) / 2 * m_zoom;
    const bool outlining = m_grip == Grip::Guide && m_lasso;
    m_mendTools.paint(
        p, [this](PointF s) { return toWidget(s); }, m_zoom, m_toolSize, m_pointer);
    if (m_grip == Grip::Guide && m_stroke.size() > 1) {
        QPainterPath path(toWidget(m_stroke.front()));
        for (const auto& s : m_stroke) path.lineTo(toWidget(s));
        if (outlining) path.closeSubpath();
        p.setPen(QPen(QColor(127, 208, 195, outlining ? 230 : 110), outlining ? 1.5 : 2 * r,
                      Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        p.drawPath(path);
    }
    if (!m_inside || !(guideOf(m_tool) ? !m_lasso : brushes(m_tool))) return;
    p.setBrush(Qt::NoBrush);
    for (const auto& [colour, width] :
         {std::pair<QColor, double>{QColor(0, 0, 0, 140), 3.0}, {QColor(250, 250, 250), 1.0}}) {
        p.setPen(QPen(colour, width));
        p.drawEllipse(m_pointer, r, r);
    }
    if (!brushes(m_tool)) return;
    p.setPen(QPen(QColor(250, 250, 250, 90), 1, Qt::DotLine));
    p.drawEllipse(m_pointer, r + double(m_softness) * m_zoom, r + double(m_softness) * m_zoom);
}

}  // namespace gq::desk
