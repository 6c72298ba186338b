#include "core/film/film_base.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <vector>

#include "core/pixels/color.h"
#include "core/pixels/quantile.h"

namespace gq::film {
namespace {

constexpr int kSide = 400, kLeastSide = 8;  ///< px of the longer side that a scan is looked at
                                            ///< with, and of the other at least
constexpr float kEven = 0.02f;              ///< density that neighbours in an even place differ by
constexpr float kSameTone = 0.025f;         ///< densities of one tone lie this close
constexpr float kOpenLight = 0.955f;
constexpr double kLeastPart = 0.004;  ///< of the scan that bare film covers
constexpr double kOutshining = 0.005;
constexpr double kThinnest = 0.997;  ///< part of the scan that is denser than what stands for base
constexpr float kMuchDenser = 0.22f;
constexpr float kHolder = 2.1f;                ///< density that film seldom has over a whole row
constexpr int kEdge = 3;                       ///< px that a holder's edge takes
constexpr double kExposed = 0.3, kHeld = 0.7;  ///< parts of a row

/// The scan small, as log10 of linear light.
struct Coarse {
    cv::Mat light;  ///< CV_32FC(1|3)
    ImageF mean;    ///< over the channels
    Mask open;      ///< open light and what touches it

    float at(int y, int x, int c) const { return light.ptr<float>(y)[x * light.channels() + c]; }
};

Coarse coarse(const Image& scan) {
    const double scale = std::min(1.0, double(kSide) / std::max(scan.cols, scan.rows));
    const auto side = [&](int full) {
        return std::max(kLeastSide, int(std::lround(full * scale)));
    };
    cv::Mat small;
    cv::resize(scan, small, {side(scan.cols), side(scan.rows)}, 0, 0, cv::INTER_AREA);
    const int channels = small.channels();
    Coarse out;
    out.light.create(small.size(), CV_32FC(channels));
    out.mean.create(small.size(), CV_32F);
    out.open = Mask(small.size(), CV_8U, cv::Scalar(0));
    for (int y = 0; y < small.rows; ++y)
        for (int x = 0; x < small.cols; ++x) {
            float sum = 0, least = 1;
            for (int c = 0; c < channels; ++c) {
                const int i = x * channels + c;
                const float light = std::max(toLinear(small.ptr<ushort>(y)[i]), 1e-5f);
                least = std::min(least, light);
                sum += out.light.ptr<float>(y)[i] = std::log10(light);
            }
            out.mean.at<float>(y, x) = sum / float(channels);
            if (least > kOpenLight) out.open.at<uchar>(y, x) = 255;
        }
    cv::dilate(out.open, out.open, Mask::ones(5, 5, CV_8U));
    return out;
}

Mask evenPlaces(const ImageF& tone) {
    const Mask around = Mask::ones(3, 3, CV_8U);
    ImageF most, least;
    cv::dilate(tone, most, around);
    cv::erode(tone, least, around);
    return most - least < kEven;
}

/// The brightest tone that a large enough even part of the scan has, of places in `among`.
std::optional<float> brightestTone(const ImageF& tone, const Mask& among) {
    std::vector<float> values;
    for (int y = 0; y < tone.rows; ++y)
        for (int x = 0; x < tone.cols; ++x)
            if (among.at<uchar>(y, x)) values.push_back(tone.at<float>(y, x));
    std::sort(values.begin(), values.end(), std::greater<>());
    const auto enough = size_t(std::ceil(kLeastPart * double(tone.total())));
    for (size_t first = 0, last = 0; first < values.size(); ++first) {
        while (last < values.size() && values[last] > values[first] - 2 * kSameTone) ++last;
        if (last - first >= enough) return values[(first + last) / 2];
    }
    return std::nullopt;
}

bool outshone(const Coarse& scan, float tone) {
    const Mask brighter = (scan.mean > tone + kSameTone) & ~scan.open;
    return cv::countNonZero(brighter) > kOutshining * double(brighter.total());
}

/// Log light of one channel where `among` is set.
std::vector<float> valuesOf(const Coarse& scan, const Mask& among, int channel) {
    std::vector<float> out;
    for (int y = 0; y < among.rows; ++y)
        for (int x = 0; x < among.cols; ++x)
            if (among.at<uchar>(y, x)) out.push_back(scan.at(y, x, channel));
    return out;
}

/// A holder's edge is soft, and no place beside one is even.
float rimOf(const Mask& even) {
    Mask bare;
    cv::dilate(even, bare, Mask::ones(2 * kEdge + 1, 2 * kEdge + 1, CV_8U));
    const Rect inner(1, 1, bare.cols - 2, bare.rows - 2);
    const int outline = int(bare.total()) - inner.area();
    return float(cv::countNonZero(bare) - cv::countNonZero(bare(inner))) / float(outline);
}

/// From `first` on by `step`, the first of `count` lines that are `wanted`, as the next two are:
/// where holder and bare film meet, one alone looks like it.
template <class Wanted>
int firstLine(int first, int step, int count, Wanted wanted) {
    for (int i = first; count > 0; i += step, --count)
        if (wanted(i) && wanted(i + step) && wanted(i + 2 * step)) return i;
    return first;
}

/// What lies between the first wanted lines from each side.
template <class Wanted>
Rect between(const Size& size, Wanted wanted) {
    const int w = size.width, h = size.height;
    const auto row = [&](int y) { return wanted(Rect(0, y, w, 1)); };
    const auto column = [&](int x) { return wanted(Rect(x, 0, 1, h)); };
    const int top = firstLine(0, 1, h / 3, row), bottom = firstLine(h - 1, -1, h / 3, row),
              left = firstLine(0, 1, w / 3, column), right = firstLine(w - 1, -1, w / 3, column);
    return {Point(left, top), Point(right + 1, bottom + 1)};
}

/// The scan without the holder and the open light beside the film.
Rect filmIn(const Coarse& scan, float tone) {
    const Mask beside = (scan.mean < tone - kHolder) | scan.open;
    return between(beside.size(), [&](const Rect& line) {
        return cv::countNonZero(beside(line)) < kHeld * line.area();
    });
}

}  // namespace

bool FilmBase::tellsNegative() const {
    const bool masked = light[0] > 1.25f * light[1] && light[1] > 1.15f * light[2];
    return bare && (rim > 0.95f || (masked && rim > 0.5f));
}

std::optional<FilmBase> findBase(const Image& pixels) {
    Coarse scan = coarse(pixels);
    const Mask even = evenPlaces(scan.mean);
    std::optional<float> tone;
    if (cv::countNonZero(scan.open)) {  // film beside open light, or film that is as clear as that
        tone = brightestTone(scan.mean, even & ~scan.open);
        if (tone && outshone(scan, *tone)) tone = std::nullopt;
        if (!tone) scan.open.setTo(0);
    }
    if (!tone) tone = brightestTone(scan.mean, even);
    FilmBase out;
    const int channels = pixels.channels();
    out.bare = tone && !outshone(scan, *tone);
    const Mask known = ~scan.open;
    const Mask bare =
        out.bare ? Mask((cv::abs(scan.mean - *tone) < kSameTone) & even & known) : known;
    if (out.bare) out.rim = rimOf(bare(filmIn(scan, *tone)));
    bool dense = false;
    for (int c = 0; c < channels; ++c) {
        const float base = quantile(valuesOf(scan, bare, c), out.bare ? 0.5 : kThinnest);
        dense |= quantile(valuesOf(scan, known, c), 0.05) < base - kMuchDenser;
        out.light[size_t(c)] = std::pow(10.0f, base);
    }
    if (!dense) return std::nullopt;
    if (channels == 1) out.light[1] = out.light[2] = out.light[0];
    return out;
}

Rect exposedPart(const Image& pixels, const std::array<float, 3>& base) {
    const Coarse scan = coarse(pixels);
    float tone = 0;
    for (int c = 0; c < pixels.channels(); ++c)
        tone += std::log10(base[size_t(c)]) / float(pixels.channels());
    const Mask exposed = scan.mean < tone - 2 * kSameTone, held = scan.mean < tone - kHolder;
    const Rect part = between(exposed.size(), [&](const Rect& line) {
        return cv::countNonZero(exposed(line)) > kExposed * line.area() &&
               cv::countNonZero(held(line)) < kHeld * line.area();
    });
    const double across = double(pixels.cols) / exposed.cols,
                 down = double(pixels.rows) / exposed.rows;
    const int margin = std::max(2, std::min(pixels.cols, pixels.rows) / 50);
    const Rect found(int(part.x * across), int(part.y * down), int(part.width * across),
                     int(part.height * down));
    return grown(found, -margin, pixels.size());
}

}  // namespace gq::film
