#pragma once
#include <array>
#include <cstdint>
#include <filesystem>
#include <fstream>
#include <optional>
#include <string>
#include <vector>

#include "core/pixels/image.h"

namespace gq::files {

/// The directories of a classic TIFF file (TIFF 6.0, 1992; not BigTIFF), read and changed in place:
/// what libtiff does not do without rewriting the tags it does not know.
/// Errors   a damaged file reads as zeros and nothing is found; `ok` tells of faults on the disk.
class TiffDirectories {
  public:
    static constexpr uint16_t kByte = 1, kShort = 3, kLong = 4, kUndefined = 7;  ///< types

    struct Entry {
        uint16_t tag = 0, type = 0;
        uint32_t count = 0;
        std::array<char, 4> value{};  ///< the value, or where it lies, in the file's byte order
    };
    struct Directory {
        std::vector<Entry> entries;
        std::array<char, 4> next{};  ///< where the next one lies, in the file's byte order
    };

    explicit TiffDirectories(const std::filesystem::path& file);

    [[nodiscard]] bool ok() const { return bool(m_file); }
    [[nodiscard]] bool isClassic() const { return m_classic; }
    /// Where the first directory lies.
    [[nodiscard]] uint32_t first() { return four(4); }
    [[nodiscard]] Directory read(uint32_t at);
    /// The places of the file that say where a directory lies: of all of them, those inside others
    /// too.
    [[nodiscard]] std::vector<uint32_t> links();
    /// What a place says.
    [[nodiscard]] uint32_t at(uint32_t place) { return four(place); }
    /// Where the file says that the directory at `at` lies; nothing if nowhere.
    [[nodiscard]] std::optional<uint32_t> linkTo(uint32_t at);
    /// Writes the directory, its entries sorted by tag, at the end of the file; returns where.
    uint32_t append(Directory directory);
    /// What lies at a place; empty if the file ends before.
    [[nodiscard]] std::string bytes(uint32_t at, uint32_t size);
    /// Writes bytes at the end of the file; returns where.
    uint32_t append(const std::string& bytes);
    /// Writes samples of 16 bits, in the file's byte order, at the end of the file; returns where.
    uint32_t append(const Image& samples);
    /// Writes at a place of the file. What would reach beyond its end is not written.
    void write(uint32_t at, const char* bytes, size_t size);
    void write(uint32_t at, uint32_t value);

    [[nodiscard]] Entry entry(uint16_t tag, uint16_t type, uint32_t value) const;
    /// The number an entry holds itself (of one SHORT or LONG), or the place it points to.
    [[nodiscard]] uint32_t valueOf(const Entry& entry) const;

  private:
    [[nodiscard]] uint32_t number(const char* bytes, size_t size) const;
    [[nodiscard]] std::array<char, 4> bytesOf(uint32_t value, size_t size) const;
    [[nodiscard]] uint32_t four(uint32_t at);
    uint32_t end();  ///< of the file, made even

    std::fstream m_file;
    bool m_bigEnd = false, m_classic = false;
};

}  // namespace gq::files
