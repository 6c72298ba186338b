#include "core/render/export.h"

#include <fmt/core.h>

#include <algorithm>

#include "core/carry/chart.h"
#include "core/carry/raw_pair.h"
#include "core/files/content_hash.h"
#include "core/files/folder_scan.h"
#include "core/files/raw_mosaic.h"
#include "core/mend/patch.h"
#include "core/pixels/words.h"
#include "core/render/compose.h"
#include "core/series/avoided.h"
#include "core/series/gathering.h"

namespace gq::render {
namespace fs = std::filesystem;

namespace {

tl::unexpected<Error> changed(const series::Frame& frame) {
    return fail(Error::Kind::Changed, "this file changed since the series was made",
                frame.file.string(), "Put the original back, or take it as it is now in Gather.");
}

/// By name and size alone.
Status isThere(const series::Frame& frame) {
    const auto state = series::fileState(frame);
    if (state == series::FileState::Missing)
        return fail(Error::Kind::NotFound, "this picture is not where it was", frame.file.string(),
                    "Connect the disk it is on, or locate it in Gather.");
    return state == series::FileState::Changed ? Status(changed(frame)) : Status();
}

}  // namespace

Result<files::LoadedPicture> openOriginal(const series::Frame& frame, bool wholly,
                                          std::stop_token stop) {
    if (auto ok = isThere(frame); !ok) return tl::unexpected(ok.error());
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
        if (auto ok = isThere(frame); !ok) return tl::unexpected(ok.error());
        auto half = files::readHalf(frame.file, stop);
        if (half && half->cols != frame.geometry.stored.width / 2 &&
            half->cols != (frame.geometry.stored.width + 1) / 2)
            return changed(frame);
        return half;
    };
}

namespace {

/// Lays the mends on what was opened and writes it.
Status writeMended(const series::Frame& frame, files::LoadedPicture loaded, float line,
                   const fs::path& target, const files::WriteOptions& options,
                   std::stop_token stop) {
    Image& pixels = loaded.picture.pixels;
    if (auto ok = mendInPlace(pixels, frame, line, stop); !ok) return ok;
    if (frame.inversion) {
        pixels = film::inverted(pixels, *frame.inversion);
        loaded.extra.release();  // the scan's infrared is not the positive's
    }
    if (stop.stop_requested()) return cancelled();
    return files::writePicture(target, loaded, options, frame.file);
}

/// Where the raw file of a pair goes, beside its picture.
fs::path rawTarget(const series::Frame& frame, const fs::path& target) {
    return target.parent_path() / (frame.name() + "-raw.tif");
}

/// Takes out of a developed picture that a DNG holds what `frame`, the DNG, has divided out of its
/// samples, as deep as that picture shows it. False, and the picture as it was, where it has
/// another shape.
bool mendPreview(Image& preview, const series::Frame& frame, float line, std::stop_token stop) {
    series::Frame own;
    own.geometry = {preview.size(), frame.geometry.orientation};
    const auto laid = carry::laidOnOther(frame, std::move(own));
    if (!laid || laid->frame.mends.empty()) return false;
    Image mended = preview.clone();
    // In a small one a shadow is a few pixels, too few to be fitted: there it is healed.
    const bool fits = 2 * preview.cols >= frame.geometry.stored.width;
    if (!mendInPlace(mended,
                     fits ? carry::unshaded(laid->frame, mended, laid->shadows) : laid->frame, line,
                     stop))
        return false;
    preview = mended;
    return true;
}

struct OpenedRaw {
    series::Frame frame;
    files::LoadedPicture loaded;
};

/// A raw frame, or that of a pair with the pair's mends; what is known of their shadows is divided
/// out.
Result<OpenedRaw> openRaw(const series::Frame& frame, const carry::Shadows& shadows,
                          std::stop_token stop) {
    carry::RawPair raw{frame, {}};
    if (!files::looksRaw(frame.file)) {
        auto pair = carry::rawPairOf(frame);
        if (!pair) return tl::unexpected(pair.error());
        raw = std::move(*pair);
    }
    auto loaded = openOriginal(raw.frame, true, stop);
    if (!loaded) return tl::unexpected(loaded.error());
    raw.shadows.insert(shadows.begin(), shadows.end());
    return OpenedRaw{carry::unshaded(raw.frame, loaded->picture.pixels, raw.shadows),
                     std::move(*loaded)};
}

}  // namespace

Status exportFrame(const series::Frame& frame, float line, const fs::path& target,
                   const files::WriteOptions& options, std::stop_token stop) {
    auto loaded = openOriginal(frame, true, stop);
    if (!loaded) return tl::unexpected(loaded.error());
    return writeMended(frame, std::move(*loaded), line, target, options, stop);
}

Status exportRaw(const series::Frame& frame, float line, const fs::path& target, bool replace,
                 std::stop_token stop) {
    auto raw = openRaw(frame, {}, stop);
    if (!raw) return tl::unexpected(raw.error());
    return writeMended(raw->frame, std::move(raw->loaded), line, rawTarget(frame, target),
                       {.format = files::Format::Tiff16, .replace = replace}, stop);
}

Result<std::string> exportDng(const series::Frame& frame, const carry::Shadows& shadows, float line,
                              const fs::path& target, bool replace, std::stop_token stop) {
    const auto opened = openRaw(frame, shadows, stop);
    if (!opened) return tl::unexpected(opened.error());
    return exportOpenedDng(opened->frame, opened->loaded.picture.pixels, line, target, replace,
                           stop);
}

Result<std::string> exportOpenedDng(const series::Frame& raw, const Image& pixels, float line,
                                    const fs::path& target, bool replace, std::stop_token stop) {
    std::vector<files::MosaicShade> shades;
    series::Frame divided = raw;
    divided.mends.clear();
    size_t left = 0;
    const series::Avoided avoided(raw, line);
    for (const auto& m : raw.mends) {
        if (m.muted) continue;
        const auto [laid, avoid] = avoided.laid(m.id, m.mend);
        if (laid.region.empty()) continue;
        const auto shade = mend::shadeOf({pixels, avoid}, laid, stop);
        if (!shade) return tl::unexpected(shade.error());
        if (!*shade) {
            ++left;
            continue;
        }
        shades.push_back({(*shade)->box, (*shade)->logShare});
        divided.mends.push_back(m);
        divided.mends.back().mend.shade = *shade;
    }
    if (stop.stop_requested()) return cancelled();
    const auto onPreview = [&](Image& preview) {
        return mendPreview(preview, divided, line, stop);
    };
    if (auto ok = files::writeUnshadedDng(raw.file, target, shades, replace, onPreview); !ok)
        return tl::unexpected(ok.error());
    return fmt::format(
        "{} divided out of the raw samples{}", counted(long(shades.size()), "shadow"),
        left ? fmt::format(", {} left for the developed picture", counted(long(left), "mend"))
             : "");
}

std::vector<fs::path> deliveryPaths(const series::Frame& frame, const fs::path& folder,
                                    const DeliveryPlan& plan) {
    const auto suffix = plan.dng ? ".dng" : files::suffix(plan.write.format);
    std::vector<fs::path> out{folder / (frame.name() + suffix)};
    if (plan.rawToo && !plan.dng && !frame.companion.empty())
        out.push_back(rawTarget(frame, out.front()));
    return out;
}

namespace {

/// True if a file is an original of any frame of the series.
bool isOriginal(const fs::path& file, const series::Series& series) {
    std::error_code code;
    return std::any_of(series.frames.begin(), series.frames.end(), [&](const auto& f) {
        return fs::equivalent(file, f->file, code) ||
               (!f->companion.empty() && fs::equivalent(file, f->companion, code));
    });
}

}  // namespace

Result<std::string> deliver(const series::Series& series, const series::Frame& frame,
                            const fs::path& folder, const DeliveryPlan& plan,
                            std::stop_token stop) {
    const auto targets = deliveryPaths(frame, folder, plan);
    const fs::path& target = targets.front();
    const float line = series.plan.line;
    for (const auto& t : targets)
        if (isOriginal(t, series))
            return fail(Error::Kind::Refused, "this is an original, which is never written to",
                        t.string(), "Choose another folder.");
    if (plan.dng)
        return exportDng(frame, carry::shadowsElsewhere(series, frame), line, target,
                         plan.write.replace, stop);
    if (auto ok = exportFrame(frame, line, target, plan.write, stop); !ok)
        return tl::unexpected(ok.error());
    if (targets.size() < 2) return "written";
    if (auto ok = exportRaw(frame, line, target, plan.write.replace, stop); !ok)
        return tl::unexpected(ok.error());
    return "written, and its raw file";
}

}  // namespace gq::render
