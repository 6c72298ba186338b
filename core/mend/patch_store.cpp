#include "core/mend/patch_store.h"

namespace gq::mend {

namespace {

size_t bytesOf(const Patch& p) {
    return p.pixels.total() * p.pixels.elemSize() + p.footprint.total();
}

}  // namespace

std::uint64_t patchKey(const Mend& mend, const std::vector<Region>& avoid) {
    std::uint64_t key = contentKey(mend);
    for (const auto& r : avoid) {
        key = hashBytes(&r.box, sizeof r.box, key);
        key = hashBytes(r.mask.data, r.mask.isContinuous() ? r.mask.total() : 0, key);
    }
    return key;
}

PatchPtr PatchStore::find(std::uint64_t key) const {
    const std::lock_guard lock(m_mutex);
    const auto found = m_patches.find(key);
    return found == m_patches.end() ? nullptr : found->second;
}

void PatchStore::keep(std::uint64_t key, PatchPtr patch) {
    const std::lock_guard lock(m_mutex);
    auto& place = m_patches[key];
    if (place)
        m_bytes -= bytesOf(*place);
    else
        m_order.push_back(key);
    m_bytes += bytesOf(*patch);
    place = std::move(patch);
    while (m_bytes > m_most) {
        const auto oldest = m_patches.find(m_order.front());
        m_bytes -= bytesOf(*oldest->second);
        m_patches.erase(oldest);
        m_order.pop_front();
    }
}

void PatchStore::clear() {
    const std::lock_guard lock(m_mutex);
    m_patches.clear();
    m_order.clear();
    m_bytes = 0;
}

}  // namespace gq::mend
