#include "core/mend/patch.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/mend/even_out.h"
#include "core/mend/heal.h"
#include "core/mend/placed.h"
#include "core/mend/rebuild.h"
#include "core/mend/repeat.h"
#include "core/mend/scan_bed.h"
#include "core/mend/see_through.h"
#include "core/mend/sift.h"
#include "core/mend/touch_in.h"
#include "core/mend/unshade.h"
#include "core/pixels/color.h"

namespace gq::mend {
namespace {

constexpr int kRing = 12, kFarthest = 320, kLineReach = 108;

int reachOf(const Rect& hole) {
    return std::clamp(std::max(hole.width, hole.height) * 3 / 2, 48, 160);
}

/// How far around its footprint a mend without a placed source looks.
int lookOf(const Mend& mend, const Rect& footprint) {
    const int longer = std::max(footprint.width, footprint.height);
    switch (mend.method) {
        case Method::Rebuild:
            return std::clamp(longer, 64, kFarthest);
        case Method::EvenOut:
            return 48;
        case Method::Unshade:
            return 40 + std::min(longer, 100);
        case Method::Span:
            return kLineReach + kRing;
        case Method::Sift:
            return 64 + 4 * int(std::ceil(mend.sifting.largest));
        case Method::Clone:
            if (mend.candidate) return sightOf(mend.region.box) + longer + kRing;
            [[fallthrough]];
        default:
            return reachOf(footprint) + kRing;
    }
}

/// Opacity of the edge: 1 in the region, a smooth step to 0 over `softness` px outside.
cv::Mat opacity(const Mend& mend, const Region& whole) {
    if (mend.method == Method::EvenOut)  // its own field fades out
        return cv::Mat(whole.box.size(), CV_32F, cv::Scalar(double(mend.strength)));
    cv::Mat alpha(whole.box.size(), CV_32F, cv::Scalar(0)),
        outside(whole.box.size(), CV_8U, cv::Scalar(255)), distance;
    outside(Rect(mend.region.box.tl() - whole.box.tl(), mend.region.box.size()))
        .setTo(0, mend.region.mask);
    cv::distanceTransform(outside, distance, cv::DIST_L2, 3);
    for (int y = 0; y < alpha.rows; ++y)
        for (int x = 0; x < alpha.cols; ++x) {
            const float t =
                std::clamp(1 - distance.at<float>(y, x) / (mend.softness + 1), 0.0f, 1.0f);
            if (whole.mask.at<uchar>(y, x))
                alpha.at<float>(y, x) = mend.strength * t * t * (3 - 2 * t);
        }
    return alpha;
}

void blend(const Window& w, const cv::Mat& alpha, Patch& out) {
    const int channels = out.pixels.channels();
    const Point shift = out.box.tl() - w.box().tl();
    double change = 0;
    int counted = 0;
    for (int y = 0; y < out.box.height; ++y) {
        auto* p = out.pixels.ptr<ushort>(y);
        for (int x = 0; x < out.box.width; ++x) {
            if (!out.footprint.at<uchar>(y, x)) continue;
            const float a = alpha.at<float>(y, x);
            const Vec4& v = w.at(x + shift.x, y + shift.y);
            for (int c = 0; c < channels; ++c) {
                auto& o = p[x * channels + c];
                const float filled = v[c] * 65535.0f;
                change += double(std::abs(filled - float(o)) * a);
                o = ushort(std::clamp(std::lround(float(o) + a * (filled - float(o))), 0l, 65535l));
            }
            ++counted;
        }
    }
    out.change = counted ? float(change / (65535.0 * counted * channels)) : 0;
}

/// One mend being worked out.
struct Work {
    const Setting& setting;
    const Mend& mend;
    Region whole;  ///< its footprint
    Rect read;

    [[nodiscard]] Window window(const Region& hole) const {
        return {setting.pixels, read, hole, setting.avoid};
    }
    [[nodiscard]] std::vector<Point> places(const Region& region) const {
        std::vector<Point> out;
        const Point shift = region.box.tl() - read.tl();
        for (int y = 0; y < region.box.height; ++y)
            for (int x = 0; x < region.box.width; ++x)
                if (region.mask.at<uchar>(y, x)) out.emplace_back(x + shift.x, y + shift.y);
        return out;
    }
    /// What is there, even under what is avoided: earlier mends, blemishes that have their own.
    [[nodiscard]] std::vector<Vec4> there(const Region& region) const {
        std::vector<Vec4> out;
        const Image part = setting.pixels(region.box);
        for (int y = 0; y < region.box.height; ++y)
            for (int x = 0; x < region.box.width; ++x)
                if (region.mask.at<uchar>(y, x))
                    out.push_back(
                        vec4Of(part.ptr<ushort>(y) + x * part.channels(), part.channels()));
        return out;
    }
    [[nodiscard]] Mask mask(const Region& region) const {
        Mask out(read.size(), CV_8U, cv::Scalar(0));
        const Rect in = region.box & read;
        if (in.empty()) return out;
        region.mask(in - region.box.tl()).copyTo(out(in - read.tl()));
        return out;
    }
    [[nodiscard]] Patch patch(const Window& w, const HealReport& report) const {
        Patch out{whole.box,          setting.pixels(whole.box).clone(),
                  whole.mask.clone(), report.source,
                  report.misfit,      0};
        blend(w, opacity(mend, whole), out);
        return out;
    }
};

/// A copy of what a mend reads as a picture of its own, for mends made of mends.
struct Near {
    explicit Near(const Work& work)
        : origin(work.read.tl()),
          pixels(work.setting.pixels(work.read).clone()),
          avoid(work.setting.avoid) {
        for (auto& r : avoid) r.box -= origin;
    }
    [[nodiscard]] Image part(const Rect& box) const { return pixels(box - origin); }

    Point origin;
    Image pixels;
    std::vector<Region> avoid;
};

Result<Patch> healed(const Work& work, bool alongLine, std::stop_token stop) {
    Window w = work.window(work.whole);
    const Mend& m = work.mend;
    const auto report = heal(w, work.places(work.whole),
                             {.alongLine = alongLine,
                              .candidate = m.candidate,
                              .grain = m.grain,
                              .reach = alongLine ? kLineReach : reachOf(work.whole.box)},
                             stop);
    if (!report) return tl::unexpected(report.error());
    return work.patch(w, *report);
}

/// Along a line, and what shows through it is kept.
Result<Patch> spanned(const Work& work, std::stop_token stop) {
    auto out = healed(work, true, stop);
    if (!out) return out;
    const Window as = work.window({});
    const auto places = work.places(work.whole);
    const auto seen = seeThrough(as, work.mask(work.mend.region), places);
    if (!seen) return out;
    const cv::Mat alpha = opacity(work.mend, work.whole);
    const Point shift = work.whole.box.tl() - work.read.tl();
    const int channels = out->pixels.channels();
    double trusted = 0, change = 0;
    for (size_t i = 0; i < places.size(); ++i) {
        const Point p = places[i] - shift;
        const Vec4& was = as.at(places[i].x, places[i].y);
        auto* v = out->pixels.ptr<ushort>(p.y) + p.x * channels;
        for (int c = 0; c < channels; ++c) {
            const float kept = was[c] + alpha.at<float>(p) * (seen->values[i][c] - was[c]);
            const float now = float(v[c]) / 65535;
            const float mixed = now + seen->trust[i] * (kept - now);
            change += double(std::abs(mixed - was[c])) / channels;
            v[c] = ushort(std::clamp(std::lround(mixed * 65535), 0l, 65535l));
        }
        trusted += double(seen->trust[i]);
    }
    out->misfit *= float(1 - trusted / double(places.size()));
    out->change = float(change / double(places.size()));
    return out;
}

Placement placementOf(const Mend& m, const Rect& whole, Point offset, Point windowOrigin) {
    const PointF centre(float(whole.x - windowOrigin.x) + float(whole.width - 1) / 2,
                        float(whole.y - windowOrigin.y) + float(whole.height - 1) / 2);
    return {centre, offset, m.turn};
}

/// Heal and Clone from a source placed by hand: what lies there is taken as it is, even what others
/// avoid; only the mend's own place is not.
Patch placed(Work here) {
    const Mend& m = here.mend;
    const Rect& whole = here.whole.box;
    const Size picture = here.setting.pixels.size();
    here.read = grown(whole, kRing, picture);
    const Rect source = grown(placementOf(m, whole, *m.source, {}).sourceOf(whole), kRing, picture);
    Window w = here.window({});  // its own pixels are not asked for
    const Window there(here.setting.pixels, source, here.whole, {});
    const Placement placement =
        placementOf(m, whole, *m.source + here.read.tl() - source.tl(), here.read.tl());
    const float misfit = fillFrom(
        w, here.places(here.whole), [&](const Point& p) { return placement.sample(there, p); },
        m.method == Method::Heal);
    return here.patch(w, {*m.source, misfit});
}

/// Clone from the best source it finds.
Result<Patch> cloned(const Work& work, std::stop_token stop) {
    const Mend& m = work.mend;
    Window w = work.window(work.whole);
    const auto hole = work.places(work.whole);
    const auto offset = m.candidate
                            ? anotherSourceFor(w, hole, sightOf(m.region.box), m.candidate, stop)
                            : sourceFor(w, hole, reachOf(work.whole.box), stop);
    if (stop.stop_requested()) return cancelled();
    if (!offset)
        return fail(Error::Kind::BadSetting, "there is no clean place near by to copy from", {},
                    "Drag a source, or use Rebuild.");
    const Placement placement = placementOf(m, work.whole.box, *offset, w.box().tl());
    const float misfit = fillFrom(
        w, hole, [&](const Point& p) { return placement.sample(w, p); }, false);
    return work.patch(w, {*offset, misfit});
}

/// Heal and Clone from what another frame shows here.
Patch lent(const Work& work) {
    const LentPixels& from = *work.mend.lent;
    Window w = work.window(work.whole);
    const int channels = from.pixels.channels();
    const Point shift = work.read.tl() - from.box.tl();
    const auto sample = [&](const Point& p) {
        const int x = std::clamp(p.x + shift.x, 0, from.pixels.cols - 1),
                  y = std::clamp(p.y + shift.y, 0, from.pixels.rows - 1);
        return vec4Of(from.pixels.ptr<ushort>(y) + x * channels, channels);
    };
    const float misfit =
        fillFrom(w, work.places(work.whole), sample, work.mend.method == Method::Heal);
    return work.patch(w, {{}, misfit});
}

Result<Patch> rebuilt(const Work& work, std::stop_token stop) {
    Window w = work.window(work.whole);
    RebuildSettings settings{.seed = work.mend.candidate,
                             .draftLevels = work.setting.draft ? 2 : 0};
    if (!work.mend.within.empty()) settings.within = work.mask(work.mend.within);
    for (auto line : work.mend.guides) {
        for (auto& p : line) p -= PointF(work.read.tl());
        settings.guides.push_back(std::move(line));
    }
    if (auto ok = rebuild(w, work.places(work.whole), settings, stop); !ok)
        return tl::unexpected(ok.error());
    return work.patch(w, {});
}

Result<Patch> evenedOut(const Work& work, std::stop_token stop) {
    const Mask inside = work.mask(work.mend.region),
               bed = scanBed(work.setting.pixels, work.read, work.mend.region);
    auto avoid = work.setting.avoid;
    if (auto r = regionOf(bed, work.read.tl()); !r.empty()) avoid.push_back(std::move(r));
    Window w(work.setting.pixels, work.read, {}, avoid);
    auto stain = measureStain(w, goneOn(inside, bed), stop);
    if (!stain) return tl::unexpected(stain.error());
    stain->lost &= inside;
    const auto places = work.places(work.whole);
    auto values = work.there(work.whole);
    for (size_t i = 0; i < places.size(); ++i)
        if (inside.at<uchar>(places[i]) || !bed.at<uchar>(places[i]))
            values[i] = stain->restored(values[i], places[i]);
    w.write(places, values);
    Patch out = work.patch(w, {});
    const Region lost = regionOf(stain->lost);
    if (lost.area() < 12) return out;
    // What holds nothing of the picture any more is completed from what was evened out.
    Near near(work);
    lay(out, near.pixels, work.read.tl());
    Mend rest;
    rest.method = Method::Rebuild;
    rest.region = grown(lost, 2, near.pixels.size());
    rest.strength = work.mend.strength;
    const auto completed = makePatch({near.pixels, near.avoid}, rest, stop);
    if (!completed) return tl::unexpected(completed.error());
    lay(*completed, near.pixels);
    near.part(out.box).copyTo(out.pixels, out.footprint);
    return out;
}

/// Share of light that is let through, over what is read; nothing where too little shines through.
Result<std::optional<ImageF>> lightThrough(const Work& work, std::stop_token stop) {
    if (const auto& known = work.mend.shade) {
        ImageF share(work.read.size(), CV_32F, cv::Scalar(1));
        const Rect in = known->box & work.read;
        if (!in.empty()) cv::exp(known->logShare(in - known->box.tl()), share(in - work.read.tl()));
        return share;
    }
    const auto shade = measureShade(work.window({}), work.mask(work.mend.region), stop);
    if (!shade) return tl::unexpected(shade.error());
    return shade->fits ? std::optional(shade->gain) : std::nullopt;
}

/// The picture under a shadow: its linear light over the share let through there.
Result<Patch> unshaded(const Work& work, std::stop_token stop) {
    const auto through = lightThrough(work, stop);
    if (!through) return tl::unexpected(through.error());
    if (!*through) return healed(work, false, stop);
    Window w = work.window({});
    const auto places = work.places(work.whole);
    auto values = work.there(work.whole);
    for (size_t i = 0; i < places.size(); ++i) {
        Vec4& v = values[i];
        const float share = (*through)->at<float>(places[i]);
        for (int c = 0; c < 3; ++c)
            v[c] = float(fromLinear(toLinear(ushort(std::lround(v[c] * 65535))) / share)) / 65535;
    }
    w.write(places, values);
    return work.patch(w, {});
}

Result<Patch> touchedIn(const Work& work, std::stop_token stop) {
    Window w = work.window(work.whole);
    if (auto ok = touchIn(w, work.places(work.whole), work.mend.tone, work.mend.grain, stop); !ok)
        return tl::unexpected(ok.error());
    return work.patch(w, {});
}

Result<Patch> sifted(const Work& work, std::stop_token stop) {
    const auto& pixels = work.setting.pixels;
    auto found = specks(pixels, work.mend.region, work.mend.sifting);
    Patch out{work.whole.box,
              pixels(work.whole.box).clone(),
              Mask(work.whole.box.size(), CV_8U, cv::Scalar(0)),
              {},
              0,
              0};
    Near near(work);
    for (auto& r : found) {
        r.box -= work.read.tl();
        near.avoid.push_back(r);
    }
    for (const auto& r : found) {
        Mend one;
        one.region = r;
        one.softness = 1;
        one.strength = work.mend.strength;
        one.grain = work.mend.grain;
        auto patch = makePatch({near.pixels, near.avoid}, one, stop);
        if (!patch) return tl::unexpected(patch.error());
        lay(*patch, near.pixels);
        patch->box += work.read.tl();
        const Rect in = patch->box & out.box;
        Mask part = patch->footprint(Rect(in.tl() - patch->box.tl(), in.size()));
        out.footprint(Rect(in.tl() - out.box.tl(), in.size())).setTo(255, part);
    }
    out.footprint &= work.whole.mask;
    near.part(out.box).copyTo(out.pixels, out.footprint);
    return out;
}

}  // namespace

Rect readBox(const Mend& mend, const Size& picture) {
    const Rect whole = footprintBox(mend, picture);
    const Rect box = grown(whole, lookOf(mend, whole), picture);
    if (mend.lent && hasSource(mend.method)) return grown(whole, kRing, picture);
    if (!mend.source || !hasSource(mend.method)) return box;
    const Placement placement = placementOf(mend, whole, *mend.source, {});
    return grown(whole, kRing, picture) | grown(placement.sourceOf(whole), kRing, picture);
}

Result<Patch> makePatch(const Setting& setting, const Mend& mend, std::stop_token stop) {
    const Size picture = setting.pixels.size();
    const Work work{setting, mend, footprint(mend, picture), readBox(mend, picture)};
    if (work.whole.empty())
        return fail(Error::Kind::BadSetting, "the mend covers nothing", {},
                    "Draw it inside the picture.");
    if (mend.source && !mend.lent && hasSource(mend.method)) {
        const Rect source =
            placementOf(mend, work.whole.box, *mend.source, {}).sourceOf(work.whole.box);
        if ((source & Rect({0, 0}, picture)) != source)
            return fail(Error::Kind::BadSetting, "the source lies outside the picture", {},
                        "Drag it inside.");
    }
    if (mend.lent && hasSource(mend.method)) return lent(work);
    switch (mend.method) {
        case Method::Heal:
            return mend.source ? placed(work) : healed(work, false, stop);
        case Method::Clone:
            return mend.source ? placed(work) : cloned(work, stop);
        case Method::Span:
            return spanned(work, stop);
        case Method::Rebuild:
            return rebuilt(work, stop);
        case Method::EvenOut:
            return evenedOut(work, stop);
        case Method::Unshade:
            return unshaded(work, stop);
        case Method::TouchIn:
            return touchedIn(work, stop);
        case Method::Sift:
            return sifted(work, stop);
    }
    return fail(Error::Kind::BadSetting, "this method is not known");
}

Result<KnownShadePtr> shadeOf(const Setting& setting, const Mend& mend, std::stop_token stop) {
    const Size picture = setting.pixels.size();
    if (mend.method != Method::Unshade || mend.region.empty()) return KnownShadePtr();
    const Work work{setting, mend, footprint(mend, picture), readBox(mend, picture)};
    const auto through = lightThrough(work, stop);
    if (!through) return tl::unexpected(through.error());
    if (!*through) return KnownShadePtr();
    auto out = std::make_shared<KnownShade>();
    out->box = work.whole.box;
    const ImageF held = 1 / (**through)(out->box - work.read.tl()) - 1,
                 alpha = opacity(mend, work.whole);
    cv::log(ImageF(1 + held.mul(alpha)), out->logShare);
    out->logShare *= -1;
    return KnownShadePtr(std::move(out));
}

void lay(const Patch& patch, Image& pixels, Point origin) {
    const Rect there = (patch.box - origin) & Rect({0, 0}, pixels.size());
    if (there.empty()) return;
    const Rect from = there - (patch.box.tl() - origin);
    patch.pixels(from).copyTo(pixels(there), patch.footprint(from));
}

}  // namespace gq::mend
