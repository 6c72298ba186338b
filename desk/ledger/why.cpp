#include "desk/ledger/why.h"

#include <QCoreApplication>
#include <QStringList>
#include <cmath>

#include "desk/look/convert.h"

namespace gq::desk {
namespace {

QString tr(const char* words) {
    return QCoreApplication::translate("Why", words);
}

QString number(float v, int digits = 1) {
    return QString::number(double(v), 'f', digits);
}

/// What speaks against it most.
QString doubt(const find::Measures& m) {
    if (m.peak < 6) return tr("it hardly stands out from the noise");
    if (m.ring > 0.6f) return tr("its surroundings vary as much as it does");
    if (m.colour > 0.5f) return tr("it changes the colour, which dust does not");
    if (m.isolation < 4) return tr("much around it looks like it");
    return tr("its shape and edge are like the picture's own detail");
}

QString extent(const find::Finding& f) {
    const auto& m = f.measures;
    if (find::isLine(f.kind))
        return tr("%1 px long, %2 px wide").arg(number(m.length, 0), number(m.width));
    if (m.softness <= 0) return tr("%1 px across").arg(number(m.size, 0));
    return tr("%1 px across, edge %2 px wide").arg(number(m.size, 0), number(m.softness));
}

/// What a stain does to the paper.
QString tint(const find::Measures& m) {
    constexpr float kRim = 1.15f;  // of the middle's depth; less is no rim
    QString depth =
        tr("holds back %1 % of the blue").arg(number(100 - 100 * std::exp(-m.contrast), 0));
    if (m.rim <= 0) return depth;
    return depth + (m.rim < kRim ? tr(", without a rim")
                                 : tr(", its rim %1 times as deep").arg(number(m.rim)));
}

}  // namespace

QString whyProposed(const series::FindingEntry& entry, float line) {
    const auto& f = entry.finding;
    const auto& m = f.measures;
    QStringList out;
    out << tr("%1, confidence %2").arg(text(find::word(f.kind)), number(f.confidence, 2));
    out << tr("stands %1 times above the noise").arg(number(m.peak));
    out << extent(f);
    if (m.ring > 0) out << tr("surroundings vary by %1 of its contrast").arg(number(m.ring, 2));
    if (f.kind == find::Kind::Stain) out << tint(m);
    if (f.kind == find::Kind::Loss) out << tr("there is no picture in it");
    if (entry.charted)
        out << (f.kind == find::Kind::Scratch ? tr("it runs along the whole roll")
                                              : tr("other frames show it at the same place"));
    if (!series::proposed(entry, line)) out << tr("below the line: %1").arg(doubt(m));
    return out.join('\n');
}

}  // namespace gq::desk
