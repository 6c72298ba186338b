#pragma once
#include <cstdint>
#include <deque>
#include <mutex>
#include <unordered_map>

#include "core/mend/patch.h"

namespace gq::mend {

/// A number that changes with the mend and with what it avoids: on one picture, all that its patch
/// depends on.
[[nodiscard]] std::uint64_t patchKey(const Mend& mend, const std::vector<Region>& avoid);

/// Patches of one picture by `patchKey`, so that what was made to judge a mend need not be made
/// again when it is laid.
/// Threads: re-entrant.
class PatchStore {
  public:
    /// Beyond `most` bytes the oldest are let go.
    explicit PatchStore(size_t most = SIZE_MAX) : m_most(most) {}

    /// Null if there is none.
    [[nodiscard]] PatchPtr find(std::uint64_t key) const;
    void keep(std::uint64_t key, PatchPtr patch);
    void clear();

  private:
    mutable std::mutex m_mutex;
    std::unordered_map<std::uint64_t, PatchPtr> m_patches;
    std::deque<std::uint64_t> m_order;  ///< oldest first
    size_t m_most, m_bytes = 0;
};

}  // namespace gq::mend
