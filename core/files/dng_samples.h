#pragma once
#include <filesystem>
#include <optional>

#include "core/pixels/image.h"

namespace gq::files {

/// Where the samples of a DNG are described, and from where on the file holds nothing else.
struct DngPlace {
    uint32_t directory = 0;
    std::optional<uintmax_t> tail;
};

/// Puts `samples` (16 bits, one channel, the whole mosaic) into a DNG in the place of its own,
/// uncompressed and without a curve; the old ones go where they end the file. All other tags stay.
/// `white`: where light is clipped, for files that do not tell it.
/// Source   Adobe, "Digital Negative Specification" 1.4, 2012.
/// Errors   TooLarge (over 4 GB), Unreadable, DiskFull.
[[nodiscard]] Status replaceSamples(const std::filesystem::path& file, const DngPlace& place,
                                    const Image& samples, uint32_t white);

}  // namespace gq::files
