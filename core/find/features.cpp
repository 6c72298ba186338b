#include "core/find/features.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/find/context.h"
#include "core/pixels/parallel.h"
#include "core/pixels/thickness.h"

namespace gq::find {
namespace {

constexpr float kPi = 3.14159265f, kTiny = 1e-6f;

/// Running sum of a value.
struct Mean {
    float n = 0, s = 0;
    void add(float v) {
        n += 1;
        s += v;
    }
    [[nodiscard]] float mean() const { return s / std::max(n, 1.0f); }
};

/// The same with the sum of its square.
struct Sum : Mean {
    float ss = 0;
    void add(float v) {
        Mean::add(v);
        ss += v * v;
    }
    [[nodiscard]] float deviation() const {
        const float m = mean();
        return std::sqrt(std::max(ss / std::max(n, 1.0f) - m * m, 0.0f));
    }
};

/// Bounds of a value; 0 before there is any.
struct Bounds {
    float high = -1e9f, low = 1e9f;
    void add(float v) {
        high = std::max(high, v);
        low = std::min(low, v);
    }
    [[nodiscard]] float most() const { return high >= low ? high : 0; }
    [[nodiscard]] float least() const { return high >= low ? low : 0; }
};

/// Sums and bounds.
struct Range : Sum, Bounds {
    void add(float v) {
        Sum::add(v);
        Bounds::add(v);
    }
};

/// One ring around a candidate.
struct Ring {
    Bounds toward;
    Sum plane, fine;
    Mean gradient, across, size;
    std::array<Mean, 8> sectors;
};

/// Eighth of the round, from -22.5 degrees on, in which `along`, `aside` points.
size_t sectorOf(float along, float aside) {
    constexpr float kTan = 0.41421356f;  // of 22.5 degrees
    const float u = std::abs(along), v = std::abs(aside);
    if (v <= kTan * u) return along > 0 ? 0 : 4;
    if (u <= kTan * v) return aside > 0 ? 2 : 6;
    if (along > 0) return aside > 0 ? 1 : 7;
    return aside > 0 ? 3 : 5;
}

/// A candidate at work: its pixels, its surroundings, its sums.
class Subject {
  public:
    Subject(const Level& level, const Residual& r, const Candidates& all, const Context& context,
            size_t index)
        : m_level(level),
          m_r(r),
          m_all(all),
          m_context(context),
          m_index(index),
          m_region(all.regions[index]),
          m_scale(float(1 << level.plan.level)) {}

    void fill(Features& f, Measures& m, Origin origin, Polarity polarity);

  private:
    void shape(Features& f, Measures& m);
    void walk();
    void strength(Features& f, Measures& m);
    void inside(Features& f, Measures& m, Origin origin, Polarity polarity);
    void ring(Features& f, const Ring& ring, Feature first);
    void windows(Features& f);
    void neighbours(Features& f);

    const Level& m_level;
    const Residual& m_r;
    const Candidates& m_all;
    const Context& m_context;
    size_t m_index;
    const Region& m_region;
    float m_scale, m_area = 0, m_turn = 0, m_side = 1;
    PointF m_centre;
    Point m_middle;
    Range m_toward, m_over, m_opacity;
    Sum m_plane, m_fine;
    Mean m_across, m_edge;
    std::array<Mean, 3> m_colour, m_back;
    Ring m_near, m_far;
    float m_widest = 0, m_core = 0;
};

/// Fine texture of a row of a plane: a pixel less the mean of its four neighbours; 0 at the
/// borders.
class Fine {
  public:
    Fine(const ImageF& p, int y) : m_row(p.ptr<float>(y)) {
        if (y < 1 || y + 1 >= p.rows) return;
        m_above = p.ptr<float>(y - 1);
        m_below = p.ptr<float>(y + 1);
        m_last = p.cols - 1;
    }
    float operator()(int x) const {
        if (x < 1 || x >= m_last) return 0;
        return m_row[x] - 0.25f * (m_row[x - 1] + m_row[x + 1] + m_above[x] + m_below[x]);
    }

  private:
    const float *m_row, *m_above = nullptr, *m_below = nullptr;
    int m_last = 0;
};

void Subject::shape(Features& f, Measures& m) {
    double sx = 0, sy = 0, xx = 0, yy = 0, xy = 0, n = 0;
    for (int y = 0; y < m_region.box.height; ++y) {
        const auto* row = m_region.mask.ptr<uchar>(y);
        for (int x = 0; x < m_region.box.width; ++x)
            if (row[x]) {
                n += 1;
                sx += x;
                sy += y;
                xx += double(x) * x;
                yy += double(y) * y;
                xy += double(x) * y;
            }
    }
    const double cx = sx / n, cy = sy / n;
    xx = xx / n - cx * cx + 1.0 / 12;
    yy = yy / n - cy * cy + 1.0 / 12;
    xy = xy / n - cx * cy;
    const double t = std::sqrt((xx - yy) * (xx - yy) / 4 + xy * xy);
    const double l1 = (xx + yy) / 2 + t, l2 = std::max((xx + yy) / 2 - t, 1.0 / 12);
    m_area = float(n);
    m_turn = float(0.5 * std::atan2(2 * xy, xx - yy));
    m_centre = {float(m_region.box.x + cx), float(m_region.box.y + cy)};
    m_middle = {std::clamp(int(m_centre.x + 0.5f), 0, m_r.toward.cols - 1),
                std::clamp(int(m_centre.y + 0.5f), 0, m_r.toward.rows - 1)};
    m.length = float(std::sqrt(12 * l1)) * m_scale;
    m.width = m_area * m_scale * m_scale / m.length;
    m.size = std::sqrt(m_area * 4 / kPi) * m_scale;
    f[LogArea] = std::log(m_area * m_scale * m_scale);
    f[Elongation] = float(std::sqrt(l1 / l2));
    f[Length] = m.length;
    f[Width] = m.width;
    f[EllipseFill] = m_area / (4 * kPi * float(std::sqrt(l1 * l2)));
    f[Uprightness] = std::abs(std::sin(m_turn));
    f[Scale] = float(m_level.plan.level);
    // Straight runs are as long as their box is across.
    const float across = std::hypot(float(m_region.box.width), float(m_region.box.height));
    f[Straightness] = m_area / std::max(across, 1.0f) / std::max(float(std::sqrt(12 * l2)), 1.0f);
}

/// One pass over the box and its surroundings collects all sums.
void Subject::walk() {
    const float first = m_level.plan.level < 2 ? 1.5f : 2.5f, middle = first + 3.5f,
                last = middle + 7;
    const Rect box = grown(m_region.box, int(last) + 1, m_all.labels.size());
    Mask outside(box.size(), CV_8U, cv::Scalar(255));
    outside(Rect(m_region.box.tl() - box.tl(), m_region.box.size())).setTo(0, m_region.mask);
    cv::Mat far;
    cv::distanceTransform(outside, far, cv::DIST_L2, 3);
    m_widest = float(inscribedRadius(m_region));
    const float peak = m_context.peaks()[m_index];
    const PointF along{std::cos(m_turn), std::sin(m_turn)}, aside{-along.y, along.x};
    const int channels = m_level.colour.channels();
    for (int y = 0; y < box.height; ++y) {
        const auto* d = far.ptr<float>(y);
        const int py = box.y + y;
        const auto* labels = m_all.labels.ptr<int>(py);
        const auto *toward = m_r.toward.ptr<float>(py), *noise = m_r.noise.ptr<float>(py / 2);
        const auto *across = m_r.across.ptr<float>(py), *opacity = m_r.opacity.ptr<float>(py);
        const auto *plane = m_level.plane.ptr<float>(py), *steep = m_level.gradient.ptr<float>(py);
        const Fine fine(m_level.plane, py);
        const auto* colour = m_level.colour.ptr<uchar>(py);
        const auto* back =
            m_level.backdrop.empty()
                ? nullptr
                : m_level.backdrop.ptr<uchar>(std::min(py / 2, m_level.backdrop.rows - 1));
        for (int x = 0; x < box.width; ++x) {
            const float far1 = d[x];
            if (far1 > last) continue;
            const int px = box.x + x;
            if (far1 == 0) {
                m_toward.add(toward[px]);
                m_over.add(toward[px] / noise[px / 2]);
                m_opacity.add(opacity[px]);
                m_across.add(across[px]);
                m_plane.add(plane[px]);
                m_fine.add(fine(px));
                m_core += toward[px] > 0.67f * peak;
                for (int c = 0; c < channels; ++c) {
                    m_colour[size_t(c)].add(float(colour[channels * px + c]) * (1 / 255.0f));
                    if (back)
                        m_back[size_t(c)].add(
                            float(
                                back[channels * std::min(px / 2, m_level.backdrop.cols - 1) + c]) *
                            (1 / 255.0f));
                }
                continue;
            }
            if (far1 <= 1.5f) m_edge.add(steep[px]);
            if (far1 <= first || labels[px] != 0) continue;
            const bool isNear = far1 <= middle;
            Ring& ring = isNear ? m_near : m_far;
            ring.plane.add(plane[px]);
            ring.toward.add(toward[px]);
            ring.size.add(std::abs(toward[px]));
            ring.gradient.add(steep[px]);
            ring.across.add(across[px]);
            if (isNear) ring.fine.add(fine(px));
            if (!back)
                for (int c = 0; c < channels; ++c)
                    m_back[size_t(c)].add(float(colour[channels * px + c]) * (1 / 255.0f));
            const PointF from = PointF(float(px), float(py)) - m_centre;
            ring.sectors[sectorOf(along.dot(from), aside.dot(from))].add(plane[px]);
        }
    }
}

void Subject::strength(Features& f, Measures& m) {
    const float own = std::max(m_toward.mean(), kTiny);
    m.peak = m_over.most();
    m.noise = m_r.noiseAt(m_middle);
    m.colour = m_across.mean() / own;
    f[Own] = own;
    f[Peak] = m_toward.most();
    f[OwnOverNoise] = m_over.mean();
    f[PeakOverNoise] = m_over.most();
    f[Opacity] = m_opacity.mean();
    f[PeakOpacity] = m_opacity.most();
    f[AcrossOverOwn] = m_across.mean() / own;
    f[Peakiness] = m_toward.most() / own;
    f[Ragged] = m_edge.n / std::sqrt(m_area);
    f[WidestPart] = 2 * m_widest * m_scale;
}

void Subject::inside(Features& f, Measures& m, Origin origin, Polarity polarity) {
    const float own = std::max(m_toward.mean(), 1e-3f);
    const auto spread = [&](const std::array<Mean, 3>& c) {
        return std::max({c[0].mean(), c[1].mean(), c[2].mean()}) -
               std::min({c[0].mean(), c[1].mean(), c[2].mean()});
    };
    const bool colour = m_level.colour.channels() == 3;
    const auto tone = [&](const std::array<Mean, 3>& c) {
        return colour ? (c[0].mean() + c[1].mean() + c[2].mean()) / 3 : c[0].mean();
    };
    f[Unevenness] = m_plane.deviation() / own;
    f[Saturation] = colour ? spread(m_colour) : 0;
    f[BackSaturation] = colour ? spread(m_back) : 0;
    f[SaturationChange] = f[Saturation] - f[BackSaturation];
    f[BackTone] = tone(m_back);
    f[Tone] = tone(m_colour);
    f[ToneExtreme] = f[Tone];
    if (colour)
        f[ToneExtreme] =
            polarity == Polarity::Light
                ? std::min({m_colour[0].mean(), m_colour[1].mean(), m_colour[2].mean()})
                : std::max({m_colour[0].mean(), m_colour[1].mean(), m_colour[2].mean()});
    f[Headroom] = origin == Origin::Sensor ? 0 : std::abs(toneOf(origin, polarity) - f[BackTone]);
    f[EdgeSteepness] = m_edge.mean() / own;
    f[TextureKept] = std::log((m_fine.deviation() + 2e-4f) / (m_near.fine.deviation() + 2e-4f));
    f[SoftCore] = m_core / m_area;
    m.softness = (std::sqrt(m_area) - std::sqrt(std::max(m_core, 1.0f))) * 0.5642f * m_scale;
}

void Subject::ring(Features& f, const Ring& ring, Feature first) {
    const float own = std::max(m_toward.mean(), 1e-3f);
    const float contrast = m_side * (m_plane.mean() - ring.plane.mean());
    const float safe = std::abs(contrast) + 0.01f;
    float* out = &f[first];
    out[0] = contrast;
    out[1] = ring.plane.deviation() / safe;
    out[2] = ring.plane.deviation();
    out[3] = ring.gradient.mean() / safe;
    out[4] = ring.toward.most() / own;
    out[5] = -ring.toward.least() / own;
    out[6] = ring.size.mean() / own;
    out[7] = ring.across.mean() / own;
    std::array<float, 8> over{};
    for (size_t k = 0; k < 8; ++k)
        over[k] = m_side *
                  (m_plane.mean() -
                   (ring.sectors[k].n > 0 ? ring.sectors[k].mean() : ring.plane.mean())) /
                  own;
    auto sorted = over;
    std::sort(sorted.begin(), sorted.end());
    out[8] = sorted[0];
    out[9] = sorted[7];
    out[10] = sorted[1];
    out[11] = std::min(over[0], over[4]);
    out[12] = std::abs(over[2] - over[6]);
}

void Subject::windows(Features& f) {
    const float own = std::max(m_toward.mean(), kTiny);
    const float sum = m_toward.s, square = m_toward.ss;
    for (size_t w = 0; w < 3; ++w) {
        const auto k = float(Context::kWindows[w]);
        const float n = k * k, all = m_context.size(m_middle, w) * n,
                    all2 = m_context.square(m_middle, w) * n, left = std::max(n - m_area, n * 0.1f);
        const float mean = (all - std::min(sum, all * 0.98f)) / left;
        const float rms = std::sqrt((all2 - std::min(square, all2 * 0.98f)) / left);
        float* out = &f[size_t(MeanSmall) + 3 * w];
        out[0] = own / (mean + 0.002f);
        out[1] = own / (rms + 0.002f);
        out[2] = rms / (mean + 0.002f);
        if (w < 2) f[GradientSmall + w] = f[Peak] / (m_context.gradient(m_middle, w) + 0.003f);
    }
    f[StrongestOther] = m_context.strongestOther(m_middle) / f[Peak];
    f[Noise] = m_r.noiseAt(m_middle);
}

void Subject::neighbours(Features& f) {
    for (size_t w = 0; w < 3; ++w) {
        f[CountNear + w] = m_context.count(m_middle, w) - 1;
        f[CrowdNear + w] = m_context.crowd(m_middle, w) / std::max(f[Peak], 1e-3f) - 1;
    }
    // Others that lie ahead or behind along this one's own run: parts of a longer line.
    const PointF along{std::cos(m_turn), std::sin(m_turn)};
    const float reach = 2 * std::max(m_region.box.width, m_region.box.height) + 10;
    float ahead = 0;
    for (const float side : {-1.0f, 1.0f})
        for (float step = reach * 0.3f; step <= reach; step += 2) {
            const Point p(int(m_centre.x + side * step * along.x),
                          int(m_centre.y + side * step * along.y));
            if (!Rect({0, 0}, m_all.labels.size()).contains(p)) break;
            const int l = m_all.labels.at<int>(p);
            if (l != 0 && l != int(m_index) + 1) {
                ahead += m_context.peaks()[size_t(l - 1)] / f[Peak];
                break;
            }
        }
    f[AlongOwnLine] = ahead;
    const Size size = m_all.labels.size();
    f[Monochrome] = m_level.mono;
    f[OverallNoise] = m_context.overallNoise();
    f[OverallCount] = float(m_all.regions.size()) / float(size.area()) * 1e4f;
    f[NearBorder] = float(std::min({m_middle.x, m_middle.y, size.width - 1 - m_middle.x,
                                    size.height - 1 - m_middle.y, 50})) *
                    m_scale;
}

void Subject::fill(Features& f, Measures& m, Origin origin, Polarity polarity) {
    m_side = polarity == Polarity::Light ? 1.0f : -1.0f;
    shape(f, m);
    walk();
    strength(f, m);
    inside(f, m, origin, polarity);
    ring(f, m_near, NearContrast);
    ring(f, m_far, FarContrast);
    windows(f);
    neighbours(f);
    m.contrast = f[NearContrast];
    m.ring = f[NearSpread];
    m.isolation = f[MeanMiddle];
    for (auto& v : f) v = std::isfinite(v) ? std::clamp(v, -1000.0f, 1000.0f) : 0.0f;
}

}  // namespace

Described describe(const Level& level, const Residual& r, const Candidates& all, Origin origin,
                   Polarity polarity, std::stop_token stop) {
    const Context context(level, r, all, stop);
    Described out;
    if (stop.stop_requested()) return out;
    out.features.resize(all.regions.size());
    out.measures.resize(all.regions.size());
    forEach(
        int(all.regions.size()),
        [&](int i) {
            Subject(level, r, all, context, size_t(i))
                .fill(out.features[size_t(i)], out.measures[size_t(i)], origin, polarity);
        },
        stop);
    return out;
}

}  // namespace gq::find
