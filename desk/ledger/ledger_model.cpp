#include "desk/ledger/ledger_model.h"

#include <algorithm>
#include <map>
#include <set>

#include "core/carry/roll_lines.h"
#include "core/series/lookup.h"
#include "desk/document/mend_work.h"
#include "desk/ledger/why.h"
#include "desk/look/convert.h"

namespace gq::desk {

namespace {

bool passes(const LedgerModel::Filter& filter, const series::FindingEntry& f, bool unseen) {
    return (!filter.kind || *filter.kind == f.finding.kind) &&
           f.finding.measures.size >= filter.leastSize &&
           f.finding.confidence >= filter.leastConfidence && !(filter.onlySeen && unseen);
}

/// Of each line of the roll that crosses a frame: on how many frames it lies.
std::map<series::Id, int> rollFrames(const series::Series& s, const series::Frame& frame) {
    std::map<series::Id, int> out;
    if (!find::isFilm(s.plan.origin)) return out;
    for (const auto& line : carry::rollLines(s)) {
        std::set<std::string> frames;
        for (const auto& part : line) frames.insert(part.frame);
        for (const auto& part : line)
            if (part.frame == frame.id) out[part.finding] = int(frames.size());
    }
    return out;
}

}  // namespace

LedgerModel::LedgerModel(DeskDocument& document, QObject* parent)
    : QAbstractListModel(parent), m_document(document) {
    connect(&document, &DeskDocument::changed, this, &LedgerModel::rebuild);
    connect(&document, &DeskDocument::currentChanged, this, &LedgerModel::rebuild);
}

void LedgerModel::rebuild() {
    beginResetModel();
    m_rows.clear();
    m_counts = {};
    m_below = m_unseen = 0;
    m_frame = m_document.current();
    if (m_frame) {
        const float line = m_document.now()->plan.line;
        const series::Lookup entries(*m_frame);
        const auto rolls = rollFrames(*m_document.now(), *m_frame);
        for (const auto& f : m_frame->findings) {
            const auto state = entries.stateOf(f);
            const bool below = state == series::State::Open && !series::proposed(f, line);
            if (below)
                ++m_below;
            else
                ++m_counts[size_t(state)];
            const bool unseen = !series::inSight(*m_document.now(), *m_frame, f);
            m_unseen += unseen && !below && state == series::State::Open;
            if (Show(state) == m_show && (!below || m_unfolded) && passes(m_filter, f, unseen)) {
                const auto roll = rolls.find(f.id);
                m_rows.push_back({f.id, &f, entries.mendOf(f.id), below, unseen, false,
                                  roll == rolls.end() ? 0 : roll->second});
            }
        }
        for (const auto& m : m_frame->mends) {
            if (entries.finding(m.finding)) continue;
            ++m_counts[size_t(Show::Mended)];
            if (m_show == Show::Mended) m_rows.push_back({m.id, nullptr, &m, false, false, false});
        }
        const auto key = [this](const Row& r) {
            if (!r.finding) return -1e9f;
            switch (m_sort) {
                case Sort::Confidence:
                    return r.finding->finding.confidence;
                case Sort::Size:
                    return r.finding->finding.measures.size;
                case Sort::Contrast:
                    return r.finding->finding.measures.contrast;
                case Sort::Kind:
                    return -float(r.finding->finding.kind);
            }
            return 0.0f;
        };
        std::stable_sort(m_rows.begin(), m_rows.end(), [&](const Row& a, const Row& b) {
            return a.below != b.below ? b.below : key(a) > key(b);
        });
        if (m_show == Show::Open && m_below > 0) {
            const auto first =
                std::find_if(m_rows.begin(), m_rows.end(), [](const Row& r) { return r.below; });
            m_rows.insert(first, Row{0, nullptr, nullptr, true, false, true});
        }
    }
    endResetModel();
}

QVariant LedgerModel::data(const QModelIndex& index, int role) const {
    if (!index.isValid()) return {};
    const Row& r = row(index.row());
    if (role == Qt::DisplayRole || role == Qt::AccessibleTextRole)
        return titleOf(r) + QStringLiteral(", ") + detailOf(r);
    if (role == Qt::ToolTipRole && r.finding) return whyProposed(*r.finding, m_document.line());
    return {};
}

int LedgerModel::indexOf(series::Id id) const {
    for (size_t i = 0; i < m_rows.size(); ++i)
        if (!m_rows[i].fold && (m_rows[i].id == id || (m_rows[i].mend && m_rows[i].mend->id == id)))
            return int(i);
    return -1;
}

void LedgerModel::setShow(Show show) {
    m_show = show;
    rebuild();
}

void LedgerModel::setSort(Sort sort) {
    m_sort = sort;
    rebuild();
}

void LedgerModel::setFilter(const Filter& filter) {
    m_filter = filter;
    rebuild();
}

std::vector<series::Id> LedgerModel::listedOpen() const {
    std::vector<series::Id> out;
    for (const auto& r : m_rows)
        if (r.finding && !r.below && !r.mend && !r.finding->left) out.push_back(r.id);
    return out;
}

void LedgerModel::toggleFold() {
    m_unfolded = !m_unfolded;
    rebuild();
}

QString titleOf(const LedgerModel::Row& row) {
    if (!row.finding) return nameOf(row.mend->mend.method);
    QString kind = text(find::word(row.finding->finding.kind));
    kind[0] = kind[0].toUpper();
    return kind;
}

QString detailOf(const LedgerModel::Row& row) {
    if (!row.finding)
        return LedgerModel::tr("%1 px · by hand")
            .arg(std::max(row.mend->mend.region.box.width, row.mend->mend.region.box.height));
    const auto& f = row.finding->finding;
    const QString size = find::isLine(f.kind)
                             ? QStringLiteral("%1 × %2 px")
                                   .arg(int(f.measures.length))
                                   .arg(std::max(1, int(f.measures.width)))
                             : QStringLiteral("%1 px").arg(std::max(1, int(f.measures.size)));
    if (row.rollFrames > 0)
        return LedgerModel::tr("%1 · on %2 frames").arg(size).arg(row.rollFrames);
    return QStringLiteral("%1 · %2%3")
        .arg(size)
        .arg(double(f.measures.contrast), 0, 'f', 2)
        .arg(row.unseen                   ? LedgerModel::tr(" · below sight")
             : f.measures.softness > 1.5f ? LedgerModel::tr(" · soft")
                                          : QString());
}

}  // namespace gq::desk
