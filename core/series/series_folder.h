#pragma once
#include <filesystem>
#include <memory>

#include "core/series/series.h"

namespace gq::series {

/// Holds a series folder against a second writer, until destroyed (also by a kill).
class FolderLock {
  public:
    /// Takes away what a killed program left half written. Errors: Busy when another program has
    /// it, NoPermission.
    [[nodiscard]] static Result<std::unique_ptr<FolderLock>> take(
        const std::filesystem::path& folder);
    ~FolderLock();
    FolderLock(const FolderLock&) = delete;
    FolderLock& operator=(const FolderLock&) = delete;

  private:
    explicit FolderLock(int descriptor) : m_descriptor(descriptor) {}
    int m_descriptor;
};

/// True if `folder` holds a series.
[[nodiscard]] bool isSeriesFolder(const std::filesystem::path& folder);

/// Where the series of a folder of pictures is kept: "gentle-quill" inside it.
[[nodiscard]] std::filesystem::path seriesFolderFor(const std::filesystem::path& pictures);

/// Reads a series. Errors: NotFound, Unreadable, NewerVersion; each names the file.
[[nodiscard]] Result<Series> loadSeries(const std::filesystem::path& folder);

/// Writes what differs from `saved` (null = everything): changed frames first, series.json last,
/// each file whole or not at all. Errors: NoPermission, DiskFull.
[[nodiscard]] Status saveSeries(const std::filesystem::path& folder, const Series& series,
                                const Series* saved = nullptr);

}  // namespace gq::series
