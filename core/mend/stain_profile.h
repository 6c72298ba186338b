#pragma once
#include <vector>

#include "core/mend/stain_field.h"

namespace gq::mend {

/// What a stain adds to the logs, a value a pixel of the distance to its outline: from `kRimReach`
/// px outside inwards.
using StainProfile = std::vector<cv::Vec3f>;

/// The profile, each band of 1 px read in sectors around the stain, so that what the picture does
/// in some of them neither shifts the mean nor passes for sure. Colour is taken band by band where
/// it stands above its noise; brightness as colour makes it likely (a stain on paper takes most
/// from blue and least from red), and as soft steps that the sectors agree on, plainest first.
/// Source   shares above the noise: N. Wiener, 1949; steps picked one by one, on changes, whose
///          noise is even in pictures: Mallat, Zhang, IEEE Trans. Signal Processing 41(12), 1993.
/// `colour`: how much of blue over red was taken from the field before.
[[nodiscard]] StainProfile stainProfile(const StainField& field, double colour = 0);

/// Whether the sectors agree on a step upwards.
[[nodiscard]] bool looksPale(const StainField& field);

/// How well a step explains the field, as a log: the sectors agree on its height, and the picture
/// is as steep inside as outside.
[[nodiscard]] double plausibility(const StainField& field);

}  // namespace gq::mend
