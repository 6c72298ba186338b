#include "core/merge/panorama.h"

#include <cmath>
#include <opencv2/imgproc.hpp>
#include <opencv2/stitching/detail/camera.hpp>
#include <opencv2/stitching/detail/exposure_compensate.hpp>
#include <opencv2/stitching/detail/matchers.hpp>
#include <opencv2/stitching/detail/motion_estimators.hpp>
#include <opencv2/stitching/detail/seam_finders.hpp>
#include <opencv2/stitching/detail/warpers.hpp>

#include "core/merge/band_blender.h"

namespace gq::merge {
namespace {

namespace cvd = cv::detail;

constexpr double kMatched = 0.8e6, kSeamed = 0.1e6;  ///< px a frame is matched and seamed at
constexpr int kFeatures = 2000, kLayers = 3;         ///< of a frame; of an octave
constexpr double kFaintest = 0.01;  ///< contrast of a feature; a calm sky has no stronger
constexpr float kSure = 0.8f;       ///< of a match
constexpr int kAround = 6;          ///< px around a blemish that go with it

double scaleTo(const Size& size, double pixels) {
    return std::min(1.0, std::sqrt(pixels / size.area()));
}

Image8 reduced(const Image& pixels, double scale) {
    Image8 out;
    cv::resize(narrow(pixels), out, {}, scale, scale, cv::INTER_AREA);
    return out;
}

/// The blemishes of a frame with what is around them.
Mask dirtyOf(const Part& part) {
    Mask out(part.pixels.size(), CV_8U, cv::Scalar(0));
    for (const auto& r : part.blemishes) paint(out, grown(r, kAround, out.size()));
    return out;
}

/// Where features may lie: not on dust, which has the same place in every frame.
Mask calmOf(const Part& part, double scale) {
    Mask out;
    cv::resize(dirtyOf(part), out, {}, scale, scale, cv::INTER_AREA);
    return out == 0;
}

/// How each frame was turned, in pixels of the full frames.
Result<std::vector<cvd::CameraParams>> camerasOf(const std::vector<Part>& parts,
                                                 std::stop_token stop) {
    const double scale = scaleTo(parts.front().pixels.size(), kMatched);
    const auto finder = cv::SIFT::create(kFeatures, kLayers, kFaintest);
    std::vector<cvd::ImageFeatures> features(parts.size());
    for (size_t i = 0; i < parts.size(); ++i) {
        if (stop.stop_requested()) return cancelled();
        cvd::computeImageFeatures(finder, reduced(parts[i].pixels, scale), features[i],
                                  calmOf(parts[i], scale));
        features[i].img_idx = int(i);
    }
    std::vector<cvd::MatchesInfo> matches;
    cvd::BestOf2NearestMatcher matcher(false, 0.3f);
    matcher(features, matches);
    matcher.collectGarbage();
    // The matcher gives up very good matches as taken from one spot; here they are welcome.
    for (auto& m : matches)
        if (!m.H.empty()) m.confidence = m.num_inliers / (8 + 0.3 * double(m.matches.size()));
    if (stop.stop_requested()) return cancelled();
    const auto apart = [] {
        return fail(Error::Kind::BadSetting, "the frames do not overlap enough to be joined", {},
                    "Leave out those that do not belong to the panorama.");
    };
    if (cvd::leaveBiggestComponent(features, matches, kSure).size() != parts.size()) return apart();
    std::vector<cvd::CameraParams> cameras;
    if (!cvd::HomographyBasedEstimator()(features, matches, cameras)) return apart();
    for (auto& c : cameras) c.R.convertTo(c.R, CV_32F);
    cvd::BundleAdjusterRay adjuster;
    adjuster.setConfThresh(double(kSure));
    if (!adjuster(features, matches, cameras)) return apart();
    std::vector<cv::Mat> turns;
    for (const auto& c : cameras) turns.push_back(c.R.clone());
    cvd::waveCorrect(turns, cvd::WAVE_CORRECT_HORIZ);
    for (size_t i = 0; i < cameras.size(); ++i) {
        auto& c = cameras[i];
        c.R = turns[i];
        c.focal /= scale;
        c.ppx /= scale;
        c.ppy /= scale;
    }
    return cameras;
}

cv::Mat lensOf(const cvd::CameraParams& camera, double scale) {
    cv::Mat out;
    cv::Mat(camera.K()).convertTo(out, CV_32F);
    out.at<float>(0, 0) *= float(scale);
    out.at<float>(0, 2) *= float(scale);
    out.at<float>(1, 1) *= float(scale);
    out.at<float>(1, 2) *= float(scale);
    return out;
}

/// The frames as they lie on the panorama.
struct Laid {
    std::vector<cv::Mat> pixels;
    std::vector<cv::UMat> masks;
    std::vector<Point> corners;
    [[nodiscard]] Rect box(size_t i) const { return {corners[i], masks[i].size()}; }
    [[nodiscard]] Rect area() const {
        Rect all;
        for (size_t i = 0; i < corners.size(); ++i) all |= box(i);
        return all;
    }
};

Laid laid(const std::vector<cv::Mat>& frames, const std::vector<cvd::CameraParams>& cameras,
          double focal, double scale) {
    cvd::SphericalWarper warper(float(focal * scale));
    Laid out;
    for (size_t i = 0; i < frames.size(); ++i) {
        const cv::Mat k = lensOf(cameras[i], scale);
        cv::Mat pixels;
        cv::UMat mask;
        out.corners.push_back(
            warper.warp(frames[i], k, cameras[i].R, cv::INTER_LINEAR, cv::BORDER_REFLECT, pixels));
        warper.warp(cv::Mat(frames[i].size(), CV_8U, cv::Scalar(255)), k, cameras[i].R,
                    cv::INTER_NEAREST, cv::BORDER_CONSTANT, mask);
        out.pixels.push_back(pixels);
        out.masks.push_back(mask);
    }
    return out;
}

/// What each frame gives to the panorama, at full size.
struct Shares {
    std::vector<Mask> owners;   ///< the places that are taken from it; none is from two
    std::vector<double> gains;  ///< that make the frames equally bright
};

Shares shares(const std::vector<Part>& parts, const std::vector<cvd::CameraParams>& cameras,
              double focal, const Laid& full) {
    const double scale = scaleTo(parts.front().pixels.size(), kSeamed);
    std::vector<cv::Mat> small;
    for (const auto& p : parts) small.push_back(reduced(p.pixels, scale));
    Laid coarse = laid(small, cameras, focal, scale);
    std::vector<cv::UMat> images, floats;
    for (const auto& p : coarse.pixels) images.push_back(p.getUMat(cv::ACCESS_READ).clone());
    cvd::GainCompensator compensator;
    cvd::ExposureCompensator& exposure = compensator;
    exposure.feed(coarse.corners, images, coarse.masks);
    for (size_t i = 0; i < images.size(); ++i) {
        exposure.apply(int(i), coarse.corners[i], images[i], coarse.masks[i]);
        floats.emplace_back();
        images[i].convertTo(floats.back(), CV_32F);
    }
    cvd::GraphCutSeamFinder(cvd::GraphCutSeamFinderBase::COST_COLOR_GRAD)
        .find(floats, coarse.corners, coarse.masks);
    const Rect area = full.area();
    Mask taken(area.size(), CV_8U, cv::Scalar(0));
    Shares out{{}, compensator.gains()};
    for (size_t i = 0; i < parts.size(); ++i) {
        Mask grown, large;
        cv::dilate(coarse.masks[i], grown, cv::Mat());
        cv::resize(grown, large, full.masks[i].size(), 0, 0, cv::INTER_LINEAR);
        Mask before = taken(full.box(i) - area.tl());
        const Mask own = (large > 127) & full.masks[i].getMat(cv::ACCESS_READ) & ~before;
        before |= own;
        out.owners.push_back(own);
    }
    return out;
}

/// Where each frame is dirty, on the panorama.
std::vector<std::vector<Region>> blemishesOn(const std::vector<Part>& parts,
                                             const std::vector<cvd::CameraParams>& cameras,
                                             double focal) {
    cvd::SphericalWarper warper{float(focal)};
    std::vector<std::vector<Region>> out(parts.size());
    for (size_t i = 0; i < parts.size(); ++i) {
        cv::Mat warped;
        const Point corner = warper.warp(dirtyOf(parts[i]), lensOf(cameras[i], 1), cameras[i].R,
                                         cv::INTER_NEAREST, cv::BORDER_CONSTANT, warped);
        for (auto& piece : pieces(warped)) {
            piece.box += corner;
            out[i].push_back(std::move(piece));
        }
    }
    return out;
}

bool covers(const Laid& full, size_t i, const Region& r) {
    const Rect box = full.box(i);
    if ((r.box & box) != r.box) return false;
    const Mask there = full.masks[i].getMat(cv::ACCESS_READ)(r.box - box.tl());
    return cv::countNonZero(r.mask & ~there) == 0;
}

/// Gives the places at which a frame is dirty to another that shows them clean.
void lead(Laid& full, const std::vector<double>& gains,
          const std::vector<std::vector<Region>>& dirty, std::vector<Mask>& owners, Joined& out) {
    for (size_t i = 0; i < dirty.size(); ++i)
        for (const auto& r : dirty[i]) {
            const Point at = full.box(i).tl();
            if (cv::countNonZero(owners[i](r.box - at) & r.mask) == 0) continue;  // not used
            size_t other = dirty.size();
            for (size_t j = 0; j < dirty.size() && other == dirty.size(); ++j) {
                const bool clean = j != i && covers(full, j, r) &&
                                   std::none_of(dirty[j].begin(), dirty[j].end(),
                                                [&](const Region& own) { return meets(own, r); });
                if (clean) other = j;
            }
            if (other == dirty.size()) {
                ++out.left;
                continue;
            }
            ++out.avoided;
            // The blending looks beyond a frame's own area: the blemish must be gone from there
            // too.
            cv::Mat clean;
            full.pixels[other](r.box - full.box(other).tl())
                .convertTo(clean, -1, gains[other] / gains[i]);
            clean.copyTo(full.pixels[i](r.box - at), r.mask);
            for (size_t k = 0; k < owners.size(); ++k) {
                const Rect in = r.box & full.box(k);
                if (in.empty()) continue;
                owners[k](in - full.box(k).tl())
                    .setTo(k == other ? 255 : 0, r.mask(in - r.box.tl()));
            }
        }
}

}  // namespace

Result<Joined> joinPanorama(const std::vector<Part>& parts, const Progress& progress,
                            std::stop_token stop) {
    const auto tell = [&](double share) {
        if (progress) progress(share);
    };
    if (parts.size() < 2)
        return fail(Error::Kind::BadSetting, "a panorama needs two frames or more", {},
                    "Tick the frames that belong to it.");
    const auto cameras = camerasOf(parts, stop);
    if (!cameras) return tl::unexpected(cameras.error());
    tell(0.3);
    std::vector<double> focals;
    for (const auto& c : *cameras) focals.push_back(c.focal);
    std::nth_element(focals.begin(), focals.begin() + long(focals.size() / 2), focals.end());
    const double focal = focals[focals.size() / 2];
    std::vector<cv::Mat> frames;
    for (const auto& p : parts) frames.push_back(p.pixels);
    Laid full = laid(frames, *cameras, focal, 1);
    if (stop.stop_requested()) return cancelled();
    tell(0.5);
    auto [owners, gains] = shares(parts, *cameras, focal, full);
    if (stop.stop_requested()) return cancelled();
    tell(0.7);
    Joined out;
    lead(full, gains, blemishesOn(parts, *cameras, focal), owners, out);
    BandBlender blender(full.area());
    for (size_t i = 0; i < parts.size(); ++i) {
        if (stop.stop_requested()) return cancelled();
        blender.add(full.pixels[i], gains[i], owners[i], full.corners[i]);
        full.pixels[i].release();
        tell(0.7 + 0.25 * double(i + 1) / double(parts.size()));
    }
    out.pixels = blender.blend(out.covered);
    tell(1);
    return out;
}

}  // namespace gq::merge
