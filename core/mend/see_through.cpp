#include "core/mend/see_through.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"

namespace gq::mend {
namespace {

using Plane = cv::Mat_<float>;

constexpr int kShortest = 96;    ///< px along
constexpr float kSlant = 0.15f;  ///< rise by run
constexpr int kAlong = 32;       ///< px each way that a median is taken over
constexpr int kEvery = 8;        ///< px along between medians
constexpr int kSoft = 3;         ///< px that a line reaches beyond its outline
constexpr int kSide = 4;         ///< px on either side that tell what it should be
constexpr float kDark = 0.002f;  ///< linear light added before a logarithm
constexpr float kAlive =
    0.25f;  ///< of the changes along the sides that the line shows, to see through
constexpr float kBetter = 2.0f;  ///< of the sides' variance that may be wrong
constexpr float kUneven = 0.2f;  ///< of a line's depth that is likely wrong at a place
constexpr int kFade = 8;         ///< px along over which trust changes

/// A line by its way: one step of `s` is a pixel along it, `n` counts across.
struct Way {
    bool level = true;
    int from = 0;               ///< first pixel along
    std::vector<float> middle;  ///< by s
    int half = 0;               ///< px to where the line ends
};

std::optional<Way> wayOf(const Mask& inside) {
    const Rect box = cv::boundingRect(inside);
    Way out;
    out.level = box.width > box.height;
    const auto [across, along] = std::minmax(box.width, box.height);
    if (along < kShortest || float(across) > kSlant * float(along)) return std::nullopt;
    out.from = out.level ? box.x : box.y;
    std::vector<int> widths;
    for (int s = 0; s < along; ++s) {
        const Mask line = out.level ? inside.col(out.from + s) : Mask(inside.row(out.from + s).t());
        const int width = cv::countNonZero(line);
        if (width) {
            const auto m = cv::moments(line, true);
            out.middle.push_back(float(m.m01 / m.m00));
            widths.push_back(width);
        } else {
            out.middle.push_back(out.middle.empty() ? 0 : out.middle.back());
        }
    }
    std::nth_element(widths.begin(), widths.begin() + long(widths.size() / 2), widths.end());
    out.half = (widths[widths.size() / 2] + 1) / 2 + kSoft;
    return out;
}

/// Departures of log light across a band along the way from what lies on its sides: one row for
/// each n from -half to half, one column for each s.
using Departures = std::array<Plane, 3>;

class Band {
  public:
    Band(const Window& window, const Way& way) : m_window(window), m_way(way) {}

    /// Of the band that lies `aside` px beside the line.
    [[nodiscard]] Departures departures(int aside) const {
        const int half = m_way.half, length = int(m_way.middle.size());
        Departures out;
        for (auto& o : out) o.create(2 * half + 1, length);
        for (int s = 0; s < length; ++s) {
            const Vec4 above = side(s, aside - half - kSide), below = side(s, aside + half + 1);
            for (int n = -half; n <= half; ++n) {
                const Vec4 v = light(s, float(aside + n));
                const float t = float(n + half + kSide / 2) / float(2 * half + kSide);
                for (int c = 0; c < 3; ++c)
                    out[size_t(c)](n + half, s) = v[c] - (above[c] + t * (below[c] - above[c]));
            }
        }
        return out;
    }

    /// Mean square of the changes along it, in three rows in its middle; one row.
    [[nodiscard]] Plane changes(int aside) const {
        const int length = int(m_way.middle.size());
        Plane out(1, length, 0.0f);
        for (int s = 1; s + 1 < length; ++s)
            for (int n = aside - 1; n <= aside + 1; ++n) {
                const Vec4 step = light(s + 1, float(n)) - light(s - 1, float(n));
                out(0, s) += sum3(step * step) / 9;
            }
        return out;
    }

  private:
    [[nodiscard]] Vec4 logAt(int s, int row) const {
        const int along = m_way.from + s;
        const int x = std::clamp(m_way.level ? along : row, 0, m_window.width() - 1),
                  y = std::clamp(m_way.level ? row : along, 0, m_window.height() - 1);
        Vec4 v = m_window.at(x, y);
        for (int c = 0; c < 3; ++c)
            v[c] = std::log(toLinear(ushort(std::lround(v[c] * 65535))) + kDark);
        return v;
    }
    [[nodiscard]] Vec4 light(int s, float n) const {
        const float at = m_way.middle[size_t(s)] + n;
        const int row = int(std::floor(at));
        const float part = at - float(row);
        return logAt(s, row) * splat(1 - part) + logAt(s, row + 1) * splat(part);
    }
    /// Mean of kSide rows from `first` on.
    [[nodiscard]] Vec4 side(int s, int first) const {
        Vec4 sum = splat(0);
        for (int i = 0; i < kSide; ++i) sum = sum + light(s, float(first + i));
        return sum * splat(1.0f / kSide);
    }

    const Window& m_window;
    const Way& m_way;
};

/// Medians along each row, at every few px and between them in proportion.
Plane alongMedian(const Plane& rows) {
    Plane out(rows.size());
    std::vector<float> near;
    for (int y = 0; y < rows.rows; ++y) {
        const auto medianAt = [&](int s) {
            const int first = std::max(0, s - kAlong), last = std::min(rows.cols - 1, s + kAlong);
            near.assign(rows[y] + first, rows[y] + last + 1);
            const auto middle = near.begin() + long(near.size() / 2);
            std::nth_element(near.begin(), middle, near.end());
            return *middle;
        };
        float here = medianAt(0);
        for (int s = 0; s < rows.cols; s += kEvery) {
            const float next = medianAt(std::min(s + kEvery, rows.cols - 1));
            for (int i = s; i < std::min(s + kEvery, rows.cols); ++i)
                out(y, i) = here + float(i - s) / kEvery * (next - here);
            here = next;
        }
    }
    return out;
}

Departures medians(const Departures& d) {
    return {alongMedian(d[0]), alongMedian(d[1]), alongMedian(d[2])};
}

/// Mean square by s over some rows and the channels; one row.
Plane meanSquare(const Departures& d, const cv::Range& rows) {
    Plane sum(1, d[0].cols, 0.0f), mean;
    for (const auto& channel : d) {
        const Plane part = channel.rowRange(rows);
        cv::reduce(part.mul(part), mean, 0, cv::REDUCE_AVG);
        sum += mean * (1.0 / 3);
    }
    return sum;
}

Departures less(const Departures& a, const Departures& b) {
    return {Plane(a[0] - b[0]), Plane(a[1] - b[1]), Plane(a[2] - b[2])};
}

Plane smoothAlong(const Plane& row, int reach) {
    Plane out;
    cv::blur(row, out, {2 * reach + 1, 1}, {-1, -1}, cv::BORDER_REPLICATE);
    return out;
}

/// What is measured of a band, by s.
struct Measured {
    Departures own;  ///< medians along it
    Plane all;       ///< mean square of those
    Plane rest;      ///< variance that they leave in its middle
    Plane changes;   ///< mean square of the changes along its middle
};

Measured measured(const Band& band, int half, int aside) {
    const cv::Range core(half - 1, half + 2);
    const Departures d = band.departures(aside);
    Measured out{medians(d), {}, {}, smoothAlong(band.changes(aside), kAlong)};
    out.all = meanSquare(out.own, cv::Range::all());
    out.rest = smoothAlong(meanSquare(less(d, out.own), core), kAlong);
    return out;
}

/// The line's own departures, and by s how far they are to be trusted.
struct Line {
    Departures own;
    Plane trust;
};

Line lineOf(const Band& band, int half) {
    const int aside = 2 * half + 2 * kSide + 1;
    const Measured here = measured(band, half, 0), above = measured(band, half, -aside),
                   below = measured(band, half, aside);
    const Plane depth = meanSquare(here.own, {half - 1, half + 2});
    Line out{here.own, Plane(depth.size())};
    for (int s = 0; s < depth.cols; ++s) {
        const auto beside = [&](Plane Measured::*of) {
            return ((above.*of)(0, s) + (below.*of)(0, s)) / 2;
        };
        const float chance = beside(&Measured::all), rest = beside(&Measured::rest);
        const float share = std::max(0.0f, 1 - chance / (here.all(0, s) + 1e-9f));
        for (auto& channel : out.own) channel.col(s) *= share;
        const float wrong =
            std::max(0.0f, here.rest(0, s) - rest) + chance + kUneven * kUneven * depth(0, s);
        const bool alive = here.changes(0, s) > kAlive * beside(&Measured::changes);
        out.trust(0, s) = alive && wrong < kBetter * rest ? 1.0f : 0.0f;
    }
    out.trust = smoothAlong(out.trust, kFade);
    return out;
}

}  // namespace

std::optional<SeenThrough> seeThrough(const Window& window, const Mask& inside,
                                      const std::vector<Point>& places) {
    const auto way = wayOf(inside);
    if (!way) return std::nullopt;
    const Line line = lineOf(Band(window, *way), way->half);
    SeenThrough out;
    for (const Point& p : places) {
        const int s =
            std::clamp((way->level ? p.x : p.y) - way->from, 0, int(way->middle.size()) - 1);
        const float n = float(way->level ? p.y : p.x) - way->middle[size_t(s)] + float(way->half);
        const int row = std::clamp(int(std::floor(n)), 0, 2 * way->half - 1);
        const float part = std::clamp(n - float(row), 0.0f, 1.0f);
        Vec4 v = window.at(p.x, p.y);
        for (int c = 0; c < 3; ++c) {
            const auto& own = line.own[size_t(c)];
            const float held = own(row, s) + part * (own(row + 1, s) - own(row, s));
            const float light = toLinear(ushort(std::lround(v[c] * 65535))) + kDark;
            v[c] = float(fromLinear(std::max(0.0f, light * std::exp(-held) - kDark))) / 65535;
        }
        out.values.push_back(v);
        out.trust.push_back(window.known(p.x, p.y) ? line.trust(0, s) : 0);
    }
    return out;
}

}  // namespace gq::mend
