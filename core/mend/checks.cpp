#include "core/mend/checks.h"

#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <set>

#include "core/mend/repeat.h"
#include "core/pixels/color.h"

namespace gq::mend {
namespace {

constexpr int kBeside = 20;
/// Outline check: px around it that may belong to the thing, and that tell of the surroundings.
constexpr double kNear = 8, kFar = 18;
constexpr float kTells = 3.5f;       ///< spreads of the surroundings the inside must differ by
constexpr float kMostTaken = 0.15f;  ///< of the surroundings that may look like it
/// Shares of that difference from which a pixel surely, or likely, is of the thing.
constexpr float kSurely = 0.7f, kLikely = 0.3f;
constexpr int kLeast = 10;            ///< px that are surely left
constexpr double kLeastShare = 0.06;  ///< of the outline's area

/// Mean absolute step from the inner to the outer rim of `inside`, laid at `at`.
double step(const ImageF& tone, const Mask& inside, Point at) {
    double sum = 0;
    int n = 0;
    for (int y = 1; y + 1 < inside.rows; ++y)
        for (int x = 1; x + 1 < inside.cols; ++x) {
            if (!inside.at<uchar>(y, x)) continue;
            for (const Point d : {Point(1, 0), Point(-1, 0), Point(0, 1), Point(0, -1)})
                if (!inside.at<uchar>(y + d.y, x + d.x)) {
                    sum += std::abs(double(tone.at<float>(at.y + y, at.x + x)) -
                                    double(tone.at<float>(at.y + y + d.y, at.x + x + d.x)));
                    ++n;
                }
        }
    return n ? sum / n : 0;
}

float seamOf(const Excerpt& pixels, const Region& region) {
    const Rect around = grown(region.box, kBeside + 2, pixels.size());
    const ImageF tone = luma(pixels(around));
    Mask inside;
    cv::copyMakeBorder(region.mask, inside, 1, 1, 1, 1, cv::BORDER_CONSTANT, cv::Scalar(0));
    const Point at = region.box.tl() - around.tl() - Point(1, 1);
    const Rect all({0, 0}, around.size());
    double beside = 0;
    int n = 0;
    for (const Point d :
         {Point(kBeside, 0), Point(-kBeside, 0), Point(0, kBeside), Point(0, -kBeside)}) {
        const Rect there(at + d, inside.size());
        if ((there & all) != there) continue;
        beside += step(tone, inside, at + d);
        ++n;
    }
    const Rect own(at, inside.size());
    if (!n || (own & all) != own) return 1;
    return float(step(tone, inside, at) / (beside / n + 2e-4));
}

/// True if the method fills with pieces of the picture large enough to be known again.
bool copies(Method method) {
    return hasSource(method) || method == Method::Rebuild;
}

/// Distance to the region over a box around it.
cv::Mat distanceAround(const Region& region, const Rect& box) {
    Mask outside(box.size(), CV_8U, cv::Scalar(255));
    outside(Rect(region.box.tl() - box.tl(), region.box.size())).setTo(0, region.mask);
    cv::Mat out;
    cv::distanceTransform(outside, out, cv::DIST_L2, 5);
    return out;
}

/// The direction in which the colours inside a region differ most surely from those around
/// (Fisher's linear discriminant, 1936).
struct Discriminant {
    ImageF z;         ///< every pixel along it, in spreads of the surroundings
    float apart = 0;  ///< mean of the inside
    float taken = 1;  ///< share of the surroundings that would be taken for the inside
};

/// `inside` and `around` are 255 where colours are taken from. Surroundings that look like the
/// inside are left out of a second look, since the thing may reach there.
Discriminant discriminantOf(const ImageF& colours, const Mask& inside, const Mask& around) {
    Discriminant out;
    Mask ring = around;
    for (int look = 0; look < 2; ++look) {
        std::array<cv::Vec3d, 2> mean;
        cv::Matx33d spread = cv::Matx33d::eye() * 1e-6;
        for (const bool outer : {false, true}) {
            const cv::Scalar m = cv::mean(colours, outer ? ring : inside);
            mean[outer] = {m[0], m[1], m[2]};
        }
        int n = 0;
        for (int y = 0; y < ring.rows; ++y)
            for (int x = 0; x < ring.cols; ++x) {
                if (!ring.at<uchar>(y, x)) continue;
                const cv::Vec3d off = cv::Vec3d(colours.at<cv::Vec3f>(y, x)) - mean[1];
                spread += off * off.t();
                ++n;
            }
        spread = spread * (1.0 / std::max(1, n));
        const cv::Vec3d way = spread.solve(mean[0] - mean[1], cv::DECOMP_CHOLESKY);
        const double unit = std::sqrt(way.dot(spread * way)) + 1e-9;
        out.apart = float(way.dot(mean[0] - mean[1]) / unit);
        out.z.create(colours.size(), CV_32F);
        for (int y = 0; y < ring.rows; ++y)
            for (int x = 0; x < ring.cols; ++x)
                out.z.at<float>(y, x) =
                    float(way.dot(cv::Vec3d(colours.at<cv::Vec3f>(y, x)) - mean[1]) / unit);
        const Mask like = (out.z > out.apart / 2) & around;
        out.taken = float(cv::countNonZero(like)) / float(std::max(1, cv::countNonZero(around)));
        ring = around & ~like;
    }
    return out;
}

}  // namespace

Checks checked(const Excerpt& pixels, const Mend& mend, const Patch& patch) {
    Checks out;
    const Region laid{patch.box, patch.footprint};
    if (cv::countNonZero(patch.footprint) == 0) return out;
    out.seam = seamOf(pixels, laid);
    if (copies(mend.method)) out.repeat = likenessNearby(pixels, mend.region);
    return out;
}

Rect checkBox(const Mend& mend, const Size& picture) {
    const Rect seam = grown(footprintBox(mend, picture), kBeside + 2, picture);
    return copies(mend.method) ? seam | grown(mend.region.box, sightOf(mend.region.box), picture)
                               : seam;
}

Region leftOutside(const Image& pixels, const Region& outline) {
    const Rect box = grown(outline.box, kFar + 2, pixels.size());
    const cv::Mat distance = distanceAround(outline, box);
    ImageF colours;
    asColour(pixels(box)).convertTo(colours, CV_32FC3, 1 / 65535.0);
    cv::GaussianBlur(colours, colours, {}, 1);
    const Mask around = (distance > kNear) & (distance <= kFar);
    if (cv::countNonZero(around) < 40) return {};
    const auto d = discriminantOf(colours, distance <= 0, around);
    if (d.apart < kTells || d.taken > kMostTaken) return {};  // too busy to tell
    const auto beyond = [&](float like) {
        const Mask thing = ((d.z > d.apart * like) & (distance <= kNear)) | (distance <= 0);
        cv::Mat labels;
        cv::connectedComponents(thing, labels, 8, CV_32S);
        Mask out(box.size(), CV_8U, cv::Scalar(0));
        const cv::Mat own = labels(Rect(outline.box.tl() - box.tl(), outline.box.size()));
        std::set<int> met;
        for (int y = 0; y < own.rows; ++y)
            for (int x = 0; x < own.cols; ++x)
                if (outline.mask.at<uchar>(y, x)) met.insert(own.at<int>(y, x));
        for (const int label : met) out.setTo(255, (labels == label) & (distance > 1.5));
        // A pixel or two of soft edge is what the mend's own softness is for.
        cv::morphologyEx(out, out, cv::MORPH_OPEN, Mask::ones(2, 2, CV_8U));
        return out;
    };
    if (cv::countNonZero(beyond(kSurely)) < std::max(kLeast, int(kLeastShare * outline.area())))
        return {};
    return regionOf(beyond(kLikely), box.tl());
}

std::optional<std::pair<Region, Region>> splitByMaterial(const Image& pixels,
                                                         const Region& region) {
    const Rect box = grown(region.box, 8, pixels.size());
    const cv::Mat distance = distanceAround(region, box);
    Image8 colour = narrow(asColour(pixels(box)));
    cv::GaussianBlur(colour, colour, {}, 1.5);
    std::vector<cv::Vec3f> values;
    std::vector<Point> places;
    for (int y = 0; y < box.height; ++y)
        for (int x = 0; x < box.width; ++x)
            if (const float d = distance.at<float>(y, x); d > 2 && d <= 8) {
                values.emplace_back(colour.at<cv::Vec3b>(y, x));
                places.emplace_back(x, y);
            }
    if (values.size() < 60) return std::nullopt;
    cv::Mat labels, centres, data(int(values.size()), 3, CV_32F, values.data());
    cv::setRNGSeed(1);  // the same parts every time
    const double within = cv::kmeans(data, 2, labels, {cv::TermCriteria::COUNT, 12, 0}, 2,
                                     cv::KMEANS_PP_CENTERS, centres) /
                          double(values.size());
    const int second = cv::countNonZero(labels);
    const double share = double(second) / double(values.size());
    const double apart = cv::norm(centres.row(0), centres.row(1), cv::NORM_L2SQR);
    const double between = share * (1 - share) * apart;
    if (share < 0.2 || share > 0.8 || apart < 30 * 30 || between < 3 * within) return std::nullopt;
    // Each pixel of the region goes with the nearest known one.
    Mask seeds(box.size(), CV_8U, cv::Scalar(255));
    for (const Point& p : places) seeds.at<uchar>(p) = 0;
    cv::Mat nearest, far;
    cv::distanceTransform(seeds, far, nearest, cv::DIST_L2, 5, cv::DIST_LABEL_PIXEL);
    std::vector<uchar> side(places.size() + 1, 0);
    for (size_t i = 0; i < places.size(); ++i)
        side[size_t(nearest.at<int>(places[i]))] = uchar(labels.at<int>(int(i)));
    Mask a = region.mask.clone(), b = region.mask.clone();
    const Point shift = region.box.tl() - box.tl();
    for (int y = 0; y < region.box.height; ++y)
        for (int x = 0; x < region.box.width; ++x) {
            const bool other = side[size_t(nearest.at<int>(y + shift.y, x + shift.x))] != 0;
            (other ? a : b).at<uchar>(y, x) = 0;
        }
    Region first = regionOf(a, region.box.tl()), rest = regionOf(b, region.box.tl());
    if (first.area() < 8 || rest.area() < 8) return std::nullopt;
    return std::pair{std::move(first), std::move(rest)};
}

}  // namespace gq::mend
