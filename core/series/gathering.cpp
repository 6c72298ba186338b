#include "core/series/gathering.h"

#include <algorithm>
#include <map>

#include "core/files/content_hash.h"
#include "core/files/folder_scan.h"

namespace gq::series {
namespace fs = std::filesystem;

FileState fileState(const Frame& frame) {
    std::error_code code;
    const auto bytes = fs::file_size(frame.file, code);
    if (code) return FileState::Missing;
    return frame.bytes > 0 && bytes != frame.bytes ? FileState::Changed : FileState::There;
}

Series without(const Series& series, const std::set<std::string>& frames) {
    Series out = series;
    const auto goes = [&](const FramePtr& f) { return frames.count(f->id) > 0; };
    const auto reference = series.frames.begin() + std::max(0, series.indexOf(series.reference));
    auto next = std::find_if_not(reference, series.frames.end(), goes);
    std::erase_if(out.frames, goes);
    out.reference = next != series.frames.end() ? (*next)->id : out.frames.back()->id;
    return out;
}

Series ordered(const Series& series, Order order) {
    Series out = series;
    const auto key = [&](const FramePtr& f) {
        const bool told = order == Order::Name || !f->taken.empty();
        return std::pair(!told, order == Order::Name ? f->name() : f->taken);
    };
    std::ranges::stable_sort(out.frames, {}, key);
    return out;
}

Series located(const Series& series, const fs::path& folder, const Progress& progress,
               std::stop_token stop) {
    std::multimap<std::uintmax_t, FramePtr> missing;
    for (const auto& f : series.frames)
        if (fileState(*f) == FileState::Missing) missing.emplace(f->bytes, f);
    // Those of the size of one that is missing: only they are read.
    std::vector<fs::path> likely;
    std::error_code code;
    for (fs::recursive_directory_iterator
             it(folder, fs::directory_options::skip_permission_denied, code),
         end;
         !code && it != end && !stop.stop_requested(); it.increment(code)) {
        std::error_code unknown;
        if (it->is_regular_file(unknown) && files::looksLikePicture(it->path()) &&
            missing.count(it->file_size(unknown)))
            likely.push_back(fs::absolute(it->path(), unknown).lexically_normal());
    }
    std::ranges::sort(likely);
    Series out = series;
    for (size_t i = 0; i < likely.size() && !missing.empty(); ++i) {
        if (stop.stop_requested()) return series;
        if (const auto hash = files::contentHash(likely[i])) {
            std::erase_if(missing, [&](const auto& entry) {
                if (entry.second->hash != *hash) return false;
                Frame f = *entry.second;
                f.file = likely[i];
                f.companion = files::rawBeside(f.file);
                out = out.with(std::move(f));
                return true;
            });
        }
        if (progress) progress(double(i + 1) / double(likely.size()));
    }
    return out;
}

Frame withFileOf(Frame frame, const Frame& other) {
    frame.file = other.file;
    frame.companion = other.companion;
    frame.bytes = other.bytes;
    frame.hash = other.hash;
    frame.geometry.orientation = other.geometry.orientation;
    return frame;
}

Result<Frame> withFileAsItIs(const Frame& frame) {
    const auto now = makeFrame(frame.file, frame.id);
    if (!now) return tl::unexpected(now.error());
    if (now->geometry.stored != frame.geometry.stored)
        return fail(Error::Kind::Changed, "this picture has another size now", frame.file.string(),
                    "Put the original back, or take the frame out of the series and add it anew.");
    return withFileOf(frame, *now);
}

}  // namespace gq::series
