#pragma once
#include <vector>

#include "core/find/finding.h"

namespace gq::find {

/// A stain, or a haze that covers far more than a grain of dust: it lies under others.
[[nodiscard]] bool broad(const Finding& f);

/// How a finding stands to those that it holds.
struct Standing {
    float surest = 0;  ///< confidence of the surest of them and itself
    int depth = 0;     ///< 0 = holds none, 1 = crumbs, 2 = what holds crumbs ..
};

/// Of each finding, in order. A large shadow seen by a fine level is a hollow rim, often in crumbs,
/// and these may be surer than the whole, which should be asked before them all the same. A sure
/// shadow (confidence of 0.5 and over) that is not broad holds what is sure too, though not much
/// surer than itself, clearly smaller, of its polarity, and mostly inside it. Other kinds hold
/// none: a blot on a crack would swallow the crack's pieces.
[[nodiscard]] std::vector<Standing> standingsOf(const std::vector<Finding>& all);

/// A flake of one flat tone is one piece, however much surer blotches within it are: a sure one
/// takes up the specks of `all` that lie in it, and is as sure as the surest of them.
void takeUpCrumbs(std::vector<Finding>& flakes, std::vector<Finding>& all);

}  // namespace gq::find
