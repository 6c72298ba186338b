#pragma once
#include <stop_token>

#include "core/mend/stain_field.h"

namespace gq::mend {

/// What a stain does to the light, as factors to divide by.
struct Stain {
    cv::Mat gain;        ///< CV_32FC3 like the window, 1 where nothing is to be done
    bool faded = false;  ///< they belong to what white paper has over the picture, not to the light
    Mask lost;           ///< inside: made so dark or so bright that nothing of the picture is left

    [[nodiscard]] Vec4 restored(Vec4 value, Point at) const;
};

/// Measures the tint of a stain of the given outline, its dark or pale rim included.
///
/// Logs of values are differentiated along the distance to the outline, a band of 1 px at a time,
/// in sectors around the stain; the trimmed mean over the sectors, as far as it stands above its
/// own standard error, adds up to a profile (-32 .. +44 px) that holds rim and plate but none of
/// the picture. Brightness leans on colour, since a stain takes most from blue. On prints of one
/// colour, where colour follows tone by one curve, the departure from that curve then gives the
/// local strength of the tint; elsewhere a membrane through what step is left along the outline
/// does, where the picture's own variety does not explain it. Shapes   `inside`: the outline's
/// pixels, like the window; the window has no hole there. Errors   Cancelled; BadSetting when under
/// 200 px lie around the outline to compare with. Source   membrane by masked pyramids: Farbman,
/// Fattal, Lischinski, ACM TOG 30(6), 2011; shares
///          above the noise: N. Wiener, 1949; profile and colour curve from our own trials.
[[nodiscard]] Result<Stain> measureStain(const Window& window, const Mask& inside,
                                         std::stop_token stop);

}  // namespace gq::mend
