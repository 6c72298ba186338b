#pragma once
#include <filesystem>
#include <stop_token>
#include <string>

#include "core/carry/carry.h"
#include "core/files/picture_writer.h"
#include "core/series/series.h"

namespace gq::render {

/// How the frames of a series are delivered.
struct DeliveryPlan {
    files::WriteOptions write;
    bool dng = false;     ///< instead of pictures: the raw samples, as in `exportDng`
    bool rawToo = false;  ///< beside pictures: the raw files of pairs, as NAME-raw.tif (16 bits)
};

/// Where a frame goes: folder, the original's name, the format's suffix; then where the raw file of
/// its pair goes, if it does.
[[nodiscard]] std::vector<std::filesystem::path> deliveryPaths(const series::Frame& frame,
                                                               const std::filesystem::path& folder,
                                                               const DeliveryPlan& plan);
/// Delivers a frame of the series there; returns what became of it, in words ("written").
/// Errors: Refused also where an original of another frame lies; those of `exportFrame`,
/// `exportRaw`, `exportDng`.
[[nodiscard]] Result<std::string> deliver(const series::Series& series, const series::Frame& frame,
                                          const std::filesystem::path& folder,
                                          const DeliveryPlan& plan, std::stop_token stop = {});

/// Decodes the original, lays the frame's mends, writes the file. Outside the mends' footprints
/// every pixel has the value it had, except for what JPEG loses; profile and metadata are kept. A
/// negative that is shown inverted is delivered as the positive.
/// Errors   Changed (the original is not the file that was worked on), Refused (the target exists
///          or is an original), and those of reading and writing.
[[nodiscard]] Status exportFrame(const series::Frame& frame, float line,
                                 const std::filesystem::path& target,
                                 const files::WriteOptions& options, std::stop_token stop = {});

/// Writes the raw file of a frame's pair with the same mends beside `target`, as NAME-raw.tif (16
/// bits). Shadows are divided out as deep as the raw file shows them.
/// Errors: as `exportFrame`, `carry::rawPairOf`.
[[nodiscard]] Status exportRaw(const series::Frame& frame, float line,
                               const std::filesystem::path& target, bool replace,
                               std::stop_token stop = {});

/// Writes a copy of the frame's DNG, or of that of its pair, in which the shadows that its mends
/// divide out are divided out of the raw samples, and so are those it heals and that are known
/// (`shadows`, by mend); returns how many were, and how many other mends are left for the
/// developed picture. Errors: as `files::writeUnshadedDng`, `exportRaw`.
[[nodiscard]] Result<std::string> exportDng(const series::Frame& frame,
                                            const carry::Shadows& shadows, float line,
                                            const std::filesystem::path& target, bool replace,
                                            std::stop_token stop = {});

/// The same for a raw frame whose pixels are at hand.
[[nodiscard]] Result<std::string> exportOpenedDng(const series::Frame& raw, const Image& pixels,
                                                  float line, const std::filesystem::path& target,
                                                  bool replace, std::stop_token stop = {});

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
