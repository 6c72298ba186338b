#include "core/find/trace.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <opencv2/imgproc.hpp>
#include <optional>

#include "core/pixels/color.h"

namespace gq::find {
namespace {

constexpr int kReach = 16;         ///< px of flank looked at across a line
constexpr float kStep = 2;         ///< px a step
constexpr int kLongest = 2000;     ///< steps each way
constexpr int kGap = 5;            ///< steps without a line before it ends
constexpr float kBend = 0.3f;      ///< radians; sharper turns are sought in steps of this,
constexpr int kBends = 4;          ///< so many to either side
constexpr float kBent = 0.4f;      ///< of the first point's contrast, beyond a sharp turn
constexpr float kWeakest = 0.35f;  ///< of the first point's contrast
constexpr float kLeast = 0.015f;   ///< contrast where a line starts
constexpr float kEven = 0.01f;     ///< unevenness that everything has
constexpr float kClear = 4;  ///< contrast over its flanks' unevenness, when nobody points at it

/// Contrast and middle of a line across a place.
struct Cross {
    float contrast = 0;  ///< signed; 0 = none
    float shift = 0;     ///< of the middle along the normal, px
    float width = 0;
    float uneven = 0;  ///< deviation of the tones beside it
};

class Tracer {
  public:
    explicit Tracer(const Image& pixels) : m_pixels(pixels) {}

    /// Tone averaged a little along the line's direction.
    [[nodiscard]] float tone(PointF p, PointF along) const {
        float sum = 0;
        for (const float t : {-1.5f, 0.0f, 1.5f}) sum += at(p + along * t);
        return sum / 3;
    }

    [[nodiscard]] Cross cross(PointF p, PointF along, float sign, int window) const {
        const PointF normal(-along.y, along.x);
        std::vector<float> v;
        for (int i = -kReach; i <= kReach; ++i) v.push_back(tone(p + normal * float(i), along));
        std::vector<float> flank;
        for (size_t i = 0; i < v.size(); ++i)
            if (std::abs(int(i) - kReach) > 6) flank.push_back(v[i]);
        std::nth_element(flank.begin(), flank.begin() + long(flank.size() / 2), flank.end());
        const float base = flank[flank.size() / 2];
        for (float& x : flank) x = std::abs(x - base);
        std::nth_element(flank.begin(), flank.begin() + long(flank.size() / 2), flank.end());
        int best = kReach;
        float most = 0;
        for (int i = kReach - window; i <= kReach + window; ++i) {
            const float d = v[size_t(i)] - base;
            const float strength = sign == 0 ? std::abs(d) : d * sign;
            if (strength > most) most = strength, best = i;
        }
        if (most <= 0) return {};
        Cross out;
        out.uneven = 1.4826f * flank[flank.size() / 2];
        out.contrast = v[size_t(best)] - base;
        int low = best, high = best;
        const auto half = [&](int i) { return (v[size_t(i)] - base) / out.contrast > 0.5f; };
        while (low > 0 && half(low - 1)) --low;
        while (high + 1 < int(v.size()) && half(high + 1)) ++high;
        out.width = float(high - low + 1);
        out.shift = 0.5f * float(low + high) - float(kReach);
        return out;
    }

    /// One way from a start; points after the start. `clear` asks for so much contrast over the
    /// unevenness beside the line.
    std::vector<PointF> follow(PointF p, PointF along, const Cross& first,
                               std::vector<float>& widths, float clear = 0) const {
        std::vector<PointF> out;
        int missed = 0;
        const float sign = first.contrast > 0 ? 1.0f : -1.0f;
        PointF last = p;
        for (int i = 0; i < kLongest; ++i) {
            const PointF next = p + along * kStep;
            if (!inside(next)) break;
            const Cross c = cross(next, along, sign, 3);
            const float least = std::max(kWeakest * std::abs(first.contrast), clear * c.uneven);
            if (std::abs(c.contrast) <= least || !alike(c, first)) {
                if (++missed > kGap) break;
                const auto turned = bend(last, along, first, clear * c.uneven);
                along = turned.value_or(along);
                p = turned ? last + along : next;
                continue;
            }
            missed = 0;
            const PointF normal(-along.y, along.x);
            p = next + normal * std::clamp(c.shift, -2.0f, 2.0f);
            PointF way = p - last;
            const float length = std::hypot(way.x, way.y);
            if (length > 0.5f) {
                way = along * 0.6f + way * (0.4f / length);
                along = way * (1 / std::hypot(way.x, way.y));
            }
            last = p;
            out.push_back(p);
            widths.push_back(c.width);
        }
        return out;
    }

    /// Where the line goes on after a sharp turn at `p`: the direction in which the next 9 px are
    /// strongest, and stronger than `least`.
    [[nodiscard]] std::optional<PointF> bend(PointF p, PointF along, const Cross& first,
                                             float least) const {
        const float sign = first.contrast > 0 ? 1.0f : -1.0f;
        float strongest = std::max(kBent * std::abs(first.contrast), least);
        std::optional<PointF> out;
        for (int turn = -kBends; turn <= kBends; ++turn) {
            const float c = std::cos(kBend * float(turn)), s = std::sin(kBend * float(turn));
            const PointF way(along.x * c - along.y * s, along.x * s + along.y * c);
            float weakest = std::numeric_limits<float>::max();
            for (const float far : {3.0f, 6.0f, 9.0f}) {
                const Cross there = cross(p + way * far, way, sign, 2);
                weakest = std::min(weakest, alike(there, first) ? sign * there.contrast : 0);
            }
            if (weakest <= strongest) continue;
            strongest = weakest;
            out = way;
        }
        return out;
    }

    [[nodiscard]] bool inside(PointF p) const {
        return p.x >= 0 && p.y >= 0 && p.x < float(m_pixels.cols) && p.y < float(m_pixels.rows);
    }

  private:
    static bool alike(const Cross& c, const Cross& first) {
        return c.width < 2.5f * first.width + 2;
    }
    [[nodiscard]] float at(PointF p) const {
        const int x = std::clamp(int(p.x), 0, m_pixels.cols - 1),
                  y = std::clamp(int(p.y), 0, m_pixels.rows - 1);
        const auto* v = m_pixels.ptr<ushort>(y) + x * m_pixels.channels();
        if (m_pixels.channels() == 1) return float(v[0]) * (1 / 65535.0f);
        return (kLumaWeights[0] * float(v[0]) + kLumaWeights[1] * float(v[1]) +
                kLumaWeights[2] * float(v[2])) *
               (1 / 65535.0f);
    }
    const Image& m_pixels;
};

}  // namespace

Trace traceLine(const Image& pixels, PointF at) {
    const Tracer tracer(pixels);
    if (!tracer.inside(at)) return {};
    // The direction across which a narrow line stands out most, the same a few px on either way.
    Cross best;
    PointF way;
    float most = 0;
    for (int i = 0; i < 16; ++i) {
        const float turn = float(i) * 3.14159265f / 16;
        const PointF along(std::cos(turn), std::sin(turn));
        const Cross c = tracer.cross(at, along, 0, 4);
        if (c.contrast == 0 || c.width > 14) continue;
        const float sign = c.contrast > 0 ? 1.0f : -1.0f;
        float least = std::abs(c.contrast);
        for (const float t : {-4.0f, 4.0f})
            least = std::min(least, tracer.cross(at + along * t, along, sign, 3).contrast * sign);
        const float clearness = least / ((c.uneven + kEven) * c.width);
        if (least < kLeast || clearness <= most) continue;
        most = clearness;
        best = c;
        best.contrast = least * sign;
        way = along;
    }
    if (most == 0) return {};
    const PointF normal(-way.y, way.x), start = at + normal * best.shift;
    std::vector<float> widths{best.width};
    auto back = tracer.follow(start, way * -1.0f, best, widths);
    const auto on = tracer.follow(start, way, best, widths);
    std::reverse(back.begin(), back.end());
    Trace out;
    out.path = std::move(back);
    out.path.push_back(start);
    out.path.insert(out.path.end(), on.begin(), on.end());
    for (const float w : widths) out.width += w / float(widths.size());
    if (out.path.size() < 4) return {};
    return out;
}

std::vector<PointF> traceOn(const Image& pixels, PointF before, PointF end, Polarity polarity) {
    const Tracer tracer(pixels);
    PointF along = end - before;
    const float far = std::hypot(along.x, along.y);
    if (far == 0 || !tracer.inside(before) || !tracer.inside(end)) return {};
    along *= 1 / far;
    const float sign = polarity == Polarity::Light ? 1.0f : -1.0f;
    const Cross first = tracer.cross(before, along, sign, 3);
    if (sign * first.contrast < std::max(kLeast, kClear * first.uneven)) return {};
    std::vector<float> widths;
    return tracer.follow(end, along, first, widths, kClear);
}

}  // namespace gq::find
