#include "core/render/search.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <iterator>
#include <optional>

#include "core/film/film_base.h"
#include "core/film/infrared.h"
#include "core/find/find.h"

namespace gq::render {
namespace {

/// Dark dust must speak for itself twice as clearly as light, since most negatives that come
/// uninverted tell so by their base.
constexpr double kClearer = 2, kAtLeast = 2;
// Of a scratch that has not dust's polarity:
constexpr float kSure = 0.5f;
constexpr float kDoubt = 1.4f;     ///< log odds taken off: gaps between boards are such lines too
constexpr float kLong = 150;       ///< px; so long a fibre is one too, if it is straight
constexpr double kStraight = 0.9;  ///< from end to end, of its length
constexpr double kUnder = 0.3;     ///< of it that lies under another finding

/// What tells of dust: specks and fibres, of which the surest count most.
double dustIn(const std::vector<find::Finding>& findings) {
    double sum = 0;
    for (const auto& f : findings)
        if (f.kind == find::Kind::Speck || f.kind == find::Kind::Fibre)
            sum += std::pow(double(f.confidence), 4);
    return sum;
}

bool isDark(double dark, double light) {
    return dark > kClearer * light + kAtLeast;
}

/// The polarity that the frame's own values tell of; none where they do not.
std::optional<find::Polarity> dustOf(const Image& pixels, const film::InfraredDust& infrared,
                                     const series::Frame& frame, const find::FindPlan& plan) {
    if (plan.origin != find::Origin::Negative || !plan.polarities.empty())
        return find::polaritiesOf(plan).front();
    const auto negative = [&] {
        const auto base = film::findBase(pixels);
        return base && base->tellsNegative();
    };
    if (frame.inversion || negative()) return find::Polarity::Dark;
    if (infrared.depth.empty()) return std::nullopt;
    const auto dark = infrared.isDarkIn(pixels);
    if (!dark) return std::nullopt;
    return *dark ? find::Polarity::Dark : find::Polarity::Light;
}

void turn(Searched& frame) {
    std::swap(frame.findings, frame.otherwise);
    frame.dust = opposite(frame.dust);
}

}  // namespace

Result<Searched> search(const files::LoadedPicture& loaded, const series::Frame& frame,
                        const find::FindPlan& plan, const Progress& progress,
                        std::stop_token stop) {
    Searched out;
    const auto& pixels = loaded.picture.pixels;
    find::Guides guides = frame.guides ? *frame.guides : find::Guides{};
    film::InfraredDust infrared;
    if (find::isFilm(plan.origin) && loaded.extra.channels() == 1 && !loaded.extra.empty()) {
        infrared = film::infraredDust(pixels, loaded.extra, stop);
        if (stop.stop_requested()) return cancelled();
        if (infrared.useless.empty())
            guides.infrared = {infrared.depth, infrared.noise};
        else
            out.notes.push_back("Infrared not used: " + infrared.useless);
    }
    const auto dust = dustOf(pixels, infrared, frame, plan);
    find::FindPlan its = plan;
    const bool other = find::isFilm(plan.origin) && plan.polarities.empty();
    const auto searched = [&](find::Polarity polarity, double from, double to) {
        if (other) its.polarities = {polarity};
        return find::find(loaded.picture, its, guides, partOf(progress, from, to), stop);
    };
    out.guessed = !dust;
    out.dust = dust.value_or(find::Polarity::Light);
    auto found = searched(out.dust, 0, other ? 0.5 : 1);
    if (!found) return tl::unexpected(found.error());
    out.findings = std::move(*found);
    if (!other) return out;
    if (dust) {
        std::erase_if(its.kinds, [](find::Kind k) { return !find::isLine(k); });
        if (its.kinds.empty()) return out;
        guides.infrared = {};  // shows dust, which is of the one polarity
    }
    auto otherwise = searched(opposite(out.dust), 0.5, 1);
    if (!otherwise) return tl::unexpected(otherwise.error());
    out.otherwise = std::move(*otherwise);
    if (!dust && isDark(dustIn(out.otherwise), dustIn(out.findings))) turn(out);
    return out;
}

void agreeOnDust(const std::vector<Searched*>& film) {
    double dark = 0, light = 0;
    std::optional<find::Polarity> told;
    for (const auto* f : film) {
        if (!f->guessed && !told) told = f->dust;
        const bool isIt = f->dust == find::Polarity::Dark;
        (isIt ? dark : light) += dustIn(f->findings);
        (isIt ? light : dark) += dustIn(f->otherwise);
    }
    const auto dust =
        told.value_or(isDark(dark, light) ? find::Polarity::Dark : find::Polarity::Light);
    for (auto* f : film)
        if (f->guessed && f->dust != dust) turn(*f);
}

void takeScratches(Searched& frame) {
    const auto mayBe = [](const find::Finding& f) {
        if (f.kind == find::Kind::Scratch) return true;
        const auto& box = f.region.box;
        return f.kind == find::Kind::Fibre && f.measures.length > kLong &&
               std::hypot(box.width, box.height) > kStraight * double(f.measures.length);
    };
    const auto taken = [&](const find::Finding& f) {
        const auto lies = [&](const find::Finding& own) {
            return own.confidence >= f.confidence &&
                   overlap(own.region, f.region) > kUnder * f.region.area();
        };
        return f.confidence >= kSure && mayBe(f) && std::ranges::none_of(frame.findings, lies);
    };
    const auto from = std::ranges::stable_partition(frame.otherwise, std::not_fn(taken)).begin();
    for (auto f = from; f != frame.otherwise.end(); ++f)
        f->confidence = find::probability(find::logOdds(f->confidence) - kDoubt);
    frame.findings.insert(frame.findings.end(), std::make_move_iterator(from),
                          std::make_move_iterator(frame.otherwise.end()));
    frame.otherwise.erase(from, frame.otherwise.end());
}

}  // namespace gq::render
