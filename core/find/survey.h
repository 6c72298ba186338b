#pragma once
#include "core/find/features.h"
#include "core/find/forest.h"
#include "core/find/guides.h"
#include "core/find/look.h"
#include "core/pixels/parallel.h"
#include "core/pixels/scales.h"

namespace gq::find {

/// All candidates of one level and polarity, described but not yet judged.
struct Surveyed {
    int level = 0;
    Polarity polarity = Polarity::Dark;
    std::vector<Region> regions;  ///< level coordinates
    Described described;
    std::vector<float> logOdds;  ///< of each, by the forest, or by a rule where there is none
    std::vector<float> asFilm;  ///< of a print's: by film's forests, which know hairs and scratches
    std::vector<size_t> looked;  ///< those whose log odds, of either, make them worth a look
    std::vector<Look> looks;     ///< of these, in order
};

/// Who decides what is worth a look, and how hopeless it may be.
struct LookRule {
    const Forest* forest = nullptr;  ///< null = the one trained for the origin and polarity
    float least = -3;                ///< log odds
};

/// True for pictures of which all that a search works out may lie in memory at once; of larger ones
/// one thing after the other does.
[[nodiscard]] bool searchedAtOnce(const Size& picture);

/// Everything in a picture that stands out, level by level. Training and finding both start here.
/// Threads: parallel inside; equal bits for any number. Errors: BadSetting, Cancelled.
[[nodiscard]] Result<std::vector<Surveyed>> survey(const Scales& picture, const FindPlan& plan,
                                                   const Guides& guides = {},
                                                   const Progress& progress = {},
                                                   std::stop_token stop = {},
                                                   const LookRule& rule = {});

/// A level's region in full-size pixels: blown up and its stairs smoothed.
[[nodiscard]] Region fullSize(const Region& region, int level, const Size& picture);

}  // namespace gq::find
