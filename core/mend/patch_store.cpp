#include "core/mend/patch_store.h"

namespace gq::mend {

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
    m_patches[key] = std::move(patch);
}

void PatchStore::clear() {
    const std::lock_guard lock(m_mutex);
    m_patches.clear();
}

}  // namespace gq::mend
