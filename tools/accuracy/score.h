#pragma once
#include <map>
#include <vector>

#include "core/find/finding.h"
#include "sim/wear.h"

namespace gq::accuracy {

/// How well findings meet true wear.
struct Score {
    struct Count {
        int asked = 0;  ///< pieces that can be told from their surroundings
        int found = 0;
    };
    std::map<sim::WearKind, Count> kinds;
    double askedLine = 0, foundLine = 0;  ///< px of scratches' and cracks' pieces asked for
    int findings = 0;                     ///< above the line
    int wrong = 0;                        ///< with under 10 % on wear
    double megapixels = 0;

    [[nodiscard]] Count all() const;
    [[nodiscard]] double recall() const;     ///< 1 when nothing was asked for
    [[nodiscard]] double precision() const;  ///< 1 when nothing was found
    [[nodiscard]] double f1() const;
    /// How much of the scratches and cracks is covered; 1 without any.
    [[nodiscard]] double lineShare() const;
    [[nodiscard]] double wrongPerMegapixel() const { return wrong / megapixels; }
    void add(const Score& other);
};

/// A piece counts as found with 30 % of it under findings of at least `line` grown by 2 px; lines
/// are cut into pieces of 128 px, and of scratches and cracks the covered share counts too. Not
/// asked for: pieces that change the picture by less than 1.5 of 255, by less than 1.2 times the
/// fine texture around them, or by less than 1.5 times what the picture itself varies by between
/// such an outline and its ring, at eight places beside.
[[nodiscard]] Score score(const std::vector<find::Finding>& findings, float line,
                          const sim::Worn& truth);

}  // namespace gq::accuracy
