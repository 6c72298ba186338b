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

/// For each path the index of the first that leads to the same file, itself where it is the first.
/// The files need not be there.
[[nodiscard]] std::vector<size_t> firstOfSame(const std::vector<std::filesystem::path>& paths);

/// The picture files among `paths`, folders opened one level deep, sorted by name; a file named
/// twice is listed once. Where a raw file
/// and another picture share a name, the other picture alone is listed.
[[nodiscard]] std::vector<std::filesystem::path> pictureFiles(
    const std::vector<std::filesystem::path>& paths);

}  // namespace gq::files
