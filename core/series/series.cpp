#include "core/series/series.h"

#include <fmt/core.h>

#include <algorithm>

#include "core/files/content_hash.h"
#include "core/files/folder_scan.h"
#include "core/files/frame_info.h"
#include "core/series/lookup.h"

namespace gq::series {
namespace fs = std::filesystem;
namespace {

/// Less is what programs put for a resolution that is not known.
constexpr double kLeastPixelsPerInch = 100;

template <class List>
auto* byId(const List& list, Id id) {
    const auto it =
        std::find_if(list.begin(), list.end(), [&](const auto& e) { return e.id == id; });
    return it == list.end() ? nullptr : &*it;
}

}  // namespace

std::string word(Verdict verdict) {
    switch (verdict) {
        case Verdict::Mended:
            return "mended";
        case Verdict::NotVisible:
            return "not visible";
        case Verdict::NeedsLook:
            return "needs a look";
    }
    return {};
}

std::optional<Verdict> verdictFromWord(const std::string& text) {
    for (const Verdict v : {Verdict::Mended, Verdict::NotVisible, Verdict::NeedsLook})
        if (word(v) == text) return v;
    return std::nullopt;
}

std::string word(Purpose purpose) {
    switch (purpose) {
        case Purpose::Alone:
            return "alone";
        case Purpose::Bracket:
            return "bracket";
        case Purpose::Stack:
            return "focus stack";
        case Purpose::Panorama:
            return "panorama";
    }
    return {};
}

std::optional<Purpose> purposeFromWord(const std::string& text) {
    for (const Purpose p : {Purpose::Alone, Purpose::Bracket, Purpose::Stack, Purpose::Panorama})
        if (word(p) == text) return p;
    return std::nullopt;
}

const FindingEntry* Frame::finding(Id wanted) const {
    return byId(findings, wanted);
}
const MendEntry* Frame::mend(Id wanted) const {
    return byId(mends, wanted);
}

const MendEntry* Frame::mendOf(Id wanted) const {
    const auto it = std::find_if(mends.begin(), mends.end(),
                                 [&](const auto& m) { return m.finding == wanted; });
    return wanted == 0 || it == mends.end() ? nullptr : &*it;
}

State stateOf(const FindingEntry& finding, const MendEntry* its) {
    if (its) return State::Mended;
    return finding.left ? State::Left : State::Open;
}

State stateOf(const Frame& frame, const FindingEntry& finding) {
    return stateOf(finding, frame.mendOf(finding.id));
}

bool proposed(const FindingEntry& finding, float line) {
    return finding.finding.confidence >= line;
}

FramePtr Series::frame(const std::string& id) const {
    const int i = indexOf(id);
    return i < 0 ? nullptr : frames[size_t(i)];
}

int Series::indexOf(const std::string& id) const {
    for (size_t i = 0; i < frames.size(); ++i)
        if (frames[i]->id == id) return int(i);
    return -1;
}

Series Series::with(Frame changed) const {
    Series out = *this;
    const int i = indexOf(changed.id);
    if (i >= 0) out.frames[size_t(i)] = std::make_shared<const Frame>(std::move(changed));
    return out;
}

bool correctedAlike(const Frame& a, const Frame& b) {
    return !a.set.empty() && a.set == b.set &&
           (a.purpose == Purpose::Bracket || a.purpose == Purpose::Stack);
}

std::vector<FramePtr> setOf(const Series& series, const Frame& frame) {
    std::vector<FramePtr> out;
    for (const auto& f : series.frames)
        if (f->id == frame.id || (!frame.set.empty() && f->set == frame.set)) out.push_back(f);
    return out;
}

Series withSet(const Series& series, const std::vector<std::string>& frames, Purpose purpose) {
    Series out = series;
    const auto first = frames.empty() ? nullptr : series.frame(frames.front());
    for (const auto& id : frames) {
        const auto old = series.frame(id);
        if (!old) continue;
        Frame f = *old;
        f.purpose = purpose;
        f.set = purpose == Purpose::Alone ? std::string() : first->name();
        out = out.with(std::move(f));
    }
    return out;
}

bool inSight(const Series& series, const Frame& frame, const FindingEntry& finding) {
    return find::seen(finding.finding.measures, series.plan.origin == find::Origin::Sensor,
                      frame.geometry.stored, series.sight) >= 1;
}

Result<Frame> makeFrame(const fs::path& file, const std::string& id, std::vector<Error>* told) {
    const auto info = files::readInfo(file);
    if (!info) return tl::unexpected(info.error());
    const auto hash = files::contentHash(file);
    if (!hash) return tl::unexpected(hash.error());
    if (auto left = files::pagesLeft(*info); left && told) told->push_back(std::move(*left));
    Frame frame;
    frame.id = id;
    std::error_code code;
    frame.file = fs::absolute(file, code).lexically_normal();
    frame.companion = files::rawBeside(frame.file);
    frame.bytes = fs::file_size(file, code);
    frame.hash = *hash;
    frame.geometry.stored = info->size;
    frame.geometry.orientation = info->orientation;
    frame.camera = info->camera;
    frame.taken = info->taken;
    frame.aperture = info->aperture;
    // A camera's is of no original, and what programs put for one that is not known is of none.
    const bool scanned = info->aperture == 0 && info->exposureTime == 0;
    if (scanned && info->pixelsPerInch >= kLeastPixelsPerInch)
        frame.pixelsPerMm = info->pixelsPerInch / 25.4;
    return frame;
}

Series makeSeries(const std::vector<fs::path>& files, const std::string& name,
                  std::vector<Error>& faults) {
    Series out;
    out.name = name;
    for (const auto& file : files) {
        auto frame = makeFrame(file, fmt::format("f{:04}", out.frames.size() + 1), &faults);
        if (frame)
            out.frames.push_back(std::make_shared<const Frame>(std::move(*frame)));
        else
            faults.push_back(frame.error());
    }
    if (!out.frames.empty()) out.reference = out.frames.front()->id;
    return out;
}

Frame withFindings(const Frame& frame, std::vector<find::Finding> found, Id& nextId) {
    Frame out = frame;
    const Lookup entries(frame);
    std::erase_if(out.findings, [&](const auto& f) { return entries.stateOf(f) == State::Open; });
    const size_t kept = out.findings.size();
    for (auto& f : found) {
        const bool known =
            std::any_of(out.findings.begin(), out.findings.begin() + long(kept),
                        [&](const auto& k) { return meets(k.finding.region, f.region); }) ||
            std::any_of(out.mends.begin(), out.mends.end(),
                        [&](const auto& m) { return meets(m.mend.region, f.region); });
        if (!known) out.findings.push_back({nextId++, std::move(f), false, false});
    }
    out.searched = true;
    return out;
}

}  // namespace gq::series
