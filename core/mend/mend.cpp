#include "core/mend/mend.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/mend/even_out.h"
#include "core/pixels/thickness.h"

namespace gq::mend {
namespace {

constexpr std::array<std::pair<Method, const char*>, 8> kWords{{{Method::Heal, "heal"},
                                                                {Method::Clone, "clone"},
                                                                {Method::Span, "span"},
                                                                {Method::Rebuild, "rebuild"},
                                                                {Method::EvenOut, "even-out"},
                                                                {Method::Unshade, "unshade"},
                                                                {Method::TouchIn, "touch-in"},
                                                                {Method::Sift, "sift"}}};

constexpr double kThick = 20;     ///< half-width over which texture must be completed, px
constexpr int kThickArea = 1500;  ///< px
constexpr double kSlender = 2.5;  ///< length over width of a line

template <typename T>
void add(std::uint64_t& key, const T& value) {
    static_assert(std::has_unique_object_representations_v<T> || std::is_floating_point_v<T>);
    key = hashBytes(&value, sizeof value, key);
}

}  // namespace

std::string word(Method method) {
    return kWords[size_t(method)].second;
}

std::optional<Method> methodFromWord(const std::string& text) {
    for (const auto& [method, name] : kWords)
        if (text == name) return method;
    return std::nullopt;
}

const std::vector<Method>& allMethods() {
    static const std::vector<Method> all = [] {
        std::vector<Method> out;
        for (const auto& entry : kWords) out.push_back(entry.first);
        return out;
    }();
    return all;
}

bool hasSource(Method method) {
    return method == Method::Heal || method == Method::Clone;
}

bool keepsPicture(Method method) {
    return method == Method::EvenOut || method == Method::Unshade || method == Method::Sift;
}

namespace {

int reachOf(const Mend& mend) {
    if (mend.method == Method::Unshade && mend.shade) return 0;  // it fades out by itself
    return mend.method == Method::EvenOut ? kRimReach : int(std::ceil(mend.softness));
}

}  // namespace

Region footprint(const Mend& mend, const Size& picture) {
    return grown(mend.region, reachOf(mend), picture);
}

Rect footprintBox(const Mend& mend, const Size& picture) {
    const int reach = reachOf(mend);
    return reach > 0 ? grown(mend.region.box, reach, picture) : mend.region.box;
}

Method methodFor(const Region& region) {
    const double half = inscribedRadius(region);
    const int area = region.area(), length = std::max(region.box.width, region.box.height);
    if (half > kThick && area > kThickArea) return Method::Rebuild;
    const bool line = double(area) > 9.4 * half * half && length > kSlender * 2 * half;
    return line ? Method::Span : Method::Heal;
}

std::uint64_t hashBytes(const void* data, size_t size, std::uint64_t seed) {
    const auto* p = static_cast<const unsigned char*>(data);
    for (size_t i = 0; i < size; ++i) seed = (seed ^ p[i]) * 1099511628211ull;
    return seed;
}

std::uint64_t contentKey(const Mend& m) {
    const int numbers[] = {m.region.box.x,
                           m.region.box.y,
                           m.region.box.width,
                           m.region.box.height,
                           int(m.method),
                           m.source ? m.source->x : 0,
                           m.source ? m.source->y : 0,
                           m.source ? 1 : 0,
                           m.candidate,
                           m.turn.mirrored,
                           m.sifting.light,
                           m.sifting.dark};
    const float settings[] = {m.softness,        m.strength,        m.grain,   m.turn.degrees,
                              m.turn.scale,      m.tone[0],         m.tone[1], m.tone[2],
                              m.sifting.largest, m.sifting.contrast};
    std::uint64_t key = hashBytes(numbers, sizeof numbers);
    key = hashBytes(settings, sizeof settings, key);
    for (const auto& line : m.guides) {
        add(key, line.size());
        for (const PointF& p : line) add(key, p.x), add(key, p.y);
    }
    if (!m.within.empty()) {
        key = hashBytes(&m.within.box, sizeof m.within.box, key);
        key = hashBytes(m.within.mask.data, m.within.mask.total(), key);
    }
    if (m.shade) {
        add(key, m.shade->box.x), add(key, m.shade->box.y);
        key = hashBytes(m.shade->logShare.data, m.shade->logShare.total() * sizeof(float), key);
    }
    if (m.lent) {
        add(key, m.lent->box.x), add(key, m.lent->box.y);
        key =
            hashBytes(m.lent->pixels.data, m.lent->pixels.total() * m.lent->pixels.elemSize(), key);
    }
    return m.region.mask.isContinuous() ? hashBytes(m.region.mask.data, m.region.mask.total(), key)
                                        : key;
}

}  // namespace gq::mend
