#include "core/files/dng_digest.h"

#include <array>
#include <cstdint>
#include <fstream>

namespace gq::files {
namespace {

constexpr uint16_t kRawImageDigest = 50972, kNewRawImageDigest = 51111;
constexpr uint16_t kClassic = 42, kBytes = 1, kUndefined = 7;  // of TIFF: its version, types
constexpr uint32_t kDigestSize = 16, kEntrySize = 12;

/// Numbers of a TIFF file in its byte order.
class Numbers {
  public:
    explicit Numbers(std::fstream& file) : m_file(file) {
        std::array<char, 2> order{};
        m_file.read(order.data(), order.size());
        m_bigEnd = order[0] == 'M';
    }
    uint16_t two() { return uint16_t(number(2)); }
    uint32_t four() { return number(4); }

  private:
    uint32_t number(int size) {
        uint32_t out = 0;
        for (int i = 0; i < size; ++i) {
            const auto byte = uint32_t(uint8_t(m_file.get()));
            out |= byte << 8 * (m_bigEnd ? size - 1 - i : i);
        }
        return out;
    }
    std::fstream& m_file;
    bool m_bigEnd = false;
};

}  // namespace

Status clearRawDigests(const std::filesystem::path& file) {
    std::fstream stream(file, std::ios::in | std::ios::out | std::ios::binary);
    if (!stream)
        return fail(Error::Kind::NoPermission, "it could not be written", file.string(),
                    "Check the folder's permissions.");
    const auto size = std::filesystem::file_size(file);
    Numbers numbers(stream);
    if (numbers.two() != kClassic) return {};
    const uint32_t directory = numbers.four();
    stream.seekg(directory);
    const uint16_t entries = numbers.two();
    for (uint32_t i = 0; i < entries; ++i) {
        stream.seekg(directory + 2 + i * kEntrySize);
        const uint16_t tag = numbers.two(), type = numbers.two();
        const uint32_t count = numbers.four(), at = numbers.four();
        const bool digest = tag == kRawImageDigest || tag == kNewRawImageDigest;
        if (!digest || (type != kBytes && type != kUndefined) || count != kDigestSize) continue;
        if (at + uintmax_t(kDigestSize) > size) break;  // damaged: nothing is written beyond
        stream.seekp(at);
        stream.write(std::array<char, kDigestSize>{}.data(), kDigestSize);
    }
    stream.flush();
    if (stream) return {};
    return fail(Error::Kind::Unreadable, "its tags are damaged", file.string(),
                "Copy it again from the camera, or leave it out.");
}

}  // namespace gq::files
