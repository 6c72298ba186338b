#include "core/carry/shadow_series.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/carry/openings.h"
#include "core/carry/sheet.h"
#include "core/carry/slopes.h"
#include "core/carry/softening.h"
#include "core/pixels/parallel.h"
#include "core/pixels/thickness.h"

namespace gq::carry {
namespace {

constexpr size_t kMostSightings = 24;
constexpr int kFewest = 3, kRing = 12;
constexpr float kNews = 0.5f;  ///< of a place; a frame with less of it shows a known scene
constexpr std::array<float, 7> kSpreads{0, 12, 22, 34, 50, 72, 100};  ///< px times f-number
constexpr int kTrySteps = 8, kSteps = 40, kLastSteps = 10;
constexpr int kRounds = 3;        ///< of telling the frames' openings
constexpr double kBetter = 1.02;  ///< times the log likelihood before; less is not worth it
constexpr int kLarge = 80;        ///< px; larger places are fitted at half their size first
constexpr float kHuber = 1.5f;    ///< spreads beyond which a frame's say is limited

const Size kAnywhere(1 << 30, 1 << 30);  ///< places may lie near the sensor's edge

/// How far outside a spot's outline its penumbra may reach: by how thick it is, so that a hair does
/// not hide the ground beside it.
int reachOf(const Region& region) {
    return std::clamp(12 + int(2 * inscribedRadius(region)) / 3, 12, 44);
}

Mask coverOf(const Region& region, const Rect& box, int reach) {
    Mask cover(box.size(), CV_8U, cv::Scalar(0));
    const Region wide = grown(region, reach, kAnywhere);
    const Rect in = wide.box & box;
    if (!in.empty())
        wide.mask(Rect(in.tl() - wide.box.tl(), in.size()))
            .copyTo(cover(Rect(in.tl() - box.tl(), in.size())));
    return cover;
}

/// 1 inside, falling to 0 at the cover's edge, so that a shadow ends where nothing is known of it.
ImageF taperOf(const Mask& cover, float width) {
    ImageF taper;
    Mask padded;
    cv::copyMakeBorder(cover, padded, 1, 1, 1, 1, cv::BORDER_CONSTANT, cv::Scalar(0));
    cv::distanceTransform(padded, taper, cv::DIST_L2, 5);
    taper = ImageF(taper(Rect(1, 1, cover.cols, cover.rows))) / width;
    return cv::min(taper, 1.0f);
}

/// What all frames of one opening say together.
struct Group {
    double aperture = 0;
    ImageF logs, weight;
};

/// Least squares for the share held back at the smallest opening.
class Fit {
  public:
    /// `shrink`: full-size pixels a pixel of the groups.
    Fit(const std::vector<Group>& groups, double smallest, const ImageF& taper, int shrink = 1)
        : m_groups(groups), m_smallest(smallest), m_taper(taper), m_shrink(float(shrink)) {}

    void run(ImageF& held, float spread, int steps) const {
        const int count = int(held.total());
        ImageF error(held.size(), CV_32F), pull(held.size(), CV_32F, cv::Scalar(0));
        std::vector<Softening> soften;
        for (const auto& g : m_groups) {
            soften.emplace_back(sigmaAt(spread / m_shrink, m_smallest, g.aperture));
            pull += soften.back()(g.weight);
        }
        ImageF before = held.clone();  // the step before, whose course is kept on (Nesterov, 1983)
        for (int i = 0; i < steps; ++i) {
            ImageF push(held.size(), CV_32F, cv::Scalar(0));
            for (size_t k = 0; k < m_groups.size(); ++k) {
                const Group& g = m_groups[k];
                const ImageF here = soften[k](held), through = logThrough(here);
                const auto *h = here.ptr<float>(), *l = g.logs.ptr<float>(),
                           *t = through.ptr<float>(), *w = g.weight.ptr<float>();
                auto* e = error.ptr<float>();
#pragma omp simd
                for (int p = 0; p < count; ++p) e[p] = w[p] * (t[p] - l[p]) * (1 - h[p]);
                push += soften[k](error);
            }
            const auto *a = push.ptr<float>(), *b = pull.ptr<float>(), *t = m_taper.ptr<float>();
            auto *h = held.ptr<float>(), *last = before.ptr<float>();
            const float keep = i + 1 < steps ? float(i) / float(i + 3) : 0;
#pragma omp simd
            for (int p = 0; p < count; ++p) {
                const float now =
                    std::min(std::max(h[p] + a[p] / (b[p] + 1e-6f), 0.0f), kMostHeld) * t[p];
                h[p] = now + keep * (now - last[p]);
                last[p] = now;
            }
        }
    }

    [[nodiscard]] double loss(const ImageF& held, float spread) const {
        double sum = 0;
        for (const auto& g : m_groups) {
            const ImageF through =
                logThrough(Softening(sigmaAt(spread / m_shrink, m_smallest, g.aperture))(held));
            for (size_t p = 0; p < held.total(); ++p) {
                const float off = through.ptr<float>()[p] - g.logs.ptr<float>()[p];
                sum += double(g.weight.ptr<float>()[p] * off * off);
            }
        }
        return sum;
    }

  private:
    static constexpr float kMostHeld = 0.95f;
    static ImageF logThrough(const ImageF& held) {
        ImageF out = cv::max(ImageF(1 - held), 1 - kMostHeld);
        cv::log(out, out);
        return out;
    }

    const std::vector<Group>& m_groups;
    double m_smallest;
    const ImageF& m_taper;
    float m_shrink;
};

ImageF shrunk(const ImageF& plane, int by) {
    if (by == 1) return plane;
    ImageF out;
    cv::resize(plane, out, {}, 1.0 / by, 1.0 / by, cv::INTER_AREA);
    return out;
}

std::vector<Group> shrunk(const std::vector<Group>& groups, int by) {
    if (by == 1) return groups;
    std::vector<Group> out;
    for (const auto& g : groups) {
        const ImageF weight = shrunk(g.weight, by);
        const ImageF sums = shrunk(ImageF(g.logs.mul(g.weight)), by);
        out.push_back({g.aperture, sums / (weight + 1e-9f), weight});
    }
    return out;
}

}  // namespace

ShadowSeries::ShadowSeries(std::vector<Region> places) {
    std::vector<int> reach;
    for (auto& region : places) {
        reach.push_back(reachOf(region));
        const int margin = reach.back() + kRing;
        Place place;
        place.box = Rect(region.box.x - margin, region.box.y - margin,
                         region.box.width + 2 * margin, region.box.height + 2 * margin);
        place.region = std::move(region);
        m_places.push_back(std::move(place));
    }
    for (auto& place : m_places) {
        place.cover = Mask::zeros(place.box.size(), CV_8U);
        for (size_t i = 0; i < m_places.size(); ++i) {
            const Region& other = m_places[i].region;
            if (!(grown(other.box, reach[i], kAnywhere) & place.box).empty())
                place.cover |= coverOf(other, place.box, reach[i]);
        }
    }
}

void ShadowSeries::add(const Image& pixels, const series::Frame& frame) {
    const size_t number = m_frames++;
    m_told = m_told || frame.aperture > 0;
    SceneView view = sceneViewOf(pixels, frame.geometry);
    const News news = m_scenes.newsIn(view);
    m_scenes.add(std::move(view));
    forEach(int(m_places.size()), [&](int i) {
        Place& place = m_places[size_t(i)];
        const Size sensor = frame.geometry.sensorSize();
        const Rect& box = place.region.box;
        const double across = double(place.region.area()) / std::max(box.width, box.height);
        const ImageF& here = newsOf(news, across, sensor);
        if (meanAt(here, place.box, sensor) < kNews) return;
        auto d = departureAt(pixels, frame.geometry, place.box, place.cover);
        if (!d.told) return;
        ImageF near = cv::max(spreadNear(d), kLeastNoise);
        Sighting s{d.logs,         d.trust,     near,  std::hypot(d.noise, kLeastNoise),
                   frame.aperture, frame.taken, number};
        if (place.seen.size() < kMostSightings) {
            place.seen.push_back(std::move(s));
            return;
        }
        auto worst =
            std::max_element(place.seen.begin(), place.seen.end(),
                             [](const auto& a, const auto& b) { return a.noise < b.noise; });
        if (s.noise < worst->noise) *worst = std::move(s);
    });
}

namespace {

struct Weighed {
    float value, weight;
};

float weightedMedian(std::vector<Weighed>& all) {
    std::sort(all.begin(), all.end(),
              [](const Weighed& a, const Weighed& b) { return a.value < b.value; });
    float total = 0, so = 0;
    for (const auto& w : all) total += w.weight;
    for (const auto& w : all)
        if ((so += w.weight) >= total / 2) return w.value;
    return 0;
}

/// Frames of like openings (a sixth of a stop) put together: each pixel the Huber mean about what
/// `expected` foretells there.
template <class Sighting, class Expected>
std::vector<Group> grouped(const std::vector<Sighting>& seen, Expected expected) {
    std::vector<Group> out;
    std::vector<const Sighting*> order;
    for (const auto& s : seen) order.push_back(&s);
    std::stable_sort(order.begin(), order.end(),
                     [](const auto* a, const auto* b) { return a->aperture > b->aperture; });
    for (const auto* s : order) {
        if (out.empty() || s->aperture < 0.94 * out.back().aperture) {
            out.push_back({s->aperture, ImageF::zeros(s->logs.size(), CV_32F),
                           ImageF::zeros(s->logs.size(), CV_32F)});
        }
        Group& g = out.back();
        const ImageF mean = expected(g.aperture);
        for (size_t p = 0; p < g.logs.total(); ++p) {
            const float v = s->logs.template ptr<float>()[p], n = s->near.template ptr<float>()[p],
                        off = std::abs(v - mean.ptr<float>()[p]) / n;
            const float w = s->trust.template ptr<float>()[p] / (n * n) *
                            (off > kHuber ? kHuber / off : 1.0f) * 1e-4f;
            g.logs.ptr<float>()[p] += w * v;
            g.weight.ptr<float>()[p] += w;
        }
    }
    for (auto& g : out)
        for (size_t p = 0; p < g.logs.total(); ++p)
            g.logs.ptr<float>()[p] /= g.weight.ptr<float>()[p] + 1e-9f;
    return out;
}

}  // namespace

Mask ShadowSeries::cellOf(const Place& place) const {
    const auto distanceTo = [&](const Region& region) {
        ImageF distance;
        cv::distanceTransform(coverOf(region, place.box, 0) == 0, distance, cv::DIST_L2, 3);
        return distance;
    };
    const ImageF own = distanceTo(place.region);
    Mask cell = own < 1e6f;
    for (const auto& other : m_places)
        if (&other != &place && !(other.region.box & place.box).empty()) {
            const ImageF far = distanceTo(other.region);
            // What is as near to both belongs to the first.
            cell &= &other < &place ? own < far : own <= far;
        }
    return cell;
}

Shadow ShadowSeries::solve(const Place& place) const {
    Shadow out;
    if (int(place.seen.size()) < kFewest) return out;
    out.box = place.box;
    out.frames = int(place.seen.size());
    for (const auto& s : place.seen) out.aperture = std::max(out.aperture, s.aperture);
    const ImageF taper = taperOf(place.cover, 4);
    // A first guess without softening: the weighted median of all frames.
    ImageF middle(place.box.size(), CV_32F);
    std::vector<Weighed> all(place.seen.size());
    for (size_t p = 0; p < middle.total(); ++p) {
        for (size_t i = 0; i < all.size(); ++i) {
            const auto& s = place.seen[i];
            const float n = s.near.ptr<float>()[p];
            all[i] = {s.logs.ptr<float>()[p], s.trust.ptr<float>()[p] / (n * n)};
        }
        middle.ptr<float>()[p] = weightedMedian(all);
    }
    auto groups = grouped(place.seen, [&](double) { return middle; });
    ImageF start;
    cv::exp(middle, start);
    start = ImageF(cv::max(ImageF(1 - start), 0.0f)).mul(taper);
    double best = 1e300;
    const size_t tries = groups.size() > 1 && out.aperture > 0 ? kSpreads.size() : 1;
    const int shrink = place.box.area() > kLarge * kLarge ? 2 : 1;
    const auto coarse = shrunk(groups, shrink);
    const ImageF coarseTaper = shrunk(taper, shrink);
    start = shrunk(start, shrink);
    const Fit fit(coarse, out.aperture, coarseTaper, shrink);
    int worse = 0;  // in a row; two are over the best
    for (size_t i = 0; i < tries && worse < 2; ++i) {
        ImageF held = start.clone();
        fit.run(held, kSpreads[i], kTrySteps);
        ++worse;
        if (const double loss = fit.loss(held, kSpreads[i]); loss < 0.995 * best) {
            worse = 0;
            best = loss;
            out.spread = kSpreads[i];
            out.held = held;
        }
    }
    if (shrink > 1) {
        Fit(coarse, out.aperture, coarseTaper, shrink).run(out.held, out.spread, kSteps);
        cv::resize(out.held, out.held, place.box.size(), 0, 0, cv::INTER_LINEAR);
    }
    groups = grouped(place.seen, [&](double aperture) { return logShareAt(out, aperture); });
    Fit(groups, out.aperture, taper).run(out.held, out.spread, shrink > 1 ? kLastSteps : kSteps);
    out.held = Softening(kLearntBlur)(out.held);
    out.held.setTo(0, (out.held < kLeastShare / 2) | (cellOf(place) == 0));
    // Spread of the frames about it, over the root of their number.
    ImageF square = ImageF::zeros(place.box.size(), CV_32F), weight = square.clone();
    for (const auto& s : place.seen) {
        const ImageF known = logShareAt(out, s.aperture);
        const Departure seen{.logs = s.logs, .trust = s.trust};
        out.witnesses.push_back(
            {s.taken, Slopes(seen, known < std::log(1 - kLeastShare)).match(known).evidence});
        for (size_t p = 0; p < square.total(); ++p) {
            const float off = s.logs.ptr<float>()[p] - known.ptr<float>()[p],
                        n = s.near.ptr<float>()[p], w = s.trust.ptr<float>()[p] / (n * n);
            square.ptr<float>()[p] += w * std::min(off * off, 9 * n * n);
            weight.ptr<float>()[p] += w;
        }
    }
    out.doubt.create(place.box.size(), CV_32F);
    for (size_t p = 0; p < square.total(); ++p)
        out.doubt.ptr<float>()[p] =
            weight.ptr<float>()[p] > 0
                ? std::sqrt(square.ptr<float>()[p] / weight.ptr<float>()[p] / float(out.frames))
                : 1.0f;
    return out;
}

Result<std::vector<Shadow>> ShadowSeries::solveAll(std::stop_token stop) const {
    std::vector<Shadow> out(m_places.size());
    if (!forEach(
            int(m_places.size()), [&](int i) { out[size_t(i)] = solve(m_places[size_t(i)]); },
            stop))
        return cancelled();
    return out;
}

ShadowSeries::Openings ShadowSeries::openingsBy(const std::vector<Shadow>& shadows,
                                                std::stop_token stop) const {
    std::vector<std::vector<OpeningsTold>> told(m_places.size());  // by place and sighting
    forEach(
        int(m_places.size()),
        [&](int i) {
            const Shadow& shadow = shadows[size_t(i)];
            if (shadow.empty()) return;
            const OpeningTries tries(shadow);
            for (const auto& s : m_places[size_t(i)].seen)
                told[size_t(i)].push_back(tries.told(s.logs, s.trust));
        },
        stop);
    std::vector<OpeningsTold> sums(m_frames, OpeningsTold{});
    for (size_t i = 0; i < told.size(); ++i)
        for (size_t k = 0; k < told[i].size(); ++k)
            for (size_t n = 0; n < kOpenings.size(); ++n)
                sums[m_places[i].seen[k].frame][n] += told[i][k][n];
    Openings out;
    for (const auto& by : sums) {
        const auto best = std::max_element(by.begin(), by.end());
        out.apertures.push_back(kOpenings[size_t(best - by.begin())]);
        out.told += *best;
    }
    return out;
}

Result<std::vector<Shadow>> ShadowSeries::solved(std::stop_token stop) {
    auto out = solveAll(stop);
    if (m_told || !out) return out;
    auto openings = openingsBy(*out, stop);
    for (int round = 0; round < kRounds; ++round) {
        for (auto& place : m_places)
            for (auto& s : place.seen) s.aperture = openings.apertures[s.frame];
        auto better = solveAll(stop);
        if (!better) return better;
        auto then = openingsBy(*better, stop);
        if (then.told < kBetter * openings.told) break;
        out = std::move(better);
        openings = std::move(then);
    }
    for (auto& shadow : *out) shadow.aperture = 0;
    return out;
}

}  // namespace gq::carry
