#include "core/render/merged.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/film/inversion.h"
#include "core/merge/merge.h"
#include "core/render/compose.h"
#include "core/render/export.h"

namespace gq::render {
namespace {

cv::Mat reduced(const cv::Mat& image, double megapixels) {
    const double scale = megapixels > 0 ? std::sqrt(megapixels * 1e6 / double(image.total())) : 1;
    if (scale >= 1) return image;
    cv::Mat out;
    cv::resize(image, out, {}, scale, scale, cv::INTER_AREA);
    return out;
}

/// A frame as it goes in, upright; its blemishes are what was found or mended on it.
Result<merge::Part> partOf(const series::Frame& frame, float line, double megapixels, bool mends,
                           std::stop_token stop) {
    auto loaded = openOriginal(frame, false, stop);
    if (!loaded) return tl::unexpected(loaded.error());
    Image& pixels = loaded->picture.pixels;
    if (mends)
        if (auto ok = mendInPlace(pixels, frame, line, stop); !ok)
            return tl::unexpected(ok.error());
    if (frame.inversion) pixels = film::inverted(pixels, *frame.inversion);
    Mask dirty(pixels.size(), CV_8U, cv::Scalar(0));
    for (const auto& r : series::avoided(frame, 0, line)) paint(dirty, r);
    const auto turn = frame.geometry.orientation;
    return merge::Part{turned(reduced(asColour(pixels), megapixels), turn),
                       pieces(Mask(turned(reduced(dirty, megapixels), turn) > 0))};
}

}  // namespace

Result<Merged> merged(const std::vector<series::FramePtr>& frames, series::Purpose purpose,
                      float line, double megapixels, bool mends, const Progress& progress,
                      std::stop_token stop) {
    constexpr double kReading = 0.5;  // of the time
    std::vector<merge::Part> parts;
    for (const auto& f : frames) {
        if (progress) progress(kReading * double(parts.size()) / double(frames.size()));
        auto part = partOf(*f, line, megapixels, mends, stop);
        if (!part) return tl::unexpected(part.error());
        parts.push_back(std::move(*part));
    }
    if (purpose == series::Purpose::Panorama) {
        const auto rest = [&](double share) {
            if (progress) progress(kReading + (1 - kReading) * share);
        };
        auto joined = merge::joinPanorama(parts, rest, stop);
        if (!joined) return tl::unexpected(joined.error());
        return Merged{joined->pixels, joined->avoided, joined->left};
    }
    std::vector<Image> images;
    for (auto& p : parts) images.push_back(std::move(p.pixels));
    auto out = purpose == series::Purpose::Bracket ? merge::mergedBracket(images, stop)
                                                   : merge::mergedStack(images, stop);
    if (!out) return tl::unexpected(out.error());
    return Merged{std::move(*out)};
}

}  // namespace gq::render
