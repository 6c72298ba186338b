// What the hand does on the bench: mouse, wheel, pen and held keys.
#include <QMouseEvent>
#include <QTabletEvent>
#include <QToolTip>
#include <cmath>

#include "desk/bench/bench_view.h"

namespace gq::desk {

void BenchView::resizeEvent(QResizeEvent*) {
    if (m_fitted) fit();
    clampOffset();
}

void BenchView::wheelEvent(QWheelEvent* e) {
    const double turn = (e->angleDelta().y() ? e->angleDelta().y() : e->angleDelta().x()) / 120.0;
    const bool shift = e->modifiers() & Qt::ShiftModifier,
               ctrl = e->modifiers() & Qt::ControlModifier;
    if (shift && ctrl)
        setSoftness(m_softness + float(turn));
    else if (shift)
        setToolSize(m_toolSize * float(std::pow(1.12, turn)));
    else
        zoomTo(m_zoom * std::pow(1.2, turn), tracked(e->position()));
}

void BenchView::mousePressEvent(QMouseEvent* e) {
    m_pressed = m_pointer = tracked(e->position());
    if (!m_pictures.frame()) return;
    if (e->button() == Qt::MiddleButton || (e->button() == Qt::LeftButton && m_space))
        m_grip = Grip::Pan;
    else if (e->button() != Qt::LeftButton)
        return;
    else if (overSeam())
        m_grip = Grip::Wipe;
    else if (m_mendTools.drawing()) {
        m_mendTools.press(m_tool, hand(*e));
        m_grip = Grip::Mend;
    } else if (m_tool == Tool::PickBase) {
        emit basePicked(toStored(m_pointer));
        return;
    } else if (guideOf(m_tool)) {
        m_grip = Grip::Guide;
        m_stroke = {toStored(m_pointer)};
    } else if (onKnob(m_pointer)) {
        m_grip = Grip::Turn;
    } else if (onSource(m_pointer)) {
        m_grip = Grip::Source;
        m_sourceStart = m_sourceNow = sourceOf(*m_document.selectedMend());
    } else if ((e->modifiers() & Qt::ShiftModifier) && m_tool != Tool::Outline &&
               m_tool != Tool::Path) {
        m_grip = Grip::Box;
    } else if (mends(m_tool) &&
               ((e->modifiers() & (Qt::ControlModifier | Qt::AltModifier | Qt::ShiftModifier)) ||
                !entryAt(m_pointer))) {
        m_mendTools.press(m_tool, hand(*e));
        m_grip = Grip::Mend;
    } else {
        m_document.select(entryAt(m_pointer));
        m_grip = Grip::Pan;
    }
    update();
}

void BenchView::mouseMoveEvent(QMouseEvent* e) {
    const QPointF at = tracked(e->position()), step = at - m_pointer;
    m_pointer = at;
    m_inside = true;
    switch (m_grip) {
        case Grip::Pan:
            m_offset += step;
            m_fitted = m_fitted && step.isNull();
            clampOffset();
            break;
        case Grip::Wipe:
            m_wipeShare = std::clamp(m_pointer.x() / width(), 0.0, 1.0);
            break;
        case Grip::Mend:
            m_mendTools.move(hand(*e));
            break;
        case Grip::Turn:
            turnTo(m_pointer);
            break;
        case Grip::Box:
            break;
        case Grip::Guide:
            m_stroke.push_back(toStored(m_pointer));
            break;
        case Grip::Source: {
            const PointF d = toStored(m_pointer) - toStored(m_pressed);
            m_sourceNow = m_sourceStart + Point(int(std::lround(d.x)), int(std::lround(d.y)));
            m_work.setSource(m_document.selectedMend()->id, m_sourceNow, false);
            break;
        }
        case Grip::None:
            if (overSeam())
                setCursor(Qt::SplitHCursor);
            else if (onSource(m_pointer) || onKnob(m_pointer))
                setCursor(Qt::OpenHandCursor);
            else
                setCursor(m_tool == Tool::Look ? Qt::ArrowCursor : Qt::CrossCursor);
    }
    update();
}

void BenchView::mouseReleaseEvent(QMouseEvent* e) {
    m_pointer = tracked(e->position());
    const Grip grip = std::exchange(m_grip, Grip::None);
    const bool click = QLineF(m_pressed, m_pointer).length() < 3;
    if (grip == Grip::Mend) m_mendTools.release(hand(*e), click);
    if (grip == Grip::Turn) {
        const auto* selected = m_document.selectedMend();
        const Point source = selected ? sourceOf(*selected) : Point();
        m_mends.change(tr("turn the source"), [&](mend::Mend& m) {
            m.source = m.source.value_or(source);
            m.turn.degrees = m_turn;
        });
    }
    if (grip == Grip::Box) {
        if (click)
            toggleAt(m_pointer);
        else
            selectBox(QRectF(m_pressed, m_pointer).normalized());
    }
    if (const auto guide = guideOf(m_tool); grip == Grip::Guide && guide) {
        m_stroke.push_back(toStored(m_pointer));
        const bool erase = m_erase != bool(e->modifiers() & Qt::AltModifier);
        if (m_lasso)
            m_guides.fill(*guide, m_stroke, erase);
        else
            m_guides.paint(*guide, m_stroke, m_toolSize, erase);
        m_stroke.clear();
    }
    if (grip == Grip::Source && m_document.selectedMend())
        m_work.setSource(m_document.selectedMend()->id, m_sourceNow, true);
    update();
}

void BenchView::mouseDoubleClickEvent(QMouseEvent* e) {
    if (!mends(m_tool)) return;
    m_pointer = tracked(e->position());
    m_mendTools.finish(hand(*e));
    m_grip = Grip::None;
    update();
}

void BenchView::tabletEvent(QTabletEvent* e) {
    // Pressure thins the stroke; the rest is as with the mouse, which Qt makes of an ignored event.
    m_pressure = e->type() == QEvent::TabletRelease ? 1.0f : float(std::max(0.1, e->pressure()));
    e->ignore();
}

MendTools::Hand BenchView::hand(const QMouseEvent& e) const {
    return {toStored(m_pointer), e.modifiers(), m_toolSize, m_softness, m_pressure};
}

bool BenchView::overSeam() const {
    return m_compare == Compare::Wipe && std::abs(m_pointer.x() - wipeX()) < 8;
}

void BenchView::toggleAt(QPointF widget) {
    const auto frame = m_document.current();
    const auto id = entryAt(widget);
    if (!frame || !id) return;
    if (const auto* m = frame->mend(id) ? frame->mend(id) : frame->mendOf(id))
        m_document.toggleMend(m->id);
}

void BenchView::selectBox(const QRectF& widget) {
    const auto frame = m_document.current();
    if (!frame) return;
    std::vector<series::Id> inside;
    for (const auto& m : frame->mends) {
        const PointF c = m.mend.region.centre();
        if (widget.contains(toWidget(c))) inside.push_back(m.id);
    }
    m_document.selectMends(inside);
}

bool BenchView::onKnob(QPointF widget) const {
    const auto* m = m_document.selectedMend();
    if (!m || m_quiet || !mend::hasSource(m->mend.method) || sourceOf(*m) == Point(0, 0))
        return false;
    return QLineF(widget, knobOf(*m)).length() < 8;
}

QPointF BenchView::knobOf(const series::MendEntry& entry) const {
    const Point s = sourceOf(entry);
    const QRectF box = onScreen(entry.mend.region.box + s);
    const double turn =
        double(m_grip == Grip::Turn ? m_turn : entry.mend.turn.degrees) * M_PI / 180;
    const double out = std::max(box.width(), box.height()) / 2 + 16;
    return box.center() + QPointF(std::cos(turn), std::sin(turn)) * out;
}

void BenchView::turnTo(QPointF widget) {
    const auto* m = m_document.selectedMend();
    if (!m) return;
    const Rect b = m->mend.region.box + sourceOf(*m);
    const QPointF d = widget - transform().map(QPointF(b.x + b.width / 2.0, b.y + b.height / 2.0));
    m_turn = float(std::atan2(d.y(), d.x()) * 180 / M_PI);
    if (std::abs(m_turn) < 3) m_turn = 0;
    const Point source = sourceOf(*m);
    m_mends.preview([&](mend::Mend& one) {
        one.source = one.source.value_or(source);
        one.turn.degrees = m_turn;
    });
}

void BenchView::keyPressEvent(QKeyEvent* e) {
    const int far = e->modifiers() & Qt::ShiftModifier ? 10 : 1;
    if (e->key() == Qt::Key_Space && !e->isAutoRepeat())
        m_space = true;
    else if ((e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) && m_mendTools.drawing())
        m_mendTools.finish({toStored(m_pointer), e->modifiers(), m_toolSize, m_softness, 1});
    else if (const Point by = e->key() == Qt::Key_Left    ? Point(-far, 0)
                              : e->key() == Qt::Key_Right ? Point(far, 0)
                              : e->key() == Qt::Key_Up    ? Point(0, -far)
                              : e->key() == Qt::Key_Down  ? Point(0, far)
                                                          : Point();
             by != Point() && m_document.selectedMend())
        m_mends.nudge(by);
    else
        QWidget::keyPressEvent(e);
}

void BenchView::keyReleaseEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Space && !e->isAutoRepeat())
        m_space = false;
    else
        QWidget::keyReleaseEvent(e);
}

bool BenchView::event(QEvent* e) {
    if (e->type() != QEvent::ToolTip) return QWidget::event(e);
    const auto* help = static_cast<QHelpEvent*>(e);
    const QString why = m_quiet ? QString() : whyAt(tracked(help->pos()));
    if (why.isEmpty())
        QToolTip::hideText();
    else
        QToolTip::showText(help->globalPos(), why, this);
    return true;
}

void BenchView::leaveEvent(QEvent*) {
    m_inside = false;
    update();
}

}  // namespace gq::desk
