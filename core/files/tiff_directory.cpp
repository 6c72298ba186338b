#include "core/files/tiff_directory.h"

#include <algorithm>

namespace gq::files {
namespace {

constexpr uint32_t kEntrySize = 12, kHeaderLink = 4;
constexpr uint16_t kSubDirectories = 330, kClassicVersion = 42;
constexpr size_t kMostDirectories = 64;  // a file that links in a circle is damaged

}  // namespace

TiffDirectories::TiffDirectories(const std::filesystem::path& file)
    : m_file(file, std::ios::in | std::ios::out | std::ios::binary) {
    std::array<char, 4> header{};
    m_file.read(header.data(), header.size());
    m_bigEnd = header[0] == 'M';
    m_classic = m_file && number(header.data() + 2, 2) == kClassicVersion;
}

uint32_t TiffDirectories::number(const char* bytes, size_t size) const {
    uint32_t out = 0;
    for (size_t i = 0; i < size; ++i)
        out |= uint32_t(uint8_t(bytes[i])) << 8 * (m_bigEnd ? size - 1 - i : i);
    return out;
}

std::array<char, 4> TiffDirectories::bytesOf(uint32_t value, size_t size) const {
    std::array<char, 4> out{};
    for (size_t i = 0; i < size; ++i)
        out[i] = char(uint8_t(value >> 8 * (m_bigEnd ? size - 1 - i : i)));
    return out;
}

uint32_t TiffDirectories::four(uint32_t at) {
    std::array<char, 4> bytes{};
    m_file.seekg(at);
    m_file.read(bytes.data(), bytes.size());
    return number(bytes.data(), bytes.size());
}

TiffDirectories::Directory TiffDirectories::read(uint32_t at) {
    Directory out;
    std::array<char, kEntrySize> bytes{};
    m_file.seekg(at);
    m_file.read(bytes.data(), 2);
    const uint32_t count = number(bytes.data(), 2);
    for (uint32_t i = 0; i < count && m_file.read(bytes.data(), kEntrySize); ++i) {
        Entry e{uint16_t(number(bytes.data(), 2)),
                uint16_t(number(bytes.data() + 2, 2)),
                number(bytes.data() + 4, 4),
                {}};
        std::copy_n(bytes.data() + 8, 4, e.value.data());
        out.entries.push_back(e);
    }
    m_file.read(out.next.data(), out.next.size());
    return out;
}

std::vector<uint32_t> TiffDirectories::links() {
    std::vector<uint32_t> links{kHeaderLink}, out;
    for (size_t i = 0; i < links.size() && links.size() < kMostDirectories && m_file; ++i) {
        const uint32_t to = four(links[i]);
        if (to == 0) continue;
        out.push_back(links[i]);
        const auto directory = read(to);
        const auto count = uint32_t(directory.entries.size());
        for (uint32_t e = 0; e < count; ++e) {
            const Entry& entry = directory.entries[e];
            if (entry.tag != kSubDirectories) continue;
            const uint32_t own = to + 2 + e * kEntrySize + 8;
            for (uint32_t s = 0; s < std::min(entry.count, uint32_t(kMostDirectories)); ++s)
                links.push_back(entry.count == 1 ? own : valueOf(entry) + 4 * s);
        }
        links.push_back(to + 2 + count * kEntrySize);
    }
    return out;
}

std::optional<uint32_t> TiffDirectories::linkTo(uint32_t at) {
    for (const uint32_t link : links())
        if (four(link) == at) return link;
    return std::nullopt;
}

std::string TiffDirectories::bytes(uint32_t at, uint32_t size) {
    m_file.seekg(0, std::ios::end);
    if (m_file.tellg() < std::streamoff(at) + std::streamoff(size)) return {};
    std::string out(size, '\0');
    m_file.seekg(at);
    m_file.read(out.data(), std::streamsize(size));
    return out;
}

uint32_t TiffDirectories::end() {
    m_file.seekp(0, std::ios::end);
    auto at = uint32_t(m_file.tellp());
    if (at & 1) m_file.put('\0'), ++at;
    return at;
}

uint32_t TiffDirectories::append(Directory directory) {
    std::sort(directory.entries.begin(), directory.entries.end(),
              [](const Entry& a, const Entry& b) { return a.tag < b.tag; });
    const uint32_t at = end();
    m_file.write(bytesOf(uint32_t(directory.entries.size()), 2).data(), 2);
    for (const auto& e : directory.entries) {
        m_file.write(bytesOf(e.tag, 2).data(), 2);
        m_file.write(bytesOf(e.type, 2).data(), 2);
        m_file.write(bytesOf(e.count, 4).data(), 4);
        m_file.write(e.value.data(), 4);
    }
    m_file.write(directory.next.data(), 4);
    return at;
}

uint32_t TiffDirectories::append(const std::string& bytes) {
    const uint32_t at = end();
    m_file.write(bytes.data(), std::streamsize(bytes.size()));
    return at;
}

uint32_t TiffDirectories::append(const Image& samples) {
    const uint32_t at = end();
    std::vector<char> row(2 * size_t(samples.cols));
    for (int y = 0; y < samples.rows; ++y) {
        const auto* from = samples.ptr<uint16_t>(y);
        for (size_t x = 0; x < size_t(samples.cols); ++x) {
            row[2 * x + (m_bigEnd ? 1 : 0)] = char(uint8_t(from[x]));
            row[2 * x + (m_bigEnd ? 0 : 1)] = char(uint8_t(from[x] >> 8));
        }
        m_file.write(row.data(), std::streamsize(row.size()));
    }
    return at;
}

void TiffDirectories::write(uint32_t at, const char* bytes, size_t size) {
    m_file.seekp(0, std::ios::end);
    if (m_file.tellp() < std::streamoff(at) + std::streamoff(size)) return;
    m_file.seekp(at);
    m_file.write(bytes, std::streamsize(size));
}

void TiffDirectories::write(uint32_t at, uint32_t value) {
    write(at, bytesOf(value, 4).data(), 4);
}

TiffDirectories::Entry TiffDirectories::entry(uint16_t tag, uint16_t type, uint32_t value) const {
    return {tag, type, 1, bytesOf(value, type == kShort ? 2 : 4)};
}

uint32_t TiffDirectories::valueOf(const Entry& e) const {
    return number(e.value.data(), e.type == kShort && e.count == 1 ? 2 : 4);
}

}  // namespace gq::files
