#include "core/find/company.h"

#include <algorithm>
#include <cmath>
#include <unordered_map>

namespace gq::find {
namespace {

constexpr float kHopeless = -5;  ///< log odds under which nobody asks for a second judgement
constexpr float kNobody = -8;    ///< odds of company that is not there
constexpr float kLikely = -2;
constexpr int kAround = 160, kNear = 60;  // px

/// A candidate as its neighbours see it.
struct Member {
    size_t list, candidate;
    cv::Rect_<float> box;
    PointF centre;
    float odds;
    int level;
    Polarity polarity;
};

std::vector<Member> membersOf(const std::vector<Surveyed>& survey,
                              const std::vector<FirstOdds>& first) {
    std::vector<Member> out;
    for (size_t l = 0; l < survey.size(); ++l) {
        const Surveyed& s = survey[l];
        const auto k = float(1 << s.level);
        for (size_t i = 0; i < s.regions.size(); ++i) {
            const float odds = first[l].taken[i];
            if (odds <= kHopeless) continue;
            const Rect& b = s.regions[i].box;
            const cv::Rect_<float> box(k * float(b.x), k * float(b.y), k * float(b.width),
                                       k * float(b.height));
            out.push_back({l, i, box, (box.tl() + box.br()) * 0.5f, odds, s.level, s.polarity});
        }
    }
    return out;
}

/// Members by the cells of a grid that their boxes touch.
class Neighbourhood {
  public:
    explicit Neighbourhood(const std::vector<Member>& members) {
        for (size_t i = 0; i < members.size(); ++i)
            overCells(members[i].box, [&](std::uint64_t cell) { m_cells[cell].push_back(i); });
    }
    /// Those that may lie within kAround of a box, in order, each once.
    [[nodiscard]] std::vector<size_t> about(cv::Rect_<float> box) const {
        box -= PointF(kAround, kAround);
        box += cv::Size2f(2 * kAround, 2 * kAround);
        std::vector<size_t> out;
        overCells(box, [&](std::uint64_t cell) {
            const auto there = m_cells.find(cell);
            if (there != m_cells.end())
                out.insert(out.end(), there->second.begin(), there->second.end());
        });
        std::sort(out.begin(), out.end());
        out.erase(std::unique(out.begin(), out.end()), out.end());
        return out;
    }

  private:
    template <class Visit>
    static void overCells(const cv::Rect_<float>& box, Visit visit) {
        const auto cell = [](float v) { return int(std::floor(v / kAround)); };
        for (int y = cell(box.y); y <= cell(box.y + box.height); ++y)
            for (int x = cell(box.x); x <= cell(box.x + box.width); ++x)
                visit(std::uint64_t(std::uint32_t(y)) << 32 | std::uint32_t(x));
    }
    std::unordered_map<std::uint64_t, std::vector<size_t>> m_cells;
};

/// The first of a relation's three features.
int relationOf(const Member& own, const Member& other) {
    if (own.polarity != other.polarity) return OtherPolarityOdds;
    if (own.level == other.level) return SameLevelOdds;
    return other.level < own.level ? FinerOdds : CoarserOdds;
}

/// What a whole picture says, alike for all of its candidates but for how many are surer.
class Overall {
  public:
    Overall(const std::vector<Member>& members, const Size& picture)
        : m_megapixels(float(picture.area()) * 1e-6f) {
        for (const auto& m : members) m_sorted.push_back(m.odds);
        std::sort(m_sorted.begin(), m_sorted.end(), std::greater<>());
        float sum = 0;
        for (const float o : m_sorted) sum += probability(o);
        m_true = sum / m_megapixels;
        const float likely = surerThan(kLikely);
        m_likely = likely / m_megapixels;
        m_doubtful = (surerThan(-3) - surerThan(0)) / (1 + surerThan(1.5f));
    }
    /// Fills in a candidate's features of the picture.
    void describe(float odds, float* f) const {
        f[SurerOverall] = surerThan(odds) / m_megapixels;
        f[TrueOverall] = m_true;
        f[LikelyOverall] = m_likely;
        f[BestOverall] = ranked(5);
        f[BetterOverall] = ranked(20);
        f[GoodOverall] = ranked(80);
        f[DoubtfulOverall] = m_doubtful;
    }

  private:
    [[nodiscard]] float surerThan(float odds) const {
        return float(std::lower_bound(m_sorted.begin(), m_sorted.end(), odds, std::greater<>()) -
                     m_sorted.begin());
    }
    [[nodiscard]] float ranked(float aMegapixel) const {
        const auto i = size_t(aMegapixel * m_megapixels);
        return m_sorted.empty() ? kNobody : m_sorted[std::min(i, m_sorted.size() - 1)];
    }
    std::vector<float> m_sorted;
    float m_megapixels, m_true = 0, m_likely = 0, m_doubtful = 0;
};

/// Overlapping ones by their relation, the others by their distance.
void describeNeighbours(const std::vector<Member>& members, size_t own,
                        const std::vector<size_t>& about, float* f) {
    const Member& m = members[own];
    for (const int relation : {FinerOdds, CoarserOdds, SameLevelOdds, OtherPolarityOdds})
        f[relation] = kNobody;
    f[SurestAround] = kNobody;
    for (const size_t i : about) {
        if (i == own) continue;
        const Member& other = members[i];
        const auto shared = m.box & other.box;
        if (shared.area() > 0) {
            const int relation = relationOf(m, other);
            if (other.odds <= f[relation]) continue;
            f[relation] = other.odds;
            f[relation + 1] = shared.area() / m.box.area();
            f[relation + 2] = std::log2(other.box.area() / m.box.area());
            continue;
        }
        const float away = float(cv::norm(m.centre - other.centre));
        if (away > kAround) continue;
        const float p = probability(other.odds);
        f[TrueAround] += p;
        if (away < kNear) f[TrueNear] += p;
        if (other.odds > kLikely) ++f[LikelyAround];
        if (std::abs(other.odds - m.odds) < 1) ++f[AlikeAround];
        if (other.odds > m.odds) ++f[SurerAround];
        f[SurestAround] = std::max(f[SurestAround], other.odds);
    }
}

}  // namespace

std::vector<Reviewed> companyOf(const std::vector<Surveyed>& survey,
                                const std::vector<FirstOdds>& first, const Size& picture) {
    const auto members = membersOf(survey, first);
    const Neighbourhood neighbourhood(members);
    const Overall overall(members, picture);
    std::vector<Reviewed> out(members.size());
    forEach(int(members.size()), [&](int i) {
        const Member& m = members[size_t(i)];
        const Surveyed& s = survey[m.list];
        Reviewed& r = out[size_t(i)];
        r = {m.list, m.candidate, {}};
        const auto& own = s.described.features[m.candidate];
        float* f = std::copy(own.begin(), own.end(), r.features.data());
        f[TakenOdds] = m.odds;
        f[TreesOdds] = first[m.list].trees[m.candidate];
        f[LookOdds] = first[m.list].look[m.candidate];
        f[OwnLevel] = float(m.level);
        describeNeighbours(members, size_t(i), neighbourhood.about(m.box), f);
        overall.describe(m.odds, f);
    });
    return out;
}

}  // namespace gq::find
