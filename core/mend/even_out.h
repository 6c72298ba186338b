#pragma once
#include <stop_token>

#include "core/mend/stain_field.h"

namespace gq::mend {

/// What a stain does to the light, as factors to divide by.
struct Stain {
    cv::Mat gain;        ///< CV_32FC3 like the window, 1 where nothing is to be done
    bool faded = false;  ///< they belong to what white paper has over the picture, not to the light
    Mask lost;           ///< inside: made so dark or so bright that nothing of the picture is left

    /// The value without the stain. `at`: a pixel of the window.
    [[nodiscard]] Vec4 restored(Vec4 value, Point at) const;
};

/// Measures the tint of a stain of the given outline, its dark or pale rim included.
///
/// A profile along the distance to the outline (-32 .. +44 px) holds rim and plate but none of the
/// picture. A pale patch is measured as faded towards white too, and the likelier way is taken. On
/// prints of one colour, where colour follows tone by one curve, the departure from that curve then
/// gives the local strength of the tint; elsewhere a membrane through what step is left along the
/// outline does, where the picture's own variety does not explain it.
/// Shapes   `inside`: the outline's pixels, like the window; the window has no hole there.
/// Errors   Cancelled; BadSetting when under 200 px lie around the outline to compare with.
/// Source   membrane by masked pyramids: Farbman, Fattal, Lischinski, ACM TOG 30(6), 2011; the
///          profile: see stain_profile.h; colour curve from our own trials.
[[nodiscard]] Result<Stain> measureStain(const Window& window, const Mask& inside,
                                         std::stop_token stop);

}  // namespace gq::mend
