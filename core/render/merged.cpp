#include "core/render/merged.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/film/inversion.h"
#include "core/merge/merge.h"
#include "core/merge/panorama.h"
#include "core/render/compose.h"
#include "core/render/export.h"
#include "core/series/avoided.h"

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
struct Ingredient {
    merge::Part part;
    std::string profile;
};

Result<Ingredient> ingredient(const series::Frame& frame, float line, double megapixels, bool mends,
                              std::stop_token stop) {
    auto loaded = openOriginal(frame, false, stop);
    if (!loaded) return tl::unexpected(loaded.error());
    Image& pixels = loaded->picture.pixels;
    if (mends)
        if (auto ok = mendInPlace(pixels, frame, line, stop); !ok)
            return tl::unexpected(ok.error());
    if (frame.inversion) pixels = film::inverted(pixels, *frame.inversion);
    Mask dirty(pixels.size(), CV_8U, cv::Scalar(0));
    for (const auto& r : series::Avoided(frame, line).by(0)) paint(dirty, r);
    const auto turn = frame.geometry.orientation;
    return Ingredient{{turned(reduced(asColour(pixels), megapixels), turn),
                       pieces(Mask(turned(reduced(dirty, megapixels), turn) > 0))},
                      loaded->profile};
}

}  // namespace

Result<Merged> merged(const std::vector<series::FramePtr>& frames, series::Purpose purpose,
                      float line, double megapixels, bool mends, const Progress& progress,
                      std::stop_token stop) {
    constexpr double kReading = 0.5;  // of the time
    std::vector<merge::Part> parts;
    Merged out;
    out.picture.picture.bits = 16;
    std::string& profile = out.picture.profile;
    for (const auto& f : frames) {
        if (progress) progress(kReading * double(parts.size()) / double(frames.size()));
        auto in = ingredient(*f, line, megapixels, mends, stop);
        if (!in) return tl::unexpected(in.error());
        if (!parts.empty() && in->profile != profile)
            return fail(Error::Kind::BadSetting,
                        "its colour profile is not that of the frames before it", f->file,
                        "Convert the frames to one profile, or leave this one out.");
        profile = std::move(in->profile);
        parts.push_back(std::move(in->part));
    }
    if (purpose == series::Purpose::Panorama) {
        const auto rest = [&](double share) {
            if (progress) progress(kReading + (1 - kReading) * share);
        };
        auto joined = merge::joinPanorama(parts, rest, stop);
        if (!joined) return tl::unexpected(joined.error());
        out.picture.picture.pixels = joined->pixels;
        out.avoided = joined->avoided;
        out.left = joined->left;
        return out;
    }
    std::vector<Image> images;
    for (auto& p : parts) images.push_back(std::move(p.pixels));
    auto made = purpose == series::Purpose::Bracket ? merge::mergedBracket(std::move(images), stop)
                                                    : merge::mergedStack(std::move(images), stop);
    if (!made) return tl::unexpected(made.error());
    out.picture.picture.pixels = made->pixels;
    out.untold = made->untold;
    return out;
}

}  // namespace gq::render
