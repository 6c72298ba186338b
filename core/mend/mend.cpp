#include "core/mend/mend.h"

#include <cmath>

namespace gq::mend {

std::string word(Method) {
    return "heal";
}

std::optional<Method> methodFromWord(const std::string& text) {
    if (text == "heal") return Method::Heal;
    return std::nullopt;
}

Region footprint(const Mend& mend, const Size& picture) {
    return grown(mend.region, int(std::ceil(mend.softness)), picture);
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
                           m.candidate};
    const float settings[] = {m.softness, m.strength, m.grain};
    std::uint64_t key = hashBytes(numbers, sizeof numbers);
    key = hashBytes(settings, sizeof settings, key);
    return m.region.mask.isContinuous() ? hashBytes(m.region.mask.data, m.region.mask.total(), key)
                                        : key;
}

}  // namespace gq::mend
