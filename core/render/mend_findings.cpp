#include "core/render/mend_findings.h"

#include <atomic>

#include "core/find/hazes.h"
#include "core/mend/fit.h"
#include "core/mend/patch.h"
#include "core/render/seamless.h"
#include "core/series/avoided.h"
#include "core/series/lookup.h"

namespace gq::render {

namespace {

constexpr float kSmallStain = 24;  ///< px; a fleck that is healed like any other

constexpr int kLossEdge = 4;  ///< px; a loss is outlined at half size, and its edge is soft

/// A haze's soft edge reaches this much of its size beyond its outline.
constexpr float kHazeEdge = 0.2f;

}  // namespace

mend::Mend mendFor(const Image& pixels, const find::Finding& finding) {
    if (find::isHaze(finding, pixels.size())) {
        mend::Mend out;
        out.method = mend::Method::Unshade;
        out.softness = 0;
        out.region = grown(finding.region, int(kHazeEdge * finding.measures.size), pixels.size());
        return out;
    }
    const bool soft = finding.kind == find::Kind::Shadow || finding.kind == find::Kind::Stain;
    mend::Mend out =
        mend::fitted(pixels, finding.region, soft ? mend::Edge::Soft : mend::Edge::Sharp);
    if (finding.kind == find::Kind::Stain && finding.measures.size > kSmallStain) {
        out.method = mend::Method::EvenOut;
        out.region = finding.region;
    }
    if (finding.kind == find::Kind::Loss)
        out.region = grown(finding.region, kLossEdge, pixels.size());
    return out;
}

Result<series::Frame> withMends(const Image& pixels, const series::Frame& frame,
                                const std::vector<series::Id>& findings, float line,
                                series::Id& nextId, mend::PatchStore* made,
                                const Progress& progress, std::stop_token stop) {
    const series::Lookup entries(frame);
    std::vector<const series::FindingEntry*> todo;
    for (const auto id : findings)
        if (const auto* f = entries.finding(id); f && !entries.mendOf(id)) todo.push_back(f);
    std::vector<mend::Mend> mends(todo.size());
    if (!forEach(
            int(todo.size()),
            [&](int i) { mends[size_t(i)] = mendFor(pixels, todo[size_t(i)]->finding); }, stop))
        return cancelled();
    series::Frame out = frame;
    const size_t before = out.mends.size();
    series::Id next = nextId;
    // Stains are evened out before the specks on them are mended.
    for (const bool stains : {true, false})
        for (size_t i = 0; i < todo.size(); ++i)
            if ((mends[i].method == mend::Method::EvenOut) == stains)
                out.mends.push_back({next++, std::move(mends[i]), todo[i]->id, false});
    const series::Avoided avoided(out, line);
    std::atomic<size_t> done{0};
    const auto settle = [&](int i) {
        auto& m = out.mends[before + size_t(i)];
        const auto [laid, avoid] = avoided.laid(m.id, m.mend);
        if (!laid.region.empty()) {
            const auto best = seamless(pixels, avoid, laid, made, stop);
            m.mend.softness = best.softness;
            m.mend.candidate = best.candidate;
        }
        if (progress) progress(double(++done) / double(todo.size()));
    };
    if (!forEach(int(todo.size()), settle, stop)) return cancelled();
    nextId = next;
    return out;
}

std::vector<series::Id> openAbove(const series::Frame& frame, float line) {
    const series::Lookup entries(frame);
    std::vector<series::Id> out;
    for (const auto& f : frame.findings)
        if (series::proposed(f, line) && entries.stateOf(f) == series::State::Open)
            out.push_back(f.id);
    return out;
}

}  // namespace gq::render
