#pragma once
#include <filesystem>
#include <stop_token>

#include "core/carry/carry.h"
#include "core/files/picture_writer.h"
#include "core/series/series.h"

namespace gq::render {

/// Where a frame's export goes: folder, the original's name, the format's suffix.
[[nodiscard]] std::filesystem::path exportPath(const series::Frame& frame,
                                               const std::filesystem::path& folder,
                                               files::Format format);

/// Decodes the original, lays the frame's mends, writes the file. Outside the mends' footprints
/// every pixel has the value it had, except for what JPEG loses; profile and metadata are kept. A
/// negative that is shown inverted is delivered as the positive.
/// Errors   Changed (the original is not the file that was worked on), Refused (the target exists
///          or is an original), and those of reading and writing.
[[nodiscard]] Status exportFrame(const series::Frame& frame, float line,
                                 const std::filesystem::path& target,
                                 const files::WriteOptions& options, std::stop_token stop = {});

/// Writes the raw file of a frame's pair with the same mends beside `target`, as NAME-raw.tif (16
/// bits). Nothing is done for a frame without a pair. Errors: as `exportFrame`, `carry::rawOf`.
[[nodiscard]] Status exportRaw(const series::Frame& frame, float line,
                               const std::filesystem::path& target, bool replace,
                               std::stop_token stop = {});

/// The original's pixels, after checking that the file is still the one that was worked on (size,
/// and content hash when `wholly`). Errors: NotFound, Changed, those of `readPicture`.
[[nodiscard]] Result<files::LoadedPicture> openOriginal(const series::Frame& frame, bool wholly,
                                                        std::stop_token stop = {});

/// Just its pixels.
[[nodiscard]] Result<Image> originalPixels(const series::Frame& frame, std::stop_token stop = {});
/// What a chart of `first`'s camera looks at: as `originalPixels`, at half the size where that is
/// enough.
[[nodiscard]] carry::PixelSource chartPixels(const series::Frame& first);

}  // namespace gq::render
