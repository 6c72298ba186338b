#pragma once
#include <span>
#include <string_view>
#include <vector>

#include "core/find/features.h"
#include "core/pixels/result.h"

namespace gq::find {

/// A sum of small decision trees that tells blemishes from picture detail: log odds of a blemish.
/// Source: gradient boosting (Friedman, Annals of Statistics 29(5), 2001); trained by tools/train.
class Forest {
  public:
    /// Reads trained weights: JSON with "features", "depth" and, per tree, "split"
    /// (feature numbers), "at" (thresholds) and "leaf" (log odds). Errors: Unreadable, also when
    /// they were trained on another number of features.
    [[nodiscard]] static Result<Forest> read(std::string_view json, int features = kFeatureCount);

    /// `f` has as many features as the weights were read for.
    [[nodiscard]] float logOdds(std::span<const float> f) const;

  private:
    struct Split {
        int feature;
        float at;
    };
    int m_depth = 0;
    std::vector<Split> m_splits;  ///< 2^depth - 1 a tree, level by level
    std::vector<float> m_leaves;  ///< 2^depth a tree
};

/// The forest trained for such candidates; null where none was (light marks on sensors).
/// Film's depends on the polarity alone: dust is light on negatives and dark on slides.
[[nodiscard]] const Forest* forestFor(Origin origin, Polarity polarity);
/// The same for the second judgement, of `ReviewFeatures` (company.h).
[[nodiscard]] const Forest* reviewFor(Origin origin, Polarity polarity);
/// The same for islands (islands.h) of either polarity; null on sensors.
[[nodiscard]] const Forest* islandForestFor(Origin origin);
/// The same for long lines (long_scratches.h).
[[nodiscard]] const Forest* lineForestFor(Origin origin);
/// The same for places tinted on prints (stains.h).
[[nodiscard]] const Forest& stainForest();
/// Those of islands and of long lines are surer of the pictures they were trained on than of
/// others: log odds taken off.
inline constexpr float kDoubt = 1.1f;

}  // namespace gq::find
