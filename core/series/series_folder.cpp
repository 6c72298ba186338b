#include "core/series/series_folder.h"

#include <fcntl.h>
#include <sys/file.h>
#include <unistd.h>

#include <nlohmann/json.hpp>

#include "core/files/safe_write.h"
#include "core/series/frame_json.h"
#include "core/series/frame_masks.h"
#include "core/series/json_check.h"
#include "core/series/series_json.h"
#include "schemas.h"

namespace gq::series {
namespace fs = std::filesystem;
using nlohmann::json;
namespace {

Status makeFolder(const fs::path& folder) {
    std::error_code code;
    fs::create_directories(folder / "frames", code);
    if (code)
        return fail(Error::Kind::NoPermission,
                    "the series folder cannot be made (" + code.message() + ")", folder.string(),
                    "Choose another folder or change its permissions.");
    return {};
}

}  // namespace

Result<std::unique_ptr<FolderLock>> FolderLock::take(const fs::path& folder) {
    if (auto ok = makeFolder(folder); !ok) return tl::unexpected(ok.error());
    const fs::path file = folder / "lock";
    const int fd = ::open(file.c_str(), O_CREAT | O_RDWR | O_CLOEXEC, 0644);
    if (fd < 0)
        return fail(Error::Kind::NoPermission, "the series folder cannot be written to",
                    folder.string(), "Choose another folder or change its permissions.");
    if (::flock(fd, LOCK_EX | LOCK_NB) != 0) {
        ::close(fd);
        return fail(Error::Kind::Busy, "this series is open in another window", folder.string(),
                    "Close it there first, then open it here.");
    }
    const auto all = [](const std::string&) { return true; };
    std::error_code code;
    files::removeLeftovers(folder, all);
    for (const auto& inner : fs::directory_iterator(folder, code))
        if (inner.is_directory(code)) files::removeLeftovers(inner.path(), all);
    return std::unique_ptr<FolderLock>(new FolderLock(fd));
}

FolderLock::~FolderLock() {
    ::close(m_descriptor);
}

bool isSeriesFolder(const fs::path& folder) {
    std::error_code code;
    return fs::is_regular_file(folder / "series.json", code);
}

fs::path seriesFolderFor(const fs::path& pictures) {
    return pictures / "gentle-quill";
}

Result<Series> loadSeries(const fs::path& given) {
    std::error_code code;
    const fs::path folder = fs::absolute(given, code).lexically_normal();
    const auto head = readChecked(folder / "series.json", kSeriesSchema);
    if (!head) return tl::unexpected(head.error());
    if (auto ok = checkVersion(*head, kFormatVersion, folder / "series.json"); !ok)
        return tl::unexpected(ok.error());
    Series s = seriesOfHead(*head);
    for (const auto& id : head->at("frames")) {
        const fs::path file = folder / "frames" / (id.get<std::string>() + ".json");
        const auto text = readChecked(file, kFrameSchema);
        if (!text) return tl::unexpected(text.error());
        auto frame = frameFromJson(*text, folder);
        if (!frame) {
            frame.error().file = file.string();
            return tl::unexpected(frame.error());
        }
        // A kill between two files may leave the counter behind the entries.
        for (const auto& f : frame->findings) s.nextId = std::max(s.nextId, f.id + 1);
        for (const auto& m : frame->mends) s.nextId = std::max(s.nextId, m.id + 1);
        if (auto ok = loadMasks(*frame, folder / "masks"); !ok) return tl::unexpected(ok.error());
        s.frames.push_back(std::make_shared<const Frame>(std::move(*frame)));
    }
    if (!s.frame(s.reference) && !s.frames.empty()) s.reference = s.frames.front()->id;
    return s;
}

Status saveSeries(const fs::path& given, const Series& series, const Series* saved) {
    std::error_code code;
    const fs::path folder = fs::absolute(given, code).lexically_normal();
    if (auto ok = makeFolder(folder); !ok) return ok;
    for (const auto& frame : series.frames) {
        if (saved && saved->frame(frame->id) == frame) continue;
        const auto before = saved ? saved->frame(frame->id) : nullptr;
        if (auto ok = saveMasks(*frame, before.get(), folder / "masks"); !ok) return ok;
        const auto text = toJson(*frame, folder).dump(1);
        if (auto ok = files::writeTextSafely(folder / "frames" / (frame->id + ".json"), text); !ok)
            return ok;
    }
    return files::writeTextSafely(folder / "series.json", headOf(series).dump(1));
}

}  // namespace gq::series
