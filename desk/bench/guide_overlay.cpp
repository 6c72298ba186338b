#include "desk/bench/guide_overlay.h"

namespace gq::desk {
namespace {

QColor colourOf(Guide guide) {
    switch (guide) {
        case Guide::Heed:
            return QColor(30, 140, 120);
        case Guide::Hush:
            return QColor(90, 80, 170);
        case Guide::Shield:
            return QColor(217, 164, 65);
        case Guide::Bounds:
            return QColor(10, 12, 12);
    }
    return {};
}

/// Is a mask pixel on the guide's hatching? Heed rises, hush falls, a shield is crossed.
bool hatched(Guide guide, int x, int y) {
    switch (guide) {
        case Guide::Heed:
            return (x + y) % 7 < 2;
        case Guide::Hush:
            return (x - y + 7000) % 7 < 2;
        case Guide::Shield:
            return (x + y) % 8 < 2 || (x - y + 8000) % 8 < 2;
        case Guide::Bounds:
            return true;
    }
    return false;
}

QImage imageOf(Guide guide, const Mask& mask) {
    QImage out(mask.cols, mask.rows, QImage::Format_ARGB32);
    const QColor c = colourOf(guide);
    for (int y = 0; y < mask.rows; ++y) {
        const auto* m = mask.ptr<uchar>(y);
        auto* o = reinterpret_cast<QRgb*>(out.scanLine(y));
        for (int x = 0; x < mask.cols; ++x) {
            const int strength = guide == Guide::Bounds ? 255 - m[x] : m[x];
            const int alpha = guide == Guide::Bounds
                                  ? strength * 150 / 255
                                  : strength * (hatched(guide, x, y) ? 235 : 110) / 255;
            o[x] = qRgba(c.red(), c.green(), c.blue(), alpha);
        }
    }
    return out;
}

}  // namespace

void GuideOverlay::paint(QPainter& p, const QTransform& toWidget, const GuideWork& guides,
                         std::optional<Guide> held) {
    for (const Guide guide : {Guide::Bounds, Guide::Heed, Guide::Hush, Guide::Shield}) {
        const Mask mask = guides.mask(guide);
        Kept& kept = m_kept[size_t(guide)];
        if (mask.empty()) {
            kept = {};
            continue;
        }
        if (kept.mask.data != mask.data) kept = {mask, imageOf(guide, mask)};
        p.save();
        p.setTransform(QTransform::fromScale(series::kGuideScale, series::kGuideScale) * toWidget,
                       true);
        p.setOpacity(!held || *held == guide ? 1.0 : 0.5);
        p.drawImage(0, 0, kept.image);
        p.restore();
    }
}

void GuideOverlay::paintAlone(QPainter& p, const QTransform& toWidget, const Mask& mask,
                              const Size& frame) {
    p.save();
    p.setTransform(toWidget, true);
    p.fillRect(QRect(0, 0, frame.width, frame.height), Qt::black);
    if (!mask.empty()) {
        const QImage grey(mask.data, mask.cols, mask.rows, int(mask.step),
                          QImage::Format_Grayscale8);
        p.setTransform(QTransform::fromScale(series::kGuideScale, series::kGuideScale), true);
        p.drawImage(0, 0, grey);
    }
    p.restore();
}

}  // namespace gq::desk
