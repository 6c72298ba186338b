#include "core/mend/even_out.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/mend/stain_profile.h"

namespace gq::mend {
namespace {

constexpr int kFade = 8;              ///< px over which the outer end of the profile fades in
constexpr int kPasses = 3;            ///< over what is left of a stain
constexpr double kOneColour = 0.035;  ///< spread about the colour curve of a print of one colour
constexpr double kVariety = 1500;     ///< times the picture's own spread that a step must exceed
constexpr float kBlack = 1.5f / 255, kDarkened = 0.5f, kBleached = 1.25f;
constexpr float kSomeKnown = 0.05f;  ///< share of a neighbourhood; with less the wider one tells
constexpr double kTinted = 0.045;    ///< least colour of a stain for the curve to be of use

/// A value of the profile at some distance, faded in from outside.
template <typename T>
T along(const std::vector<T>& profile, float distance) {
    const float from = distance + float(kRimReach),
                at = std::clamp(from, 0.0f, float(profile.size()) - 1.001f);
    const auto i = size_t(at);
    const float t = at - float(i);
    return (profile[i] * (1 - t) + profile[i + 1] * t) *
           std::clamp(from / float(kFade), 0.0f, 1.0f);
}

cv::Mat profileField(const StainField& f, const StainProfile& profile) {
    cv::Mat out(f.distance.size(), CV_32FC3);
    for (int y = 0; y < out.rows; ++y)
        for (int x = 0; x < out.cols; ++x) {
            const float d = f.distance.at<float>(y, x);
            out.at<cv::Vec3f>(y, x) = along(profile, d);
        }
    return out;
}

/// A smooth sheet through values known where `weight` is set, by pyramids of masked means.
cv::Mat sheet(const cv::Mat& values, const cv::Mat& weight) {
    std::vector<cv::Mat> v{values.mul(three(weight))}, w{weight};
    while (std::min(v.back().rows, v.back().cols) > 2) {
        cv::Mat a, b;
        cv::pyrDown(v.back(), a);
        cv::pyrDown(w.back(), b);
        v.push_back(a);
        w.push_back(b);
    }
    cv::Mat out;
    cv::divide(v.back(), three(cv::max(w.back(), 1e-6f)), out);
    for (size_t i = v.size() - 1; i-- > 0;) {
        cv::Mat up, own;
        cv::pyrUp(out, up, v[i].size());
        cv::divide(v[i], three(cv::max(w[i], 1e-6f)), own);
        const cv::Mat k = three(cv::min(w[i], 1.0f));
        out = own.mul(k) + up.mul(cv::Scalar::all(1) - k);
    }
    cv::GaussianBlur(out, out, {}, 3);
    return out;
}

/// The profile, and what it leaves, again: what was held for noise the first time stands out once
/// the plainest is taken away. Source  "twicing": J. Tukey, Exploratory Data Analysis, 1977.
/// Stopped: nothing of use.
StainProfile wholeProfile(const StainField& f, const std::stop_token& stop, double colour = 0) {
    StainProfile out = stainProfile(f, colour);
    for (const auto& v : out) colour = std::max(colour, std::abs(double(v[2] - v[0])));
    for (int pass = 1; pass < kPasses && !stop.stop_requested(); ++pass) {
        StainField rest = f;
        rest.logs = cv::Mat(f.logs - profileField(f, out));
        const StainProfile more = stainProfile(rest, colour);
        for (size_t k = 0; k < out.size(); ++k) out[k] += more[k];
    }
    return out;
}

/// What step is left along the outline, spread over the inside.
cv::Mat stepLeft(const StainField& f, const cv::Mat& taken) {
    constexpr float kNear = 14, kFar = 40;
    const cv::Mat rest = f.logs - taken;
    const auto strip = [&](float sign) {
        cv::Mat out(f.distance.size(), CV_32F);
        for (int y = 0; y < out.rows; ++y)
            for (int x = 0; x < out.cols; ++x) {
                const float d = sign * f.distance.at<float>(y, x);
                out.at<float>(y, x) = d > kNear && d < kFar ? f.known.at<float>(y, x) : 0.0f;
            }
        return out;
    };
    // A step that the picture's own variety explains is the picture's.
    const cv::Mat strips[] = {strip(1), strip(-1)};
    cv::Mat share[2], mean[2], varied[2];
    for (int i = 0; i < 2; ++i) {
        mean[i] = maskedBlur(rest, strips[i], double(kNear), share[i]);
        varied[i] = maskedBlur(rest.mul(rest), strips[i], double(kNear), share[i]);
        varied[i] -= mean[i].mul(mean[i]);
    }
    const cv::Mat edge = (cv::abs(f.distance) <= 1.5) & (share[0] > 1e-3) & (share[1] > 1e-3);
    cv::Mat weight, step = mean[0] - mean[1], sure;
    const cv::Mat square = step.mul(step);
    cv::divide(square,
               square + kVariety * cv::max(varied[0] + varied[1], 0.0) + cv::Scalar::all(1e-9),
               sure);
    step = step.mul(sure);
    edge.convertTo(weight, CV_32F, 1.0 / 255);
    cv::Mat spread = sheet(step, weight);
    for (int y = 0; y < spread.rows; ++y)
        for (int x = 0; x < spread.cols; ++x) {
            const float t =
                std::clamp((f.distance.at<float>(y, x) + kNear) / (2 * kNear), 0.0f, 1.0f);
            spread.at<cv::Vec3f>(y, x) *= t * t * (3 - 2 * t);
        }
    return spread;
}

/// How blue over red follows red outside the stain: a parabola, if it is one curve.
struct ColourCurve {
    cv::Vec3d fit;
    double spread = 1;
    [[nodiscard]] double at(double red) const { return fit[0] + (fit[1] + fit[2] * red) * red; }
};

ColourCurve colourCurve(const StainField& f) {
    cv::Matx33d m = cv::Matx33d::eye() * 1e-6;
    cv::Vec3d v;
    double square = 0, n = 0;
    for (int y = 0; y < f.logs.rows; ++y)
        for (int x = 0; x < f.logs.cols; ++x) {
            if (f.distance.at<float>(y, x) > -kRimReach || f.known.at<float>(y, x) <= 0) continue;
            const auto& l = f.logs.at<cv::Vec3f>(y, x);
            const double red = double(l[0]), colour = double(l[2] - l[0]);
            const cv::Vec3d base(1, red, red * red);
            m += base * base.t();
            v += base * colour;
            square += colour * colour;
            n += 1;
        }
    ColourCurve out;
    if (n < 200) return out;
    out.fit = m.solve(v, cv::DECOMP_CHOLESKY);
    out.spread = std::sqrt(std::max(0.0, (square - out.fit.dot(v)) / n));
    return out;
}

/// What a profile says of the inside, away from the rim.
cv::Vec3f plateOf(const StainProfile& profile) {
    cv::Vec3f out;
    for (size_t k = profile.size() - 8; k < profile.size(); ++k) out += profile[k] * (1 / 8.0f);
    return out;
}

/// Tint by colour: its strength at each place, times its colour, plus what a rim has besides.
/// Stopped: nothing of use.
cv::Mat byColour(const StainField& f, const StainProfile& profile, const ColourCurve& curve,
                 const std::stop_token& stop) {
    const cv::Vec3f plate = plateOf(profile);
    const float tint = plate[2] - plate[0];
    cv::Mat strength(f.distance.size(), CV_32F, cv::Scalar(1));
    for (int round = 0; round < 3; ++round) {
        cv::Mat departure(f.distance.size(), CV_32FC3, cv::Scalar::all(0)), share;
        for (int y = 0; y < departure.rows; ++y)
            for (int x = 0; x < departure.cols; ++x) {
                const auto& l = f.logs.at<cv::Vec3f>(y, x);
                const double red = double(l[0] - strength.at<float>(y, x) * plate[0]);
                departure.at<cv::Vec3f>(y, x)[0] =
                    float((double(l[2] - l[0]) - curve.at(red)) / double(tint));
            }
        cv::Mat soft = maskedBlur(departure, f.known, round == 2 ? 1.6 : 4, share);
        const cv::Mat alone = kSomeKnown > share;
        if (cv::countNonZero(alone) > 0) sheet(departure, f.known).copyTo(soft, alone);
        cv::extractChannel(soft, strength, 0);
        strength = cv::min(cv::max(strength, 0.0f), 3.0f);
    }
    cv::Mat out(f.distance.size(), CV_32FC3);
    for (int y = 0; y < out.rows; ++y)
        for (int x = 0; x < out.cols; ++x)
            out.at<cv::Vec3f>(y, x) = f.distance.at<float>(y, x) > -kRimReach
                                          ? plate * strength.at<float>(y, x)
                                          : cv::Vec3f();
    StainField rest = f;
    rest.logs = cv::Mat(f.logs - out);
    StainProfile rim = wholeProfile(rest, stop, std::abs(double(tint)));
    const cv::Vec3f inner = plateOf(rim);
    for (size_t k = 0; k < rim.size(); ++k)
        rim[k] -= inner * std::clamp((float(k) - float(kRimReach) + 14) / 28, 0.0f, 1.0f);
    return out + profileField(f, rim);
}

}  // namespace

Vec4 Stain::restored(Vec4 v, Point p) const {
    const auto& g = gain.at<cv::Vec3f>(p);
    for (int c = 0; c < 3; ++c) v[c] = unmultiplied(multiplied(v[c], faded) / g[c], faded);
    return v;
}

Result<Stain> measureStain(const Window& w, const Mask& inside, std::stop_token stop) {
    StainField f = stainField(w, inside, false);
    if (cv::countNonZero((f.distance < -2) & (f.distance > -40) & (f.known > 0)) < 200)
        return fail(Error::Kind::BadSetting, "there is too little around the area to compare with",
                    {}, "Outline less of the picture, or use Rebuild.");
    if (looksPale(f))
        if (auto faded = stainField(w, inside, true); plausibility(faded) > plausibility(f))
            f = std::move(faded);
    const StainProfile profile = wholeProfile(f, stop);
    if (stop.stop_requested()) return cancelled();
    const ColourCurve curve = colourCurve(f);
    const cv::Vec3f& plate = profile.back();
    const bool oneColour =
        !f.faded && curve.spread < kOneColour && std::abs(double(plate[2] - plate[0])) > kTinted;
    cv::Mat tint;
    if (oneColour) {
        tint = byColour(f, profile, curve, stop);
    } else {
        tint = profileField(f, profile);
        tint += stepLeft(f, tint);
    }
    if (stop.stop_requested()) return cancelled();
    Stain out;
    out.faded = f.faded;
    cv::exp(tint, out.gain);
    // Black or white that the stain made so, not the picture.
    out.lost = Mask(inside.size(), CV_8U, cv::Scalar(0));
    for (int y = 0; y < inside.rows && !f.faded; ++y)
        for (int x = 0; x < inside.cols; ++x) {
            if (!inside.at<uchar>(y, x)) continue;
            const Vec4& v = w.at(x, y);
            const auto& g = out.gain.at<cv::Vec3f>(y, x);
            const float through = (g[0] + g[1] + g[2]) / 3;
            const bool black =
                std::max({v[0], v[1], v[2]}) < kBlack &&
                through<kDarkened, white = std::min({v[0], v[1], v[2]})> 1 - kBlack &&
                through > kBleached;
            if (black || white) out.lost.at<uchar>(y, x) = 255;
        }
    return out;
}

}  // namespace gq::mend
