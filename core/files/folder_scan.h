#pragma once
#include <filesystem>
#include <vector>

namespace gq::files {

/// True if the suffix is one of a picture this program reads.
[[nodiscard]] bool looksLikePicture(const std::filesystem::path& file);
/// True if the suffix is one of a raw picture.
[[nodiscard]] bool looksRaw(const std::filesystem::path& file);

/// The raw file of the same name beside a picture that is not raw itself; empty if there is none.
[[nodiscard]] std::filesystem::path rawBeside(const std::filesystem::path& file);

/// The picture files among `paths`, folders opened one level deep, sorted by name. Where a raw file
/// and another picture share a name, the other picture alone is listed.
[[nodiscard]] std::vector<std::filesystem::path> pictureFiles(
    const std::vector<std::filesystem::path>& paths);

}  // namespace gq::files
