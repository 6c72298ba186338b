#include "core/render/search.h"

#include "core/film/film_base.h"
#include "core/film/infrared.h"
#include "core/find/find.h"

namespace gq::render {
namespace {

/// The plan as it applies to a frame's own values.
find::FindPlan planFor(const Image& pixels, const series::Frame& frame, find::FindPlan plan) {
    if (plan.origin != find::Origin::Negative || !plan.polarities.empty()) return plan;
    const auto negative = [&] {
        const auto base = film::findBase(pixels);
        return base && base->tellsNegative();
    };
    if (frame.inversion || negative()) plan.polarities = {find::Polarity::Dark};
    return plan;
}

}  // namespace

Result<Searched> search(const files::LoadedPicture& loaded, const series::Frame& frame,
                        const find::FindPlan& given, const Progress& progress,
                        std::stop_token stop) {
    Searched out;
    const auto& pixels = loaded.picture.pixels;
    const auto plan = planFor(pixels, frame, given);
    find::Guides guides = frame.guides ? *frame.guides : find::Guides{};
    if (find::isFilm(plan.origin) && loaded.extra.channels() == 1 && !loaded.extra.empty()) {
        auto dust = film::infraredDust(pixels, loaded.extra, stop);
        if (stop.stop_requested()) return cancelled();
        if (dust.useless.empty())
            guides.infrared = {dust.depth, dust.noise};
        else
            out.notes.push_back("Infrared not used: " + dust.useless);
    }
    auto found = find::find(loaded.picture, plan, guides, progress, stop);
    if (!found) return tl::unexpected(found.error());
    out.findings = std::move(*found);
    return out;
}

}  // namespace gq::render
