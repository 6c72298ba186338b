#include "core/series/frame_masks.h"

#include <array>
#include <utility>

#include "core/files/picture_reader.h"
#include "core/files/picture_writer.h"

namespace gq::series {
namespace fs = std::filesystem;
namespace {

constexpr std::array<std::pair<const char*, Mask find::Guides::*>, 4> kGuides{
    {{"heed", &find::Guides::heed},
     {"hush", &find::Guides::hush},
     {"shield", &find::Guides::shield},
     {"bounds", &find::Guides::bounds}}};

fs::path fileOf(const Frame& frame, const char* name, const fs::path& folder) {
    return folder / (frame.id + "." + name + ".png");
}

Status saveMask(const Mask& mask, const fs::path& file) {
    std::error_code code;
    if (mask.empty()) {
        fs::remove(file, code);
        return {};
    }
    fs::create_directories(file.parent_path(), code);
    return files::writeImage8(file, mask);
}

Result<Mask> loadMask(const fs::path& file) {
    std::error_code code;
    if (!fs::exists(file, code)) return Mask{};
    const auto loaded = files::readPicture(file);
    if (!loaded) return tl::unexpected(loaded.error());
    if (loaded->picture.pixels.channels() != 1)
        return fail(Error::Kind::Unreadable, "this is no mask of one channel", file.string(),
                    "Remove the file to go on without it.");
    return Mask(narrow(loaded->picture.pixels));
}

}  // namespace

Status saveMasks(const Frame& frame, const Frame* before, const fs::path& folder) {
    const find::Guides none;
    const find::Guides& now = frame.guides ? *frame.guides : none;
    const find::Guides& old = before && before->guides ? *before->guides : none;
    for (const auto& [name, member] : kGuides) {
        if ((now.*member).data == (old.*member).data) continue;
        if (auto ok = saveMask(now.*member, fileOf(frame, name, folder)); !ok) return ok;
    }
    if (before && frame.seen.data == before->seen.data) return {};
    if (!before && frame.seen.empty()) return {};
    return saveMask(frame.seen, fileOf(frame, "seen", folder));
}

Status loadMasks(Frame& frame, const fs::path& folder) {
    find::Guides guides;
    bool any = false;
    for (const auto& [name, member] : kGuides) {
        auto mask = loadMask(fileOf(frame, name, folder));
        if (!mask) return tl::unexpected(mask.error());
        any = any || !mask->empty();
        guides.*member = *mask;
    }
    if (any) frame.guides = std::make_shared<const find::Guides>(std::move(guides));
    auto seen = loadMask(fileOf(frame, "seen", folder));
    if (!seen) return tl::unexpected(seen.error());
    frame.seen = *seen;
    return {};
}

}  // namespace gq::series
