#include "core/carry/chart.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/carry/shadow_series.h"
#include "core/carry/sheet.h"
#include "core/pixels/pyramid.h"

namespace gq::carry {
namespace {

constexpr double kFalse = 0.1;  ///< spots a megapixel of the chart that may be chance
constexpr size_t kBroadViews = 24;
constexpr double kSide = 7;          ///< px across a spot at the level that tells it best
constexpr double kMostlyNew = 0.7;   ///< of a frame's news
constexpr float kProof = 5.5f;       ///< noise units, of three spots; chance reached 4.9
constexpr double kLeastTold = 0.02;  ///< of the sensor; what is less tells nothing

/// The frame's pixels as they lie on the sensor that `first` shows; at half its size if they are.
Image onSensor(const Image& pixels, const series::Frame& first, const series::Frame& frame) {
    const Size sensor = first.geometry.sensorSize();
    const FrameGeometry g = laidOn(sensor, frame).geometry;
    const bool half = pixels.cols < g.stored.width;
    const Size size = half ? Size(sensor.width / 2, sensor.height / 2) : sensor;
    if (g.stored == sensor && g.storedTurn == Orientation::Upright)
        return pixels(Rect({0, 0}, size));
    cv::Matx23d map = sensorToStored(g, {0, 0}, {0, 0});
    if (half)  // pixel centres lie at whole numbers plus a half
        for (int i = 0; i < 2; ++i) map(i, 2) = (map(i, 2) + (map(i, 0) + map(i, 1) - 1) / 2) / 2;
    Image out;
    cv::warpAffine(pixels, out, map, size, cv::INTER_LINEAR | cv::WARP_INVERSE_MAP,
                   cv::BORDER_REPLICATE);
    return out;
}

/// A plane of the sensor, zero where the frame does not reach.
ImageF within(const Rect& reach, const Size& sensor, const ImageF& plane) {
    const double kx = double(plane.cols) / sensor.width, ky = double(plane.rows) / sensor.height;
    const auto scaled = [&](const Point& p) {
        return Point(int(std::lround(p.x * kx)), int(std::lround(p.y * ky)));
    };
    const Rect in = Rect(scaled(reach.tl()), scaled(reach.br()));
    ImageF out = ImageF::zeros(plane.size(), CV_32F);
    plane(in).copyTo(out(in));
    return out;
}

std::vector<find::LevelPlan> levelsOf(const series::Frame& first) {
    return find::levelsOf(find::Origin::Sensor, first.geometry.sensorSize());
}

Region scaledUp(const Region& r, int level) {
    const int k = 1 << level;
    Mask padded, large;
    cv::copyMakeBorder(r.mask, padded, 1, 1, 1, 1, cv::BORDER_CONSTANT, cv::Scalar(0));
    cv::resize(padded, large, {}, k, k, cv::INTER_LINEAR);
    return regionOf(Mask(large > 110), {(r.box.x - 1) * k, (r.box.y - 1) * k});
}

Region cut(const Region& r, const Size& size) {
    const Rect in = r.box & Rect({0, 0}, size);
    if (in == r.box || in.empty()) return in.empty() ? Region{} : r;
    return regionOf(r.mask(Rect(in.tl() - r.box.tl(), in.size())), in.tl());
}

}  // namespace

bool DustChart::isOf(const series::Frame& frame) const {
    return frame.camera == camera && laidOn(sensor, frame).geometry.sensorSize() == sensor;
}

bool DustChart::tellsOf(const Rect& box) const {
    return told.empty() || toldAt(box) > Agreement::kFewest;
}

bool DustChart::showsOneSensor() const {
    return std::ranges::count_if(spots, [](const auto& s) { return s.score > kProof; }) > 2;
}

float DustChart::toldAt(const Rect& box) const {
    return told.empty() ? float(frames) : meanAt(told, box, sensor);
}

bool Consensus::halfIsEnough(const series::Frame& first) {
    return levelsOf(first).front().level > 0;
}

Result<Consensus::Say> Consensus::listen(const Image& pixels, const series::Frame& first,
                                         const series::Frame& frame, std::stop_token stop) {
    if (const std::string why = refusal(first, frame); !why.empty())
        return fail(Error::Kind::Refused, why, frame.file.string(),
                    "Make a chart of its own camera.");
    Image level = onSensor(pixels, first, frame);
    Say out{laidOn(first.geometry.sensorSize(), frame), {}, find::broadViewOf(level), {}};
    Image small = level;  // all that a view of the scene needs
    int at = level.cols < first.geometry.sensorSize().width ? 1 : 0;
    for (const auto& plan : levelsOf(first)) {
        for (; at < plan.level; ++at) level = halved(level);
        if (std::max(level.cols, level.rows) >= kSceneSide) small = level;
        const auto here = find::tonesOf(level, plan, stop);
        if (stop.stop_requested()) return cancelled();
        auto held = find::heldBack(here, stop);
        if (stop.stop_requested()) return cancelled();
        out.held.push_back(std::move(held));
    }
    FrameGeometry sensor;
    sensor.stored = first.geometry.sensorSize();
    out.scene = sceneViewOf(small, sensor);
    return out;
}

void Consensus::add(const Say& say) {
    if (m_frames == 0) {
        m_first = say.frame;
        m_first.findings.clear();
        m_first.mends.clear();
        m_levels.resize(say.held.size());
    }
    News all = m_scenes.newsIn(say.scene);
    m_scenes.add(say.scene);
    const FrameGeometry& g = say.frame.geometry;
    const Size sensor = g.sensorSize();
    const Rect whole({0, 0}, sensor), reach = g.boxToSensor(Rect({0, 0}, g.stored)) & whole;
    if (reach != whole)
        for (auto& news : all) news = within(reach, sensor, news);
    if (m_told.empty()) m_told = ImageF::zeros(all.front().size(), CV_32F);
    m_told += all.front();
    const auto plans = levelsOf(m_first);
    for (size_t i = 0; i < m_levels.size(); ++i) {
        const auto& [light, noise] = say.held[i];
        const ImageF& news = newsOf(all, kSide * double(1 << plans[i].level), sensor);
        double least = 0;
        cv::minMaxLoc(news, &least);
        ImageF here;
        if (least < 1) cv::resize(news, here, light.size(), 0, 0, cv::INTER_LINEAR);
        if (reach != whole) here = within(reach, sensor, here);
        m_levels[i].add(light, noise, here);
    }
    if (m_broad.size() < kBroadViews && cv::mean(all.back())[0] > kMostlyNew)
        m_broad.push_back(say.broad);
    ++m_frames;
    auto& f = m_facts;
    if (!say.frame.taken.empty()) {
        if (f.first.empty() || say.frame.taken < f.first) f.first = say.frame.taken;
        f.last = std::max(f.last, say.frame.taken);
    }
    if (say.frame.aperture > 0) {
        f.widest = f.widest > 0 ? std::min(f.widest, say.frame.aperture) : say.frame.aperture;
        f.narrowest = std::max(f.narrowest, say.frame.aperture);
    }
}

Status Consensus::add(const Image& pixels, const series::Frame& frame, std::stop_token stop) {
    const auto say = listen(pixels, m_frames == 0 ? frame : m_first, frame, stop);
    if (!say) return tl::unexpected(say.error());
    add(*say);
    return {};
}

/// Known spots that none of the chart's own meets: what the frames show of them after all, and what
/// they cannot tell of.
void Consensus::addKnown(const DustChart& known, DustChart& chart) const {
    constexpr float kLess = 0.4f;           // of the known depth: another aperture, but still there
    constexpr float kShown = 3, kGone = 2;  // spreads
    if (known.camera != chart.camera || known.sensor != chart.sensor) return;
    const auto plans = levelsOf(m_first);
    for (const auto& spot : known.spots) {
        const bool met = std::any_of(chart.spots.begin(), chart.spots.end(), [&](const auto& own) {
            return meets(grown(spot.region, kSlack, chart.sensor), own.region);
        });
        if (met) continue;
        const auto apart = [&](const find::LevelPlan& plan) {
            return std::abs(std::log2(std::sqrt(spot.region.area()) / kSide) - plan.level);
        };
        const auto best =
            std::min_element(plans.begin(), plans.end(),
                             [&](const auto& a, const auto& b) { return apart(a) < apart(b); });
        Region there = reduced(spot.region, best->level);
        there.mask = there.mask > 127;
        const auto [depth, spread] = m_levels[size_t(best - plans.begin())].weighed(there);
        const float least = -kLess * std::log(1 - std::min(spot.depth, 0.99f));
        ChartSpot now = spot;
        if (spread > 0 && depth > std::max(least, kShown * spread)) {
            now.depth = 1 - std::exp(-depth);
            now.score = depth / spread;
            chart.spots.push_back(std::move(now));
        } else if (spread <= 0 || depth > least - kGone * spread) {
            chart.untold.push_back(std::move(now));
        }
    }
}

bool Consensus::isOfOneScene() const {
    return m_frames >= 3 &&
           cv::countNonZero(m_told > Agreement::kFewest) < kLeastTold * double(m_told.total());
}

Result<DustChart> Consensus::chart(const DustChart* known) const {
    if (m_frames < 3)
        return fail(Error::Kind::BadSetting, "a chart needs at least three frames of one camera",
                    {}, "Add more frames of the series.");
    DustChart out = m_facts;
    out.told = m_told;
    if (isOfOneScene())
        return fail(Error::Kind::BadSetting,
                    "these frames show the same scene, whose details cannot be told from dust", {},
                    "Add frames of other scenes from the same camera: three at least.");
    out.camera = m_first.camera;
    out.sensor = m_first.geometry.sensorSize();
    out.frames = m_frames;
    Mask taken(out.sensor, CV_8U, cv::Scalar(0));
    std::vector<ChartSpot> spots;
    const auto plans = levelsOf(m_first);
    const double borne = kFalse * out.sensor.area() * 1e-6 / double(m_levels.size());
    for (size_t i = 0; i < m_levels.size(); ++i)
        for (const auto& place : m_levels[i].places(borne)) {
            ChartSpot spot{cut(scaledUp(place.region, plans[i].level), out.sensor),
                           1 - std::exp(-place.depth),
                           int(std::lround(place.seen)),
                           place.peak,
                           {}};
            if (!spot.region.empty()) spots.push_back(std::move(spot));
        }
    std::stable_sort(spots.begin(), spots.end(),
                     [](const auto& a, const auto& b) { return a.score > b.score; });
    for (auto& s : spots) {
        Mask both;
        cv::bitwise_and(taken(s.region.box), s.region.mask, both);
        if (cv::countNonZero(both) > 0.15 * s.region.area()) continue;
        paint(taken, grown(s.region, 3, out.sensor));
        out.spots.push_back(std::move(s));
    }
    if (known) addKnown(*known, out);
    out.hazes = find::sharedHazes(m_broad, out.sensor);
    return out;
}

Result<DustChart> chartOf(const series::Frame& reference,
                          const std::vector<series::FramePtr>& frames, const PixelSource& pixels,
                          const Progress& progress, std::stop_token stop, const DustChart* known) {
    Consensus consensus;
    const auto picked = evenlyPicked(frames);
    const bool all = inOrder(
        int(picked.size()),
        [&](int i) -> Result<Consensus::Say> {
            const auto& frame = *picked[size_t(i)];
            if (const std::string why = refusal(reference, frame); !why.empty())
                return fail(Error::Kind::Refused, why);
            const auto image = pixels(frame, stop);
            if (!image) return tl::unexpected(image.error());
            return Consensus::listen(*image, reference, frame, stop);
        },
        [&](int i, const Result<Consensus::Say>& say) {
            if (say) consensus.add(*say);
            if (progress) progress(double(i + 1) / double(picked.size()));
        },
        stop);
    if (!all) return cancelled();
    return consensus.chart(known);
}

mend::Mend healedPlace(const Region& place, const Size& picture) {
    mend::Mend m;
    m.region = grown(place, std::max(2, int(std::sqrt(float(place.area())) / 5)), picture);
    m.softness = 3;
    return m;
}

series::Frame asReference(const DustChart& chart, series::Id firstId) {
    series::Frame f;
    f.id = kChartFrame;
    f.camera = chart.camera;
    f.geometry.stored = chart.sensor;
    series::Id id = firstId;
    for (const auto& s : chart.spots)
        f.mends.push_back({id++, healedPlace(s.region, chart.sensor), 0, false});
    return f;
}

series::Frame withChartMends(const series::Frame& frame, const DustChart& chart,
                             series::Id& nextId) {
    series::Frame out = frame;
    FrameGeometry sensor;
    sensor.stored = chart.sensor;
    for (const auto& s : chart.spots) {
        mend::Mend m = healedPlace(s.region, chart.sensor);
        m.region = carried(m.region, sensor, laidOn(chart.sensor, frame).geometry);
        const bool met = std::any_of(frame.mends.begin(), frame.mends.end(), [&](const auto& own) {
            return meets(own.mend.region, m.region);
        });
        if (!m.region.empty() && !met) out.mends.push_back({nextId++, std::move(m), 0, false});
    }
    return out;
}

Shadows shadowsOf(const DustChart& chart, series::Id firstId) {
    Shadows out;
    series::Id id = firstId;
    for (const auto& s : chart.spots) {
        if (!s.shadow.empty()) out[id] = s.shadow;
        ++id;
    }
    return out;
}

Result<DustChart> withShadows(DustChart chart, const std::vector<series::FramePtr>& frames,
                              const PixelSource& pixels, const Progress& progress,
                              std::stop_token stop) {
    std::vector<Region> places;
    std::vector<ChartSpot*> unknown;
    for (auto& s : chart.spots)
        if (s.shadow.empty()) places.push_back(s.region), unknown.push_back(&s);
    if (places.empty()) return chart;
    ShadowSeries shadows(places);
    const auto picked = evenlyPicked(frames);
    const bool all = inOrder(
        int(picked.size()), [&](int i) { return pixels(*picked[size_t(i)], stop); },
        [&](int i, const Result<Image>& image) {
            if (image) shadows.add(*image, laidOn(chart.sensor, *picked[size_t(i)]));
            if (progress) progress(double(i + 1) / double(picked.size()));
        },
        stop);
    if (!all) return cancelled();
    auto solved = shadows.solved(stop);
    if (!solved) return tl::unexpected(solved.error());
    for (size_t i = 0; i < unknown.size(); ++i) unknown[i]->shadow = std::move((*solved)[i]);
    return chart;
}

}  // namespace gq::carry
