#include "core/render/export.h"

#include "core/carry/same_sensor.h"
#include "core/files/content_hash.h"
#include "core/render/compose.h"

namespace gq::render {
namespace fs = std::filesystem;

fs::path exportPath(const series::Frame& frame, const fs::path& folder, files::Format format) {
    return folder / (frame.name() + files::suffix(format));
}

Result<files::LoadedPicture> openOriginal(const series::Frame& frame, bool wholly,
                                          std::stop_token stop) {
    std::error_code code;
    const auto changed = [&] {
        return fail(Error::Kind::Changed, "this file changed since the series was made",
                    frame.file.string(), "Put the original back, or gather it as a new frame.");
    };
    if (frame.bytes > 0 && fs::exists(frame.file, code) &&
        fs::file_size(frame.file, code) != frame.bytes)
        return changed();
    if (wholly && !frame.hash.empty()) {
        const auto hash = files::contentHash(frame.file);
        if (!hash) return tl::unexpected(hash.error());
        if (*hash != frame.hash) return changed();
    }
    auto loaded = files::readPicture(frame.file, stop);
    if (loaded && loaded->picture.size() != frame.geometry.stored) return changed();
    return loaded;
}

Result<Image> originalPixels(const series::Frame& frame, std::stop_token stop) {
    auto loaded = openOriginal(frame, false, stop);
    if (!loaded) return tl::unexpected(loaded.error());
    return loaded->picture.pixels;
}

Status exportFrame(const series::Frame& frame, float line, const fs::path& target,
                   const files::WriteOptions& options, std::stop_token stop) {
    auto loaded = openOriginal(frame, true, stop);
    if (!loaded) return tl::unexpected(loaded.error());
    Image& pixels = loaded->picture.pixels;
    if (auto ok = mendInPlace(pixels, frame, line, stop); !ok) return ok;
    if (frame.inversion) {
        pixels = film::inverted(pixels, *frame.inversion);
        loaded->extra.release();  // the scan's infrared is not the positive's
    }
    if (stop.stop_requested()) return cancelled();
    return files::writePicture(target, *loaded, options, frame.file);
}

Status exportRaw(const series::Frame& frame, float line, const fs::path& target, bool replace,
                 std::stop_token stop) {
    if (frame.companion.empty()) return {};
    const auto raw = carry::rawOf(frame);
    if (!raw) return tl::unexpected(raw.error());
    return exportFrame(*raw, line, target.parent_path() / (frame.name() + "-raw.tif"),
                       {.format = files::Format::Tiff16, .replace = replace}, stop);
}

}  // namespace gq::render
