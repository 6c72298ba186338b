#include "core/carry/glass_dust.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/carry/visibility.h"

namespace gq::carry {
namespace {

constexpr float kFaintest = 0.15f;  ///< confidence under which a finding tells nothing
constexpr float kDoubt = 0.15f;     ///< that is left when another scan shows the same
constexpr float kAdded = 0.6f;      ///< of a grain that only other scans and a faint change tell of
constexpr double kAlike = 0.35;     ///< overlap over union, both grown by 1 px
constexpr int kCell = 64;           ///< px; places are looked up by cells of this side

bool ofPaper(find::Kind kind) {
    return kind == find::Kind::Stain || kind == find::Kind::Loss;
}

bool mayBeGrain(const find::Finding& f) {
    return !ofPaper(f.kind) && f.confidence >= kFaintest;
}

/// Overlap over union of two regions grown by 1 px, as scans may differ by half a pixel.
double likeness(const Region& a, const Region& b, const Size& size) {
    if ((grown(a.box, 1, size) & grown(b.box, 1, size)).empty()) return 0;
    const Region p = grown(a, 1, size), q = grown(b, 1, size);
    const Rect both = p.box & q.box;
    if (both.empty()) return 0;
    const int shared = cv::countNonZero(p.mask(both - p.box.tl()) & q.mask(both - q.box.tl()));
    return double(shared) / double(p.area() + q.area() - shared);
}

struct Part {
    std::string frame;
    series::Id finding = 0;
};

/// A place of the glass at which frames show something.
struct Grain {
    find::Finding surest;
    std::vector<Part> parts;  ///< of different frames
};

/// Places, to be looked up by where they lie.
class Glass {
  public:
    explicit Glass(Size size) : m_size(size) {}

    void add(const std::string& frame, const series::FindingEntry& e) {
        for (const size_t i : near(e.finding.region)) {
            auto& g = m_grains[i];
            if (g.parts.back().frame == frame || g.surest.polarity != e.finding.polarity ||
                likeness(g.surest.region, e.finding.region, m_size) < kAlike)
                continue;
            g.parts.push_back({frame, e.id});
            if (e.finding.confidence > g.surest.confidence) g.surest = e.finding;
            return;
        }
        m_cells[cellOf(e.finding.region)].push_back(m_grains.size());
        m_grains.push_back({e.finding, {{frame, e.id}}});
    }

    [[nodiscard]] std::vector<Grain> shared() const {
        std::vector<Grain> out;
        for (const auto& g : m_grains)
            if (g.parts.size() > 1) out.push_back(g);
        return out;
    }

  private:
    using Cell = std::pair<int, int>;

    static Cell cellOf(const Region& r) {
        const PointF c = r.centre();
        return {int(c.y) / kCell, int(c.x) / kCell};
    }
    [[nodiscard]] std::vector<size_t> near(const Region& r) const {
        std::vector<size_t> out;
        const auto [y, x] = cellOf(r);
        for (int dy = -1; dy <= 1; ++dy)
            for (int dx = -1; dx <= 1; ++dx)
                if (const auto it = m_cells.find({y + dy, x + dx}); it != m_cells.end())
                    out.insert(out.end(), it->second.begin(), it->second.end());
        return out;
    }

    Size m_size;
    std::vector<Grain> m_grains;
    std::map<Cell, std::vector<size_t>> m_cells;
};

/// What two frames and more show; with `onlyTied` of what was tied before.
std::vector<Grain> grainsOf(const series::Series& series, const std::vector<std::string>& frames,
                            bool onlyTied) {
    if (frames.empty()) return {};
    Glass glass(series.frame(frames.front())->geometry.stored);
    for (const auto& id : frames)
        for (const auto& e : series.frame(id)->findings)
            if (onlyTied ? e.charted : mayBeGrain(e.finding)) glass.add(id, e);
    return glass.shared();
}

bool metBy(const series::Frame& frame, const Region& place) {
    return std::any_of(frame.findings.begin(), frame.findings.end(),
                       [&](const auto& e) { return meets(e.finding.region, place); }) ||
           std::any_of(frame.mends.begin(), frame.mends.end(),
                       [&](const auto& m) { return meets(m.mend.region, place); });
}

void tie(series::Frame& frame, series::Id finding) {
    for (auto& e : frame.findings) {
        if (e.id != finding) continue;
        // What is mended or left was judged already.
        if (!e.charted && series::stateOf(frame, e) == series::State::Open)
            e.finding.confidence = 1 - (1 - e.finding.confidence) * kDoubt;
        e.charted = true;
    }
}

}  // namespace

series::Series withGlassDust(const series::Series& series, const std::vector<std::string>& frames,
                             const PixelSource& pixels, std::stop_token stop) {
    series::Series out = series;
    const auto grains = grainsOf(series, frames, false);
    if (grains.empty()) return out;
    for (const auto& id : frames) {
        if (stop.stop_requested()) return out;
        series::Frame frame = *out.frame(id);
        std::vector<const Grain*> missing;
        for (const auto& g : grains) {
            const auto own = std::find_if(g.parts.begin(), g.parts.end(),
                                          [&](const Part& p) { return p.frame == id; });
            if (own != g.parts.end())
                tie(frame, own->finding);
            else if (!metBy(frame, g.surest.region))
                missing.push_back(&g);
        }
        if (pixels && !missing.empty())
            if (const auto image = pixels(frame, stop))
                for (const Grain* g : missing) {
                    const auto v = visibilityOf(*image, g->surest.region);
                    if (!shows(v, g->surest.polarity)) continue;
                    find::Finding f = g->surest;
                    f.confidence = kAdded;
                    f.measures.contrast = std::abs(v.depth);
                    f.measures.noise = v.busy;
                    f.measures.peak = std::abs(v.significance);
                    frame.findings.push_back({out.nextId++, std::move(f), false, true});
                }
        out = out.with(std::move(frame));
    }
    return out;
}

series::Frame glassOf(const series::Frame& frame, const series::Series& series,
                      series::Id& nextId) {
    series::Frame out = frame;
    std::erase_if(out.mends, [&](const auto& m) {
        const auto* f = frame.finding(m.finding);
        return f && ofPaper(f->finding.kind);
    });
    std::vector<std::string> others;
    for (const auto& f : series.frames)
        if (f->id != frame.id && f->geometry.stored == frame.geometry.stored)
            others.push_back(f->id);
    for (const auto& g : grainsOf(series, others, true)) {
        if (metBy(frame, g.surest.region)) continue;
        mend::Mend m;
        m.region = grown(g.surest.region, 1, frame.geometry.stored);
        m.method = mend::methodFor(g.surest.region);
        out.findings.push_back({nextId++, g.surest, false, true});
        out.mends.push_back({nextId, std::move(m), out.findings.back().id, false, {}});
        ++nextId;
    }
    return out;
}

}  // namespace gq::carry
