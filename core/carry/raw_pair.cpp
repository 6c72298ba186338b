#include "core/carry/raw_pair.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/carry/carry_guides.h"
#include "core/carry/sheet.h"

namespace gq::carry {
namespace {

using series::Frame;

constexpr int kRing = 24;  ///< px around a shade that tell of its surroundings

/// A shade of a frame as a shadow on its sensor.
Shadow onSensor(const mend::KnownShade& shade, const Frame& frame) {
    const FrameGeometry& g = frame.geometry;
    const Rect box = g.boxToSensor(shade.box);
    Shadow out;
    out.box = Rect(box.tl() - Point(kRing, kRing), box.br() + Point(kRing, kRing));
    ImageF log;
    cv::warpAffine(shade.logShare, log, sensorToStored(g, out.box.tl(), shade.box.tl()),
                   out.box.size(), cv::INTER_LINEAR | cv::WARP_INVERSE_MAP);
    cv::exp(log, log);
    out.held = 1 - blurredAsLearnt(log);
    out.aperture = frame.aperture;
    out.frames = 1;
    return out;
}

}  // namespace

Result<RawPair> rawPairOf(const Frame& frame) {
    if (frame.companion.empty())
        return fail(Error::Kind::NotFound, "the frame has no raw file beside it",
                    frame.file.string(), "Only pairs that were gathered together have one.");
    auto raw = series::makeFrame(frame.companion, frame.id);
    if (!raw) return tl::unexpected(raw.error());
    return laidOnOther(frame, std::move(*raw));
}

Result<RawPair> laidOnOther(const Frame& frame, Frame other) {
    // Whichever of the two is the larger one shows more of the sensor.
    const Size sensor(std::max(other.geometry.stored.width, frame.geometry.stored.width),
                      std::max(other.geometry.stored.height, frame.geometry.stored.height));
    const Frame from = laidOn(sensor, frame);
    RawPair out{laidOn(sensor, std::move(other)), {}};
    if (from.geometry.sensorSize() != out.frame.geometry.sensorSize())
        return fail(Error::Kind::Refused, "the raw file has another shape than the picture",
                    out.frame.file.string(), "Gather it as a frame of its own.");
    out.frame.guides = carriedGuides(from, out.frame);
    const bool same = from.geometry.stored == out.frame.geometry.stored;
    for (auto m : frame.mends) {
        if (m.mend.shade) out.shadows[m.id] = onSensor(*m.mend.shade, from);
        if (!same) {
            m.mend.region = gq::carried(m.mend.region, from.geometry, out.frame.geometry);
            m.mend.source.reset();
            m.mend.lent.reset();
            m.mend.guides.clear();
            if (m.mend.shade) m.mend.shade.reset(), m.mend.method = mend::Method::Heal;
        }
        if (!m.mend.region.empty()) out.frame.mends.push_back(std::move(m));
    }
    return out;
}

Shadows shadowsElsewhere(const series::Series& series, const Frame& frame) {
    Shadows out;
    for (const auto& f : series.frames) {
        const Frame other = laidOn(frame.geometry.sensorSize(), *f);
        for (const auto& c : other.carried) {
            if (c.fromFrame != frame.id || other.id == frame.id) continue;
            const auto* m = other.mend(c.mend);
            const auto known = out.find(c.fromMend);
            const bool better = known == out.end() || other.aperture > known->second.aperture;
            if (m && !m->muted && m->mend.shade && better)
                out[c.fromMend] = onSensor(*m->mend.shade, other);
        }
    }
    return out;
}

}  // namespace gq::carry
