#include "core/find/forest.h"

#include <array>
#include <mutex>
#include <nlohmann/json.hpp>

#include "core/find/company.h"
#include "core/find/islands.h"
#include "core/find/line_features.h"
#include "core/find/stains.h"
#include "find_weights.h"

namespace gq::find {
namespace {

/// Weights that are part of the program, read when they are first asked for: unreadable ones are a
/// mistake of ours.
class Shipped {
  public:
    Shipped(const char* json, int features) : m_json(json), m_features(features) {}
    const Forest* get() {
        std::call_once(m_once, [this] { m_forest = Forest::read(m_json, m_features).value(); });
        return &m_forest;
    }

  private:
    const char* m_json;
    int m_features;
    std::once_flag m_once;
    Forest m_forest;
};

/// One for sensors, light and dark dust on film, and prints.
using Forests = std::array<Shipped, 4>;

const Forest* ofThese(Forests& forests, Origin origin, Polarity polarity) {
    const bool light = polarity == Polarity::Light;
    if (origin == Origin::Sensor) return light ? nullptr : forests[0].get();
    if (origin == Origin::Print) return forests[3].get();
    return forests[light ? 1 : 2].get();
}

const Forest* filmOrPrint(Shipped& film, Shipped& print, Origin origin) {
    if (origin == Origin::Sensor) return nullptr;
    return origin == Origin::Print ? print.get() : film.get();
}

}  // namespace

Result<Forest> Forest::read(std::string_view json, int features) {
    const auto wrong = [](const char* what) { return fail(Error::Kind::Unreadable, what); };
    const auto j = nlohmann::json::parse(json, nullptr, false);
    if (!j.is_object() || !j.contains("trees")) return wrong("these are no weights for finding");
    if (j.value("features", 0) != features)
        return wrong("the weights were trained on other features");
    Forest out;
    out.m_depth = j.value("depth", 0);
    const size_t leaves = size_t(1) << out.m_depth;
    for (const auto& tree : j["trees"]) {
        const auto split = tree.value("split", std::vector<int>{});
        const auto at = tree.value("at", std::vector<float>{});
        const auto leaf = tree.value("leaf", std::vector<float>{});
        if (split.size() != leaves - 1 || at.size() != leaves - 1 || leaf.size() != leaves)
            return wrong("a tree of the weights has the wrong size");
        for (size_t i = 0; i + 1 < leaves; ++i) {
            if (split[i] < 0 || split[i] >= features)
                return wrong("a tree of the weights names an unknown feature");
            out.m_splits.push_back({split[i], at[i]});
        }
        out.m_leaves.insert(out.m_leaves.end(), leaf.begin(), leaf.end());
    }
    return out;
}

float Forest::logOdds(std::span<const float> f) const {
    const size_t leaves = size_t(1) << m_depth, count = m_leaves.size() / leaves;
    float sum = 0;
    for (size_t t = 0; t < count; ++t) {
        const Split* splits = &m_splits[t * (leaves - 1)];
        size_t node = 0;
        for (int d = 0; d < m_depth; ++d)
            node = 2 * node + (f[size_t(splits[node].feature)] < splits[node].at ? 1 : 2);
        sum += m_leaves[t * leaves + node - (leaves - 1)];
    }
    return sum;
}

const Forest* forestFor(Origin origin, Polarity polarity) {
    constexpr int n = kFeatureCount;
    static Forests forests{Shipped{kSensorWeights, n}, Shipped{kLightWeights, n},
                           Shipped{kDarkWeights, n}, Shipped{kPrintWeights, n}};
    return ofThese(forests, origin, polarity);
}

const Forest* reviewFor(Origin origin, Polarity polarity) {
    constexpr int n = std::tuple_size_v<ReviewFeatures>;
    static Forests forests{Shipped{kSensorReview, n}, Shipped{kLightReview, n},
                           Shipped{kDarkReview, n}, Shipped{kPrintReview, n}};
    return ofThese(forests, origin, polarity);
}

const Forest* islandForestFor(Origin origin) {
    static Shipped film{kFilmIslands, kIslandFeatureCount},
        print{kPrintIslands, kIslandFeatureCount};
    return filmOrPrint(film, print, origin);
}

const Forest* lineForestFor(Origin origin) {
    static Shipped film{kFilmLines, kLineFeatureCount}, print{kPrintLines, kLineFeatureCount};
    return filmOrPrint(film, print, origin);
}

const Forest& stainForest() {
    static Shipped stains{kStains, kStainFeatureCount};
    return *stains.get();
}

}  // namespace gq::find
