#include "sim/lossless_jpeg.h"

#include <bit>
#include <cstdint>
#include <initializer_list>

namespace gq::sim {
namespace {

constexpr int kCategories = 17;  // of differences, by the number of their bits
constexpr int kCodeLength = 5;   // of every category; shorter ones for the usual would save little

class Writer {
  public:
    void bytes(std::initializer_list<int> all) {
        for (const int b : all) m_out += char(uint8_t(b));
    }
    void two(int value) { bytes({value >> 8, value & 255}); }
    void bits(uint32_t value, int count) {
        m_bits = m_bits << count | (value & ((1u << count) - 1));
        for (m_held += count; m_held >= 8; m_held -= 8) {
            const auto byte = uint8_t(m_bits >> (m_held - 8));
            m_out += char(byte);
            if (byte == 0xFF) m_out += '\0';
        }
    }
    /// A difference of two samples, modulo 2^16.
    void difference(int16_t d) {
        const int category = int(std::bit_width(uint32_t(std::abs(int(d)))));
        bits(uint32_t(category), kCodeLength);
        if (category < kCategories - 1) bits(uint32_t(d < 0 ? d - 1 : d), category);
    }
    std::string finished() {
        if (m_held) bits(0x7F, 8 - m_held);
        bytes({0xFF, 0xD9});
        return std::move(m_out);
    }

  private:
    std::string m_out;
    uint64_t m_bits = 0;
    int m_held = 0;
};

void writeHeader(Writer& w, const Size& size) {
    w.bytes({0xFF, 0xD8});
    w.bytes({0xFF, 0xC4}), w.two(2 + 1 + 16 + kCategories), w.bytes({0});  // Huffman table 0
    for (int length = 1; length <= 16; ++length) w.bytes({length == kCodeLength ? kCategories : 0});
    for (int c = 0; c < kCategories; ++c) w.bytes({c});
    w.bytes({0xFF, 0xC3}), w.two(2 + 6 + 2 * 3), w.bytes({16});  // frame: lossless, 16 bits
    w.two(size.height), w.two(size.width / 2), w.bytes({2});
    w.bytes({0, 0x11, 0, 1, 0x11, 0});
    w.bytes({0xFF, 0xDA}), w.two(2 + 1 + 2 * 2 + 3);  // scan: predictor 1
    w.bytes({2, 0, 0, 1, 0, 1, 0, 0});
}

}  // namespace

std::string losslessJpeg(const Image& samples) {
    Writer w;
    writeHeader(w, samples.size());
    for (int y = 0; y < samples.rows; ++y)
        for (int x = 0; x < samples.cols; ++x) {
            const int before = x >= 2  ? samples.at<uint16_t>(y, x - 2)
                               : y > 0 ? samples.at<uint16_t>(y - 1, x)
                                       : 1 << 15;
            w.difference(int16_t(uint16_t(samples.at<uint16_t>(y, x) - before)));
        }
    return w.finished();
}

}  // namespace gq::sim
