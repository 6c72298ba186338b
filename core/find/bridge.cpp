#include "core/find/bridge.h"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <opencv2/imgproc.hpp>
#include <queue>

#include "core/find/join.h"
#include "core/find/kind.h"
#include "core/pixels/color.h"
#include "core/pixels/parallel.h"
#include "core/pixels/quantile.h"

namespace gq::find {
namespace {

constexpr int kFarthest = 14;                  ///< px over a gap
constexpr float kWidest = 8;                   ///< px; wider ones are no crumbs of a line
constexpr float kLargestDot = 3.5f;            ///< px; larger round ones are specks of their own
constexpr float kSure = 0.5f, kUnsure = 0.2f;  ///< confidence of the surer one, of the other
constexpr float kWhole = 40;       ///< px; on film two longer ones are lines of their own
constexpr float kLongCrumb = 100;  ///< px; on prints an unsure longer one is a line of its own
constexpr float kGoesOn = 0.5f, kOutstanding = 2;  ///< mean ridge of a way, of the findings' own
                                                   ///< and of what is usual around

float widthOf(const Finding& f) {
    return float(f.region.area()) / std::max(1.0f, f.measures.length);
}

/// May it be a piece of a thin line?
bool crumb(const Finding& f) {
    if (f.confidence < kUnsure || f.kind == Kind::Stain || f.kind == Kind::Loss) return false;
    const float width = widthOf(f);
    return width <= kWidest &&
           (isLine(f.kind) || f.measures.size <= kLargestDot || f.measures.length > 2.5f * width);
}

/// May they be pieces of one line? On prints a long one that is unsure is more often the picture's
/// own, and would become as sure as what it touches.
bool alike(const Finding& f, const Finding& g, Origin origin) {
    const float a = widthOf(f), b = widthOf(g);
    const bool whole = std::min(f.measures.length, g.measures.length) > kWhole;
    const auto& less = f.confidence < g.confidence ? f : g;
    const bool own = less.confidence < kSure && less.measures.length > kLongCrumb;
    return f.polarity == g.polarity && std::max(f.confidence, g.confidence) >= kSure &&
           std::max(a, b) < 2.5f * std::min(a, b) + 2 && !(origin == Origin::Print ? own : whole);
}

/// How sharply the tone bends down (light lines; up: dark ones) across the best direction.
ImageF ridgesOf(const ImageF& tone, Polarity polarity, float width) {
    ImageF smooth, xx, xy, yy, out(tone.size(), CV_32F);
    cv::GaussianBlur(tone, smooth, {}, std::clamp(0.5 * double(width), 0.9, 3.0));
    cv::Sobel(smooth, xx, CV_32F, 2, 0);
    cv::Sobel(smooth, xy, CV_32F, 1, 1);
    cv::Sobel(smooth, yy, CV_32F, 0, 2);
    const float sign = polarity == Polarity::Light ? -1.0f : 1.0f;
    const auto *a = xx.ptr<float>(), *b = xy.ptr<float>(), *c = yy.ptr<float>();
    auto* o = out.ptr<float>();
    for (size_t i = 0; i < out.total(); ++i) {
        const float mean = 0.5f * sign * (a[i] + c[i]), half = 0.5f * (a[i] - c[i]);
        o[i] = std::max(0.0f, mean + std::sqrt(half * half + b[i] * b[i]));
    }
    return out;
}

/// A way from one finding to another.
struct Bridge {
    size_t from = 0, to = 0;
    Region way;
};

/// A finding and the others that it may go on into.
class Neighbourhood {
  public:
    Neighbourhood(const std::vector<Finding>& all, size_t self, const std::vector<size_t>& others,
                  const Image& pixels)
        : m_self(self), m_width(widthOf(all[self])), m_picture(pixels.size()) {
        m_box = grown(all[self].region.box, kFarthest, m_picture);
        const Rect wide = grown(m_box, 6, m_picture);
        const ImageF ridges = ridgesOf(luma(pixels(wide)), all[self].polarity, m_width);
        m_ridges = ridges(m_box - wide.tl()).clone();
        m_who = cv::Mat(m_box.size(), CV_32S, cv::Scalar(kNobody));
        const auto mark = [&](size_t i) {
            const Region& r = all[i].region;
            const Rect in = r.box & m_box;
            if (!in.empty()) m_who(in - m_box.tl()).setTo(int(i), r.mask(in - r.box.tl()));
        };
        for (const size_t i : others) mark(i);
        mark(self);
        m_own = ridgeOf(int(self), 0.6);
        m_usual = ridgeOf(kNobody, 0.8);
    }

    /// The cheapest ways to those it goes on into.
    [[nodiscard]] std::vector<Bridge> bridges() const {
        std::vector<Bridge> out;
        if (m_own <= 0) return out;
        cv::Mat back(m_box.size(), CV_32S, cv::Scalar(-1));
        ImageF cost(m_box.size(), CV_32F, cv::Scalar(1e9f)), length = cost.clone();
        using Step = std::pair<float, int>;
        std::priority_queue<Step, std::vector<Step>, std::greater<>> front;
        for (int i = 0; i < m_box.area(); ++i)
            if (whoAt(i) == int(m_self)) {
                cost.ptr<float>()[i] = length.ptr<float>()[i] = 0;
                front.emplace(0.0f, i);
            }
        std::vector<int> met{kNobody, int(m_self)};
        while (!front.empty()) {
            const auto [far, i] = front.top();
            front.pop();
            if (far > cost.ptr<float>()[i]) continue;
            const int who = whoAt(i);
            if (std::find(met.begin(), met.end(), who) == met.end()) {
                met.push_back(who);
                if (goesOn(i, who, back))
                    out.push_back({m_self, size_t(who),
                                   stroke(wayTo(i, back), std::max(1.0f, m_width), m_picture)});
            }
            if (who != kNobody && who != int(m_self)) continue;
            const Point at(i % m_box.width, i / m_box.width);
            for (int dy = -1; dy <= 1; ++dy)
                for (int dx = -1; dx <= 1; ++dx) {
                    const Point next = at + Point(dx, dy);
                    if (!Rect({0, 0}, m_box.size()).contains(next)) continue;
                    const int j = next.y * m_box.width + next.x;
                    const float step = dx && dy ? 1.4142f : 1.0f,
                                ridge = std::min(m_ridges.ptr<float>()[j] / m_own, 1.0f),
                                sum = far + step / (0.1f + ridge),
                                run = length.ptr<float>()[i] + step;
                    if (sum >= cost.ptr<float>()[j] || run > kFarthest) continue;
                    cost.ptr<float>()[j] = sum;
                    length.ptr<float>()[j] = run;
                    back.ptr<int>()[j] = i;
                    front.emplace(sum, j);
                }
        }
        return out;
    }

  private:
    static constexpr int kNobody = -1;

    [[nodiscard]] int whoAt(int i) const { return m_who.ptr<int>()[i]; }

    /// Such a share of somebody's ridges here are lower.
    [[nodiscard]] float ridgeOf(int who, double share) const {
        std::vector<float> values;
        for (int i = 0; i < m_box.area(); ++i)
            if (whoAt(i) == who) values.push_back(m_ridges.ptr<float>()[i]);
        return quantile(std::move(values), share);
    }

    /// Is the line there all along the gap?
    [[nodiscard]] bool goesOn(int end, int who, const cv::Mat& back) const {
        const float own = std::min(m_own, ridgeOf(who, 0.6));
        float sum = 0, n = 0;
        for (int i = end; i >= 0; i = back.ptr<int>()[i])
            if (whoAt(i) == kNobody) sum += std::min(m_ridges.ptr<float>()[i], own), n += 1;
        return n == 0 || sum > n * std::max(kGoesOn * own, kOutstanding * m_usual);
    }

    [[nodiscard]] std::vector<PointF> wayTo(int end, const cv::Mat& back) const {
        std::vector<PointF> out;
        for (int i = end; i >= 0; i = back.ptr<int>()[i])
            out.push_back(PointF(m_box.tl() + Point(i % m_box.width, i / m_box.width)) +
                          PointF(0.5f, 0.5f));
        return out;
    }

    size_t m_self;
    float m_width;
    Size m_picture;
    Rect m_box;
    ImageF m_ridges;
    cv::Mat m_who;  ///< index of the finding at each pixel
    float m_own = 0, m_usual = 0;
};

/// For each finding the larger ones near it that may be pieces of the same line.
std::vector<std::vector<size_t>> neighboursOf(const std::vector<Finding>& all, Origin origin) {
    std::vector<size_t> order;
    for (size_t i = 0; i < all.size(); ++i)
        if (crumb(all[i])) order.push_back(i);
    const auto boxOf = [&](size_t i) { return all[i].region.box; };
    std::stable_sort(order.begin(), order.end(),
                     [&](size_t a, size_t b) { return boxOf(a).x < boxOf(b).x; });
    std::vector<std::vector<size_t>> out(all.size());
    for (auto i = order.begin(); i != order.end(); ++i) {
        const Rect here = boxOf(*i), wide(here.tl() - Point(kFarthest, kFarthest),
                                          here.br() + Point(kFarthest, kFarthest));
        for (auto j = i + 1; j != order.end() && boxOf(*j).x < wide.br().x; ++j) {
            if ((boxOf(*j) & wide).empty() || !alike(all[*i], all[*j], origin)) continue;
            const bool first = here.area() < boxOf(*j).area();
            out[first ? *i : *j].push_back(first ? *j : *i);
        }
    }
    return out;
}

/// Findings that were put together, by the surest of them.
class Groups {
  public:
    explicit Groups(size_t count) : m_top(count) { std::iota(m_top.begin(), m_top.end(), 0u); }
    [[nodiscard]] size_t topOf(size_t i) const {
        while (m_top[i] != i) i = m_top[i];
        return i;
    }
    void join(size_t a, size_t b) {
        a = topOf(a);
        b = topOf(b);
        m_top[std::max(a, b)] = std::min(a, b);
    }

  private:
    std::vector<size_t> m_top;
};

}  // namespace

std::vector<Finding> bridged(std::vector<Finding> all, const Image& pixels, Origin origin,
                             std::stop_token stop) {
    const auto near = neighboursOf(all, origin);
    std::vector<std::vector<Bridge>> found(all.size());
    forEach(
        int(all.size()),
        [&](int i) {
            const auto self = size_t(i);
            if (!near[self].empty())
                found[self] = Neighbourhood(all, self, near[self], pixels).bridges();
        },
        stop);
    if (stop.stop_requested()) return {};
    Groups groups(all.size());
    for (const auto& some : found)
        for (const auto& bridge : some) groups.join(bridge.from, bridge.to);
    for (const auto& some : found)
        for (const auto& bridge : some) {
            Finding& f = all[groups.topOf(bridge.from)];
            f.region = together(f.region, bridge.way);
        }
    std::vector<Finding> out;
    for (size_t i = 0; i < all.size(); ++i) {
        if (groups.topOf(i) != i) continue;
        Finding& f = all[i];
        const int alone = f.region.area();
        for (size_t j = i + 1; j < all.size(); ++j)
            if (groups.topOf(j) == i) absorb(f, all[j], pixels.size());
        if (!isLine(f.kind) && f.region.area() > alone) f.kind = kindOf(f.measures, 0, origin);
        out.push_back(std::move(f));
    }
    return out;
}

}  // namespace gq::find
