#include "desk/document/crops.h"

#include <opencv2/imgproc.hpp>
#include <set>

#include "core/carry/charted_mends.h"
#include "core/render/export.h"
#include "core/render/mend_findings.h"
#include "core/series/avoided.h"
#include "desk/look/convert.h"

namespace gq::desk {
namespace {

std::uint64_t keyOf(const series::Frame& frame, const Region& region,
                    const series::MendEntry* mend) {
    std::uint64_t k = mend::hashBytes(frame.hash.data(), frame.hash.size());
    if (frame.inversion)
        k = mend::hashBytes(&*frame.inversion, offsetof(film::Inversion, monochrome), k);
    k = mend::hashBytes(&region.box, sizeof region.box, k);
    const std::uint64_t m = mend && !mend->muted ? mend::contentKey(mend->mend) : 0;
    return mend::hashBytes(&m, sizeof m, k);
}

/// How a crop's tones are spread, so that faint shadows show: about its mean, at most threefold.
struct Spread {
    cv::Scalar mean;
    double gain = 1;
};

Spread spreadOf(const Image& pixels, const Rect& box) {
    cv::Scalar mean, deviation;
    cv::meanStdDev(pixels(box), mean, deviation);
    return {mean, std::clamp(
                      9000.0 / (6 * cv::max(deviation[0], cv::max(deviation[1], deviation[2])) + 1),
                      1.0, 3.0)};
}

QImage cut(const Image& crop, const Spread& spread, const series::Frame& frame) {
    Image part, scaled;
    cv::resize(crop, part, {Crops::kSide, Crops::kSide}, 0, 0,
               crop.cols > Crops::kSide ? cv::INTER_AREA : cv::INTER_LINEAR);
    if (frame.inversion) {
        part = film::inverted(part, *frame.inversion);
        return upright(toQImage(narrow(asColour(part))), frame.geometry.orientation);
    }
    cv::addWeighted(part, spread.gain, Image(part.size(), part.type(), spread.mean),
                    1 - spread.gain, 0, scaled);
    return upright(toQImage(narrow(asColour(scaled))), frame.geometry.orientation);
}

/// The place with the mend laid; null if it cannot be made.
QImage mendedCrop(const Image& pixels, const mend::Mend& mend, const std::vector<Region>& avoid,
                  const Rect& box, const Spread& spread, const series::Frame& frame,
                  std::stop_token stop) {
    const auto patch = mend::makePatch({pixels, avoid}, mend, stop);
    if (!patch) return {};
    Image part = pixels(box).clone();
    mend::lay(*patch, part, box.tl());
    return cut(part, spread, frame);
}

struct Wanted {
    std::uint64_t key;
    Region region;
    std::optional<mend::Mend> mend;            ///< laid for the second crop
    std::optional<series::FindingEntry> open;  ///< no mend yet: show what one would give
    series::Id id = 0;
};

using KeyedPairs = std::vector<std::pair<std::uint64_t, Crops::Pair>>;

KeyedPairs makePairs(const Image& pixels, const render::Composition& composed,
                     const series::Frame& frame, const std::vector<Wanted>& wanted, float line,
                     const DeskDocument::Charts& charts, std::stop_token stop) {
    KeyedPairs out(wanted.size());
    std::optional<series::Avoided> avoided;  // made when it is first needed
    const carry::ChartedMends charted(frame, charts);
    const auto mendOf = [&](const series::FindingEntry& open) {
        auto divided = charted.of(open, pixels);
        return divided ? std::move(divided->mend) : render::mendFor(pixels, open.finding);
    };
    // On one thread: another core stays free to draw what is there already.
    for (size_t i = 0; i < wanted.size() && !stop.stop_requested(); ++i) {
        const Wanted& w = wanted[i];
        const Rect box = cropBox(w.region, pixels.size());
        const Spread spread = spreadOf(pixels, box);
        Crops::Pair pair{cut(pixels(box), spread, frame), {}};
        if (!composed.empty() && w.mend)
            pair.after = cut(composed.part(box), spread, frame);
        else if (w.mend || w.open) {
            if (!avoided) avoided.emplace(frame, line);
            auto [laid, avoid] = avoided->laid(w.id, w.mend ? *w.mend : mendOf(*w.open));
            // Neither itself nor what it lies in, such as a speck on a stain.
            std::erase_if(avoid, [&](const Region& r) { return meets(r, w.region); });
            if (!laid.region.empty())
                pair.after = mendedCrop(pixels, laid, avoid, box, spread, frame, stop);
        }
        if (stop.stop_requested()) break;
        out[i] = {w.key, std::move(pair)};
    }
    return out;
}

/// The inside pixel nearest to the box's middle.
Point middleOf(const Region& region) {
    const Point middle(region.box.width / 2, region.box.height / 2);
    Point best = middle;
    int nearest = 1 << 30;
    for (int y = 0; y < region.mask.rows; ++y)
        for (int x = 0; x < region.mask.cols; ++x) {
            const Point d = Point(x, y) - middle;
            if (region.mask.at<uchar>(y, x) && d.dot(d) < nearest)
                nearest = d.dot(d), best = {x, y};
        }
    return region.box.tl() + best;
}

}  // namespace

Rect cropBox(const Region& region, const Size& picture) {
    constexpr int kLeast = 36, kMost = 600, kOfLong = 160;
    const int longest = std::max(region.box.width, region.box.height);
    // Of something long only its middle is shown, large enough to be judged.
    const bool middle =
        longest > kMost || (2 * longest > kOfLong && region.area() < 0.3 * region.box.area());
    const int side = std::min(
        {std::clamp(longest * 2, kLeast, middle ? kOfLong : kMost), picture.width, picture.height});
    const Point c = middle ? middleOf(region)
                           : region.box.tl() + Point(region.box.width / 2, region.box.height / 2);
    return {std::clamp(c.x - side / 2, 0, picture.width - side),
            std::clamp(c.y - side / 2, 0, picture.height - side), side, side};
}

Crops::Crops(DeskDocument& document, Pictures& pictures, Jobs& jobs, QObject* parent)
    : QObject(parent), m_document(document), m_pictures(pictures), m_jobs(jobs) {
    const auto anew = [this] {
        m_entries.clear();
        emit made();
    };
    connect(&pictures, &Pictures::replaced, this, anew);
    connect(&document, &DeskDocument::chartsChanged, this, anew);
    connect(&pictures, &Pictures::touched, this, &Crops::made);
}

const Crops::Pair* Crops::entry(series::Id id) {
    const auto frame = m_pictures.frame();
    if (!frame) return nullptr;
    const auto* m = frame->mend(id) ? frame->mend(id) : frame->mendOf(id);
    const auto* f = frame->finding(id);
    if (!m && !f) return nullptr;
    const auto it = m_entries.find(keyOf(*frame, f ? f->finding.region : m->mend.region, m));
    if (it != m_entries.end()) return &it->second;
    m_askedEntries.push_back(id);
    if (!m_makingEntries) {
        m_makingEntries = true;
        QMetaObject::invokeMethod(this, &Crops::makeEntries, Qt::QueuedConnection);
    }
    return nullptr;
}

/// Only what is being looked at, the latest first: a frame may have thousands of entries. What was
/// left over is asked for again when it is drawn again.
void Crops::makeEntries() {
    constexpr size_t kAtOnce = 40;
    const auto asked = std::exchange(m_askedEntries, {});
    const auto frame = m_pictures.frame();
    if (!frame || m_pictures.original().empty() || !m_pictures.settled()) {
        m_makingEntries = false;
        return;
    }
    const float line = m_document.now()->plan.line;
    std::vector<Wanted> wanted;
    std::set<std::uint64_t> keys;
    for (size_t i = asked.size(); i > 0 && wanted.size() < kAtOnce; --i) {
        const series::Id id = asked[i - 1];
        const auto* f = frame->finding(id);
        const auto* m = frame->mend(id) ? frame->mend(id) : frame->mendOf(id);
        if (!f && !m) continue;
        const Region& region = f ? f->finding.region : m->mend.region;
        const auto key = keyOf(*frame, region, m);
        if (!m_entries.contains(key) && keys.insert(key).second)
            wanted.push_back({key, region, m && !m->muted ? std::optional(m->mend) : std::nullopt,
                              f && series::proposed(*f, line) ? std::optional(*f) : std::nullopt,
                              id});
    }
    const Image original = m_pictures.original();
    const auto composed = m_pictures.composed();
    const auto charts = m_document.charts();
    ++m_running;
    m_jobs.run(
        {}, this,
        [=](std::stop_token stop, const Progress&) {
            return makePairs(original, composed, *frame, wanted, line, *charts, stop);
        },
        [this, frame](auto pairs) {
            --m_running;
            m_makingEntries = false;
            if (!m_pictures.areOf(*frame)) return;
            for (auto& [key, pair] : pairs) m_entries[key] = std::move(pair);
            if (!pairs.empty()) emit made();
        });
}

const Crops::Pair* Crops::carried(const series::Frame& frame, series::Id fromMend) {
    for (const auto& c : frame.carried) {
        if (c.fromMend != fromMend) continue;
        auto& own = m_carried[frame.id];
        own.used = ++m_clock;
        const auto it = own.pairs.find(keyOf(frame, c.region, frame.mend(c.mend)));
        if (it != own.pairs.end()) return &it->second;
        const auto ptr = m_document.now()->frame(frame.id);
        if (ptr && m_asked[frame.id] != ptr) {
            m_asked[frame.id] = ptr;
            makeCarried(ptr);
        }
        return nullptr;
    }
    return nullptr;
}

void Crops::trimCarried() {
    constexpr size_t kMost = 8000;  // pairs, about 200 MB
    size_t count = 0;
    for (const auto& [id, own] : m_carried) count += own.pairs.size();
    while (count > kMost && m_carried.size() > 1) {
        const auto oldest = std::min_element(
            m_carried.begin(), m_carried.end(),
            [](const auto& a, const auto& b) { return a.second.used < b.second.used; });
        count -= oldest->second.pairs.size();
        m_asked.erase(oldest->first);
        m_carried.erase(oldest);
    }
}

void Crops::makeCarried(const series::FramePtr& frame) {
    std::vector<Wanted> wanted;
    const auto& own = m_carried[frame->id].pairs;
    for (const auto& c : frame->carried) {
        const auto* m = frame->mend(c.mend);
        const auto key = keyOf(*frame, c.region, m);
        if (!own.count(key))
            wanted.push_back(
                {key, c.region, m ? std::optional(m->mend) : std::nullopt, {}, c.mend});
    }
    const float line = m_document.now()->plan.line;
    ++m_running;
    m_jobs.run(
        {}, this,
        [=](std::stop_token stop, const Progress&) {
            const auto loaded = render::openOriginal(*frame, false, stop);
            return loaded ? makePairs(loaded->picture.pixels, {}, *frame, wanted, line, {}, stop)
                          : KeyedPairs{};
        },
        [this, id = frame->id](auto pairs) {
            --m_running;
            for (auto& [key, pair] : pairs) m_carried[id].pairs[key] = std::move(pair);
            trimCarried();
            emit made();
        });
}

QImage Crops::thumbnail(const series::Frame& frame) {
    const auto it = m_thumbnails.find(frame.hash);
    if (it != m_thumbnails.end()) {
        Thumbnail& t = it->second;
        if (t.shown.isNull() || t.inversion != frame.inversion) {
            t.inversion = frame.inversion;
            t.shown = upright(
                toQImage(frame.inversion ? film::inverted(t.stored, *frame.inversion) : t.stored),
                frame.geometry.orientation);
        }
        return t.shown;
    }
    if (m_askedThumbnails.insert(frame.hash).second) {
        ++m_running;
        m_jobs.run(
            {}, this,
            [file = frame.file, aperture = frame.aperture](std::stop_token, const Progress&) {
                return files::readThumbnail(file, 320).transform([&](const Image8& image) {
                    return Thumbnail{image, find::suitability(image, aperture), {}, {}};
                });
            },
            [this, hash = frame.hash](Result<Thumbnail> made) {
                --m_running;
                if (made) m_thumbnails[hash] = std::move(*made);
                emit this->made();
            });
    }
    return {};
}

}  // namespace gq::desk
