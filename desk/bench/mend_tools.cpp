#include "desk/bench/mend_tools.h"

#include <QPainterPath>
#include <opencv2/imgproc.hpp>

namespace gq::desk {
namespace {

Region filledOutline(const std::vector<PointF>& outline, const Size& size) {
    std::vector<Point> points;
    for (const PointF& p : outline) points.push_back(p);
    const Rect box = grown(cv::boundingRect(points), 1, size);
    if (points.size() < 3 || box.empty()) return {};
    Mask mask(box.size(), CV_8U, cv::Scalar(0));
    for (auto& p : points) p -= box.tl();
    cv::fillPoly(mask, std::vector<std::vector<Point>>{points}, cv::Scalar(255));
    return regionOf(mask, box.tl());
}

}  // namespace

bool mends(Tool tool) {
    return tool == Tool::Touch || tool == Tool::Path || tool == Tool::Outline ||
           tool == Tool::TouchIn || tool == Tool::Sift;
}

bool brushes(Tool tool) {
    return tool == Tool::Touch || tool == Tool::Path || tool == Tool::TouchIn;
}

void MendTools::pick(PointF at) {
    const auto& picture = m_pictures.composed();
    const Rect box = grown(Rect(Point(at), Size(1, 1)), 1, picture.size());
    if (box.empty()) return;
    const auto mean = cv::mean(asColour(picture.part(box)));
    for (size_t c = 0; c < 3; ++c) m_tone[c] = float(mean[int(c)] / 65535);
    m_picked = true;
}

void MendTools::press(Tool tool, const Hand& hand) {
    if (tool != m_tool) cancel();
    m_tool = tool;
    m_held = true;
    const bool ctrl = hand.keys & Qt::ControlModifier;
    if (tool == Tool::Path && ctrl) {
        m_mends.followLine(hand.at);
        cancel();
        return;
    }
    if (tool == Tool::Outline && ctrl) {
        m_mends.takeSimilar(hand.at, hand.softness);
        cancel();
        return;
    }
    if (tool == Tool::TouchIn && ((hand.keys & Qt::AltModifier) || !m_picked)) {
        pick(hand.at);
        if (hand.keys & Qt::AltModifier) return;
    }
    m_width = hand.size * hand.pressure;
    m_points.push_back(hand.at);
}

void MendTools::move(const Hand& hand) {
    if (!m_held || m_points.empty() || m_tool == Tool::Path) return;
    m_width = std::max(m_width, hand.size * hand.pressure);
    m_points.push_back(hand.at);
}

void MendTools::release(const Hand& hand, bool click) {
    m_held = false;
    if (m_points.empty()) return;
    mend::Mend m;
    m.softness = hand.softness;
    switch (m_tool) {
        case Tool::Touch:
        case Tool::TouchIn:
            m.region = click ? disc(m_points.front(), m_width / 2, frameSize())
                             : stroke(m_points, m_width, frameSize());
            m.method = m_tool == Tool::TouchIn ? mend::Method::TouchIn : mend::methodFor(m.region);
            m.tone = m_tone;
            m_points.clear();
            m_mends.add(std::move(m),
                        m_tool == Tool::Touch ? QObject::tr("touch") : QObject::tr("touch in"));
            break;
        case Tool::Outline:
        case Tool::Sift:
            if (click || m_polygon) {
                m_polygon = true;  // the corner stays; a double click ends it
            } else {
                closeOutline(m_tool, hand);
            }
            break;
        default:
            break;
    }
}

void MendTools::closeOutline(Tool tool, const Hand& hand) {
    const Region region = filledOutline(m_points, frameSize());
    cancel();
    if (region.empty()) return;
    if (tool == Tool::Outline && m_document.selectedMend() &&
        (hand.keys & (Qt::ShiftModifier | Qt::AltModifier))) {
        m_mends.reshape(region, hand.keys & Qt::AltModifier);
        return;
    }
    mend::Mend m;
    m.region = region;
    m.softness = hand.softness;
    if (tool == Tool::Sift) {
        m.method = mend::Method::Sift;
        m.sifting = m_sifting;
        m.softness = 0;
        m_mends.add(std::move(m), QObject::tr("sift"));
        return;
    }
    m.method = mend::methodFor(region);
    m_mends.add(std::move(m), QObject::tr("outline"));
}

void MendTools::finish(const Hand& hand) {
    const Tool tool = m_tool;
    if ((tool == Tool::Path && drawing()) || m_polygon) m_points.push_back(hand.at);
    // A double click has set its place twice.
    while (m_points.size() > 2 && cv::norm(m_points.back() - m_points[m_points.size() - 2]) < 2)
        m_points.pop_back();
    if (tool == Tool::Path && m_points.size() > 1) {
        const auto path = m_points;
        cancel();
        const auto* selected = m_document.selectedMend();
        if ((hand.keys & Qt::ShiftModifier) && selected &&
            selected->mend.method == mend::Method::Rebuild) {
            m_mends.addGuide(path);
            return;
        }
        mend::Mend m;
        m.region = stroke(path, hand.size, frameSize());
        m.method = mend::Method::Span;
        m.softness = std::min(hand.softness, 2.0f);
        m_mends.add(std::move(m), QObject::tr("path"));
    } else if ((tool == Tool::Outline || tool == Tool::Sift) && m_points.size() > 2) {
        closeOutline(tool, hand);
    } else {
        cancel();
    }
}

void MendTools::cancel() {
    m_points.clear();
    m_polygon = m_held = false;
}

void MendTools::paint(QPainter& p, const std::function<QPointF(PointF)>& toWidget, double zoom,
                      float size, QPointF pointer) const {
    if (m_points.empty()) return;
    QPainterPath path(toWidget(m_points.front()));
    for (const auto& s : m_points) path.lineTo(toWidget(s));
    const bool outline = m_tool == Tool::Outline || m_tool == Tool::Sift;
    if (m_tool == Tool::Path || m_polygon) path.lineTo(pointer);
    if (outline) path.closeSubpath();
    p.setBrush(Qt::NoBrush);
    if (!outline) {
        const double width = double(m_held && m_width > 0 ? m_width : size) * zoom;
        p.setPen(
            QPen(QColor(127, 208, 195, 110), width, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        p.drawPath(path);
    }
    for (const auto& [colour, width] :
         {std::pair<QColor, double>{QColor(0, 0, 0, 140), 3.0}, {QColor(127, 208, 195), 1.2}}) {
        p.setPen(QPen(colour, width));
        p.drawPath(path);
    }
    p.setBrush(QColor(127, 208, 195));
    p.setPen(Qt::NoPen);
    if (m_tool == Tool::Path || m_polygon)
        for (const auto& s : m_points) p.drawEllipse(toWidget(s), 3, 3);
}

}  // namespace gq::desk
