#include "core/render/lend.h"

#include <opencv2/imgproc.hpp>

#include "core/merge/align.h"
#include "core/series/avoided.h"

namespace gq::render {

Result<mend::Mend> lentFrom(const mend::Mend& mend, const Image& pixels, const series::Frame& other,
                            const Image& otherPixels, float line) {
    constexpr int kAround = 48;  // px of surroundings to fit by
    const auto map = merge::alignment(otherPixels, pixels);
    if (!map) return tl::unexpected(map.error());
    const Region whole = mend::footprint(mend, pixels.size());
    const Rect box = grown(whole.box, kAround, pixels.size());
    Mask hole(box.size(), CV_8U, cv::Scalar(0));
    paint(hole, grown(Region{whole.box - box.tl(), whole.mask}, 4, box.size()));
    // What is found or mended on the other frame, as it lies here.
    Mask dirty(otherPixels.size(), CV_8U, cv::Scalar(0)), here;
    for (const auto& r : series::Avoided(other, line).by(0)) paint(dirty, r);
    const cv::Matx33d shift(1, 0, -box.x, 0, 1, -box.y, 0, 0, 1);
    cv::warpPerspective(dirty, here, shift * *map, box.size(), cv::INTER_NEAREST);
    if (cv::countNonZero(here & hole) > 0)
        return fail(Error::Kind::BadSetting, "the place is dirty in the other frame too",
                    other.file.string(), "Choose another frame.");
    auto part = merge::settled(otherPixels, *map, pixels, box, hole);
    if (!part) return tl::unexpected(part.error());
    if (part->channels() != pixels.channels())
        return fail(Error::Kind::BadSetting, "one of the frames has no colour", other.file.string(),
                    "Choose another frame.");
    mend::Mend out = mend;
    if (out.method != mend::Method::Clone) out.method = mend::Method::Heal;
    out.source.reset();
    out.lent = std::make_shared<const mend::LentPixels>(
        mend::LentPixels{other.name(), box, std::move(*part)});
    return out;
}

}  // namespace gq::render
