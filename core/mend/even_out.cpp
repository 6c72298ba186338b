#include "core/mend/even_out.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

namespace gq::mend {
namespace {

constexpr int kDepth = 44;       ///< px inside over which the profile is followed
constexpr float kFloor = 0.01f;  ///< added before logarithms
constexpr int kFade = 8;         ///< px over which the outer end of the profile fades in
constexpr int kBands = kRimReach + kDepth + 1;
constexpr double kOneColour = 0.035;  ///< spread about the colour curve of a print of one colour
constexpr double kTinted = 0.02;      ///< least colour of a stain for the curve to be of use

using Profile = std::vector<cv::Vec3f>;

/// What the methods below share.
struct Field {
    cv::Mat logs;      ///< CV_32FC3
    cv::Mat distance;  ///< to the outline, positive inside
    cv::Mat known;     ///< CV_32F, 0 under other blemishes
};

Field fieldOf(const Window& w, const Mask& inside) {
    Field f;
    const Size size(w.width(), w.height());
    f.logs.create(size, CV_32FC3);
    f.known.create(size, CV_32F);
    for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x) {
            const Vec4& v = w.at(x, y);
            f.logs.at<cv::Vec3f>(y, x) = {std::log(v[0] + kFloor), std::log(v[1] + kFloor),
                                          std::log(v[2] + kFloor)};
            f.known.at<float>(y, x) = w.forbidden(x, y) ? 0.0f : 1.0f;
        }
    cv::Mat in, out;
    cv::distanceTransform(inside, in, cv::DIST_L2, 5);
    cv::distanceTransform(inside == 0, out, cv::DIST_L2, 5);
    f.distance = in - out;
    return f;
}

cv::Mat three(const cv::Mat& plane) {
    cv::Mat out;
    cv::merge(std::vector<cv::Mat>(3, plane), out);
    return out;
}

/// Gaussian mean of the pixels that count; `share` receives the weight they had.
cv::Mat maskedBlur(const cv::Mat& values, const cv::Mat& weight, double sigma, cv::Mat& share) {
    cv::Mat sum, out;
    cv::GaussianBlur(weight, share, {}, sigma);
    cv::GaussianBlur(values.mul(three(weight)), sum, {}, sigma);
    cv::divide(sum, three(cv::max(share, 1e-5f)), out);
    return out;
}

cv::Vec3f trimmedMean(std::vector<cv::Vec3f>& values) {
    const size_t cut = values.size() / 4;
    cv::Vec3f out;
    std::vector<float> one(values.size());
    for (int c = 0; c < 3; ++c) {
        for (size_t i = 0; i < values.size(); ++i) one[i] = values[i][c];
        std::sort(one.begin(), one.end());
        double sum = 0;
        for (size_t i = cut; i < one.size() - cut; ++i) sum += double(one[i]);
        out[c] = float(sum / double(one.size() - 2 * cut));
    }
    return out;
}

/// Change of the logs along the distance, added up from outside inwards.
Profile profileOf(const Field& f) {
    cv::Mat share, smooth = maskedBlur(f.logs, f.known, 1.5, share), sx, sy, gx, gy, sure;
    cv::Sobel(f.distance, gx, CV_32F, 1, 0, 3, 0.125);
    cv::Sobel(f.distance, gy, CV_32F, 0, 1, 3, 0.125);
    cv::Sobel(smooth, sx, CV_32F, 1, 0, 3, 0.125);
    cv::Sobel(smooth, sy, CV_32F, 0, 1, 3, 0.125);
    cv::erode(f.known, sure, Mask::ones(9, 9, CV_8U));
    std::vector<std::vector<cv::Vec3f>> bands(size_t(kBands), std::vector<cv::Vec3f>{});
    for (int y = 0; y < f.distance.rows; ++y)
        for (int x = 0; x < f.distance.cols; ++x) {
            const int band = int(std::floor(f.distance.at<float>(y, x))) + kRimReach;
            if (band < 0 || band + 1 >= kBands || sure.at<float>(y, x) <= 0) continue;
            bands[size_t(band)].push_back(sx.at<cv::Vec3f>(y, x) * gx.at<float>(y, x) +
                                          sy.at<cv::Vec3f>(y, x) * gy.at<float>(y, x));
        }
    Profile out;
    out.resize(kBands);
    for (size_t k = 0; k + 1 < out.size(); ++k)
        out[k + 1] = out[k] + (bands[k].size() < 30 ? cv::Vec3f() : trimmedMean(bands[k]));
    cv::Vec3f start;
    for (size_t k = 0; k < 6; ++k) start += out[k] * (1 / 6.0f);
    for (auto& v : out) v -= start;
    return out;
}

float fadeAt(float distance) {
    return std::clamp((distance + float(kRimReach)) / float(kFade), 0.0f, 1.0f);
}

template <typename T>
T along(const std::vector<T>& profile, float distance) {
    const float at = std::clamp(distance + float(kRimReach), 0.0f, float(profile.size()) - 1.001f);
    const auto i = size_t(at);
    const float t = at - float(i);
    return profile[i] * (1 - t) + profile[i + 1] * t;
}

cv::Mat profileField(const Field& f, const Profile& profile) {
    cv::Mat out(f.distance.size(), CV_32FC3);
    for (int y = 0; y < out.rows; ++y)
        for (int x = 0; x < out.cols; ++x) {
            const float d = f.distance.at<float>(y, x);
            out.at<cv::Vec3f>(y, x) = along(profile, d) * fadeAt(d);
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

/// What step is left along the outline, spread over the inside.
cv::Mat stepLeft(const Field& f, const cv::Mat& taken) {
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
    cv::Mat inShare, outShare, in = maskedBlur(rest, strip(1), double(kNear), inShare),
                               out = maskedBlur(rest, strip(-1), double(kNear), outShare);
    const cv::Mat edge = (cv::abs(f.distance) <= 1.5) & (inShare > 1e-3) & (outShare > 1e-3);
    cv::Mat weight, step = in - out;
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

ColourCurve colourCurve(const Field& f) {
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

/// Tint by colour: its strength at each place, times its colour, plus the rim that has none.
cv::Mat byColour(const Field& f, const Profile& profile, const cv::Mat& whole,
                 const ColourCurve& curve) {
    cv::Vec3f plate;
    for (size_t k = profile.size() - 8; k < profile.size(); ++k) plate += profile[k] * (1 / 8.0f);
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
        const cv::Mat soft = maskedBlur(departure, f.known, 4, share);
        cv::extractChannel(soft, strength, 0);
        strength = cv::min(cv::max(strength, 0.0f), 3.0f);
    }
    std::vector<std::vector<float>> rests(size_t(kBands), std::vector<float>{});
    cv::Mat out(f.distance.size(), CV_32FC3);
    for (int y = 0; y < out.rows; ++y)
        for (int x = 0; x < out.cols; ++x) {
            const float d = f.distance.at<float>(y, x);
            const cv::Vec3f own = plate * strength.at<float>(y, x);
            const cv::Vec3f rest = whole.at<cv::Vec3f>(y, x) - own;
            const int band = int(std::lround(d)) + kRimReach;
            if (band >= 0 && band < kBands)
                rests[size_t(band)].push_back((rest[0] + rest[1] + rest[2]) / 3);
            out.at<cv::Vec3f>(y, x) = d > -kRimReach ? own : cv::Vec3f();
        }
    std::vector<float> rim(size_t(kBands), 0.0f);
    for (size_t k = 0; k < rim.size(); ++k)
        if (auto& r = rests[k]; !r.empty()) {
            std::nth_element(r.begin(), r.begin() + long(r.size() / 2), r.end());
            rim[k] = r[r.size() / 2];
        }
    for (int y = 0; y < out.rows; ++y)
        for (int x = 0; x < out.cols; ++x) {
            const float d = f.distance.at<float>(y, x);
            if (d < kDepth) out.at<cv::Vec3f>(y, x) += cv::Vec3f::all(along(rim, d) * fadeAt(d));
        }
    return out;
}

}  // namespace

Result<Stain> measureStain(const Window& w, const Mask& inside, std::stop_token stop) {
    const Field f = fieldOf(w, inside);
    if (cv::countNonZero((f.distance < -2) & (f.distance > -40) & (f.known > 0)) < 200)
        return fail(Error::Kind::BadSetting, "there is too little around the area to compare with",
                    {}, "Outline less of the picture, or use Rebuild.");
    const Profile profile = profileOf(f);
    if (stop.stop_requested()) return cancelled();
    const cv::Mat whole = profileField(f, profile);
    const ColourCurve curve = colourCurve(f);
    const cv::Vec3f plate = profile.back();
    const bool oneColour =
        curve.spread < kOneColour && std::abs(double(plate[2] - plate[0])) > kTinted;
    const cv::Mat tint =
        oneColour ? byColour(f, profile, whole, curve) : cv::Mat(whole + stepLeft(f, whole));
    if (stop.stop_requested()) return cancelled();
    Stain out;
    cv::exp(tint, out.gain);
    out.lost = Mask(inside.size(), CV_8U, cv::Scalar(0));
    for (int y = 0; y < inside.rows; ++y)
        for (int x = 0; x < inside.cols; ++x) {
            const Vec4& v = w.at(x, y);
            const bool black =
                std::max(
                    {v[0], v[1], v[2]})<1.5f / 255, white = std::min({v[0], v[1], v[2]})> 254.5f /
                255;
            if (inside.at<uchar>(y, x) && (black || white)) out.lost.at<uchar>(y, x) = 255;
        }
    return out;
}

}  // namespace gq::mend
