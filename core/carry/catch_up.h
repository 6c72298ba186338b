#pragma once
#include "core/carry/carry.h"

namespace gq::carry {

/// A reference with the keys of its mends' contents, worked out once for many frames. The frame
/// must outlive it.
struct KeyedReference {
    explicit KeyedReference(const series::Frame& reference);
    const series::Frame& frame;
    std::vector<std::uint64_t> keys;  ///< in the order of its mends
};

/// What a frame lacks of what the reference has by now.
struct Behind {
    std::vector<series::Id> mends;  ///< of the reference: new, or changed since they were carried
    std::vector<series::Id> gone;   ///< carried once; muted or deleted there since

    [[nodiscard]] bool empty() const { return mends.empty() && gone.empty(); }
};
[[nodiscard]] Behind behind(const KeyedReference& reference, const series::Frame& target);

/// The target with what it lacks; all else of it stays, what was accepted or dropped by hand too.
/// `shadows` as `carryTo` takes them. Errors: those of `carryTo`.
[[nodiscard]] Result<series::Frame> caughtUp(const Image& pixels, const series::Frame& reference,
                                             const series::Frame& target, float line,
                                             series::Id& nextId, const Shadows& shadows = {},
                                             bool unshade = true, std::stop_token stop = {});

}  // namespace gq::carry
