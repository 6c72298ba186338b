#include "core/render/search.h"

#include "core/film/infrared.h"
#include "core/find/find.h"

namespace gq::render {

find::FindPlan planFor(const Image& pixels, const series::Frame& frame, find::FindPlan plan) {
    const bool uninverted = plan.origin == find::Origin::Negative && plan.polarities.empty() &&
                            (frame.inversion || film::findBase(pixels));
    if (uninverted) plan.polarities = {find::Polarity::Dark};
    return plan;
}

Result<Searched> search(const files::LoadedPicture& loaded, const series::Frame& frame,
                        const find::FindPlan& given, const Progress& progress,
                        std::stop_token stop) {
    Searched out;
    const auto& pixels = loaded.picture.pixels;
    const auto plan = planFor(pixels, frame, given);
    find::Guides guides = frame.guides ? *frame.guides : find::Guides{};
    const bool film =
        plan.origin == find::Origin::Negative || plan.origin == find::Origin::Positive;
    if (film && loaded.extra.channels() == 1 && !loaded.extra.empty()) {
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
