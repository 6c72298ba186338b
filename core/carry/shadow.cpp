#include "core/carry/shadow.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/carry/sheet.h"
#include "core/carry/slopes.h"
#include "core/carry/softening.h"
#include "core/pixels/color.h"

namespace gq::carry {
namespace {

constexpr float kCorrelated = 30;  ///< px that tell as much as one: texture is not independent
constexpr float kCalm = 0.08f;     ///< spread of surroundings over a shadow's depth
constexpr float kShows = 0.004f;   ///< held back; less cannot be seen anywhere
constexpr float kMasked = 0.1f;    ///< of the surroundings' spread; less is lost in them
constexpr double kTold = 1;        ///< log likelihood from which a frame shows it by itself
constexpr float kChange = 128;     ///< of 65535; half a code of 8 bits
/// px; how much softer than by its f-number alone a frame may show a shadow, and what log
/// likelihood that must gain.
constexpr std::array<float, 3> kSofter{1, 2, 3.5f};
constexpr double kSofterTold = 3;
constexpr float kDarkest = 0.88f;  ///< held back; under it too little of the picture is left
constexpr float kDeep = -0.03f;    ///< log share; where it is deeper, what is left is judged
constexpr double kLeft = 2;        ///< of the surroundings' spread; what is left is none of theirs
constexpr double kSeen = 0.02;     ///< log light; less that is left is hardly seen
constexpr double kBusy = 0.6;      ///< spread over a shadow's mean; such surroundings know nothing

}  // namespace

ImageF logShareAt(const Shadow& s, double aperture, float softer) {
    const float sigma = sigmaAt(s.spread, s.aperture, aperture);
    ImageF out = Softening(std::hypot(sigma, softer))(s.held);
    out = cv::min(out, kDarkest + 0.05f);
    cv::log(ImageF(1 - out), out);
    return out;
}

ImageF blurredAsLearnt(const ImageF& share) {
    ImageF out;
    cv::GaussianBlur(share, out, {}, double(kLearntBlur) * std::sqrt(2.0), 0, cv::BORDER_REPLICATE);
    return out;
}

namespace {

/// Strength of a known shadow in what a frame shows, by correlation.
struct Strength {
    double value = 0, error = 1e6;
};

Strength strengthIn(const Departure& seen, const ImageF& known) {
    double yk = 0, kk = 0;
    for (size_t p = 0; p < known.total(); ++p) {
        const float k = known.ptr<float>()[p];
        if (k > -kLeastShare) continue;
        const float y = seen.logs.ptr<float>()[p],
                    off = std::abs(y - k) / std::hypot(seen.noise, 0.3f * k);
        const double w = double(seen.trust.ptr<float>()[p]) * (off > 2 ? 2 / double(off) : 1.0);
        yk += w * double(y * k);
        kk += w * double(k * k);
    }
    if (kk <= 0) return {};
    return {yk / kk,
            double(std::hypot(seen.noise, kLeastNoise)) * std::sqrt(double(kCorrelated) / kk)};
}

/// Precision-weighted mean of a known shadow's strength, a prior that it is as known, and what
/// told.
double drawnTogether(const Strength& tones, const Slopes::Match& slopes) {
    double sum = 1 / double(kDepthDoubt * kDepthDoubt), weights = sum;
    const auto take = [&](double value, double error) {
        sum += value / (error * error);
        weights += 1 / (error * error);
    };
    if (slopes.told > 0) take(slopes.strength, slopes.error);
    take(tones.value, tones.error);
    return std::clamp(sum / weights, 0.3, 1.6);
}

/// True if what dividing a shadow out leaves stands out from surroundings calm enough to tell.
bool leavesMarks(const Departure& seen, const ImageF& logShare) {
    const ImageF spread = spreadNear(seen);
    double left = 0, around = 0, depth = 0;
    int n = 0;
    for (size_t p = 0; p < logShare.total(); ++p) {
        const float k = logShare.ptr<float>()[p];
        if (k > kDeep || seen.trust.ptr<float>()[p] < 0.99f) continue;
        const float l = seen.logs.ptr<float>()[p] - k;
        left += double(l * l);
        around += double(spread.ptr<float>()[p]);
        depth -= double(k);
        ++n;
    }
    return std::sqrt(left * n) > std::max(kLeft * around, kSeen * n) && around < kBusy * depth;
}

/// True if dividing it out changes the picture by what can be seen, at every fourth pixel.
bool changes(const Image& pixels, const ImageF& logShare, Point at) {
    const int channels = pixels.channels();
    for (int y = 0; y < logShare.rows; y += 2)
        for (int x = 0; x < logShare.cols; x += 2) {
            const float through = std::exp(logShare.at<float>(y, x));
            const auto* p = pixels.ptr<ushort>(at.y + y) + (at.x + x) * channels;
            for (int c = 0; c < channels; ++c)
                if (fromLinear(std::min(toLinear(p[c]) / through, 1.0f)) - float(p[c]) > kChange)
                    return true;
        }
    return false;
}

/// What is known of a shadow was seen through two slight blurs (of the frames' tones, and of the
/// result): their variance is taken off again, to the first order.
ImageF sharpened(const ImageF& known) {
    constexpr double kTaken = 2 * kLearntBlur * kLearntBlur, kSigma = 1.0;
    ImageF soft;
    cv::GaussianBlur(known, soft, {}, kSigma);
    return cv::min(ImageF(known + (known - soft) * (kTaken / (kSigma * kSigma))), 0.0f);
}

}  // namespace

ShadowFit fitShadow(const Shadow& shadow, const Image& pixels, const series::Frame& frame) {
    ShadowFit out;
    ImageF known = logShareAt(shadow, frame.aperture);
    double least = 0;
    cv::minMaxLoc(known, &least);
    const auto deepest = float(1 - std::exp(least));  // share held back
    if (deepest < kLeastShare) return out;
    const Mask cover = known < std::log(1 - kLeastShare);
    const auto seen = departureAt(pixels, frame.geometry, shadow.box, cover);
    out.untold = !seen.told;
    Strength tones;
    Slopes::Match slopes;
    if (seen.told) {
        const Slopes view(seen, cover);
        slopes = view.match(known);
        const bool softens = shadow.aperture == 0 && shadow.spread > 0;
        for (const float more : kSofter) {
            const ImageF softer = logShareAt(shadow, frame.aperture, more);
            const auto match = view.match(softer);
            if (match.told <= slopes.told + (softens ? 0 : kSofterTold)) continue;
            slopes = match;
            known = softer;
        }
        // Tones tell of a shadow only where the picture has none of its own.
        if (seen.noise < kCalm * std::abs(float(least))) tones = strengthIn(seen, known);
    }
    out.strength = float(drawnTogether(tones, slopes));
    const double odd = (slopes.strength - 1) / double(kDepthDoubt);
    const bool seenByItself = slopes.told > kTold + odd * odd / 2,
               likely = slopes.evidence + presenceAt(shadow.witnesses, frame.taken) > 0;
    out.shows = seen.told && likely && deepest >= kShows &&
                (seenByItself || deepest > kMasked * seen.noise);

    // Laid on the frame's own pixels.
    const FrameGeometry& g = frame.geometry;
    const Rect box = g.boxFromSensor(shadow.box) & Rect({0, 0}, pixels.size());
    if (box.empty()) return out;
    const cv::Matx23d map = sensorToStored(g, shadow.box.tl(), box.tl());
    ImageF logShare;
    cv::warpAffine(ImageF(sharpened(known) * double(out.strength)), logShare, map, box.size(),
                   cv::INTER_LINEAR, cv::BORDER_CONSTANT, cv::Scalar(0));
    out.shows = out.shows && changes(pixels, logShare, box.tl());
    if (deepest > kDarkest) return out;
    out.clean = out.untold || !leavesMarks(seen, known * double(out.strength));
    out.mend.region = regionOf(Mask(logShare < -kLeastShare), box.tl());
    if (out.mend.region.empty()) return out;
    const Rect& tight = out.mend.region.box;
    auto shade = std::make_shared<mend::KnownShade>();
    shade->box = tight;
    shade->logShare = logShare(tight - box.tl()).clone();
    out.mend.method = mend::Method::Unshade;
    out.mend.softness = 0;
    out.mend.shade = std::move(shade);
    return out;
}

}  // namespace gq::carry
