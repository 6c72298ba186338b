#pragma once
#include "core/find/survey.h"

namespace gq::find {

/// What a first judgement says of a candidate and of its company: the others at the same place on
/// other levels, those around it, those of the whole picture. Odds are log odds; places are in
/// full-size pixels.
enum CompanyFeature : int {
    // of the candidate itself
    TakenOdds,
    TreesOdds,
    LookOdds,
    OwnLevel,
    // of the surest one that overlaps it; share of the candidate's box that it takes; doublings of
    // the box's area from the candidate to it
    FinerOdds,
    FinerShare,
    FinerLarger,
    CoarserOdds,
    CoarserShare,
    CoarserLarger,
    SameLevelOdds,
    SameLevelShare,
    SameLevelLarger,
    OtherPolarityOdds,
    OtherPolarityShare,
    OtherPolarityLarger,
    // of those whose centres lie within 160 px and that do not overlap it
    TrueAround,  ///< sum of probabilities
    TrueNear,    ///< the same within 60 px
    LikelyAround,
    AlikeAround,
    SurerAround,
    SurestAround,
    // of the whole picture, a megapixel
    SurerOverall,
    TrueOverall,
    LikelyOverall,
    BestOverall,      ///< odds of the 5th surest a megapixel
    BetterOverall,    ///< of the 20th
    GoodOverall,      ///< of the 80th
    DoubtfulOverall,  ///< how many are doubtful for one that is sure
    kCompanyCount
};

/// A candidate's own features, then its company.
using ReviewFeatures = std::array<float, size_t(kFeatureCount) + size_t(kCompanyCount)>;

/// The first judgement of a survey's candidates, in its order.
struct FirstOdds {
    std::vector<float> trees;  ///< log odds by the forest alone
    std::vector<float> look;   ///< by the network, or by the trees where it did not look
    std::vector<float> taken;  ///< trees and network together
};

/// A candidate worth a second judgement, by its place in the survey.
struct Reviewed {
    size_t list, candidate;
    ReviewFeatures features;
};

/// All candidates that are not hopeless, with what their company tells.
/// Cost: about a microsecond a pair of neighbours. Threads: parallel inside; equal bits for any
/// number. Source: judging again with the first judgement of the neighbours as features follows
/// Tu, Auto-context, CVPR 2008.
[[nodiscard]] std::vector<Reviewed> companyOf(const std::vector<Surveyed>& survey,
                                              const std::vector<FirstOdds>& first,
                                              const Size& picture);

}  // namespace gq::find
