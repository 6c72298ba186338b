#include "core/render/export.h"

#include "core/carry/chart.h"
#include "core/carry/same_sensor.h"
#include "core/files/content_hash.h"
#include "core/render/compose.h"

namespace gq::render {
namespace fs = std::filesystem;

fs::path exportPath(const series::Frame& frame, const fs::path& folder, files::Format format) {
    return folder / (frame.name() + files::suffix(format));
}

namespace {

tl::unexpected<Error> changed(const series::Frame& frame) {
    return fail(Error::Kind::Changed, "this file changed since the series was made",
                frame.file.string(), "Put the original back, or gather it as a new frame.");
}

bool hasOtherSize(const series::Frame& frame) {
    std::error_code code;
    return frame.bytes > 0 && fs::exists(frame.file, code) &&
           fs::file_size(frame.file, code) != frame.bytes;
}

}  // namespace

Result<files::LoadedPicture> openOriginal(const series::Frame& frame, bool wholly,
                                          std::stop_token stop) {
    if (hasOtherSize(frame)) return changed(frame);
    if (wholly && !frame.hash.empty()) {
        const auto hash = files::contentHash(frame.file);
        if (!hash) return tl::unexpected(hash.error());
        if (*hash != frame.hash) return changed(frame);
    }
    auto loaded = files::readPicture(frame.file, stop);
    if (loaded && loaded->picture.size() != frame.geometry.stored) return changed(frame);
    return loaded;
}

Result<Image> originalPixels(const series::Frame& frame, std::stop_token stop) {
    auto loaded = openOriginal(frame, false, stop);
    if (!loaded) return tl::unexpected(loaded.error());
    return loaded->picture.pixels;
}

carry::PixelSource chartPixels(const series::Frame& first) {
    if (!carry::Consensus::halfIsEnough(first)) return originalPixels;
    return [](const series::Frame& frame, std::stop_token stop) -> Result<Image> {
        if (hasOtherSize(frame)) return changed(frame);
        auto half = files::readHalf(frame.file, stop);
        if (half && half->cols != frame.geometry.stored.width / 2 &&
            half->cols != (frame.geometry.stored.width + 1) / 2)
            return changed(frame);
        return half;
    };
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
