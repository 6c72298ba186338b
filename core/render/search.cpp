#include "core/render/search.h"

#include <cmath>
#include <optional>

#include "core/film/film_base.h"
#include "core/film/infrared.h"
#include "core/find/find.h"

namespace gq::render {
namespace {

/// Dark dust must speak for itself twice as clearly as light, since most negatives that come
/// uninverted tell so by their base.
constexpr double kClearer = 2, kAtLeast = 2;

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
    const auto searched = [&](find::Polarity polarity, const Progress& part) {
        find::FindPlan its = plan;
        if (its.polarities.empty() && find::isFilm(plan.origin)) its.polarities = {polarity};
        return find::find(loaded.picture, its, guides, part, stop);
    };
    out.guessed = !dust;
    out.dust = dust.value_or(find::Polarity::Light);
    auto found = searched(out.dust, partOf(progress, 0, dust ? 1 : 0.5));
    if (!found) return tl::unexpected(found.error());
    out.findings = std::move(*found);
    if (dust) return out;
    auto dark = searched(find::Polarity::Dark, partOf(progress, 0.5, 1));
    if (!dark) return tl::unexpected(dark.error());
    out.otherwise = std::move(*dark);
    if (isDark(dustIn(out.otherwise), dustIn(out.findings))) turn(out);
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

}  // namespace gq::render
