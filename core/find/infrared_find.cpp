#include "core/find/infrared_find.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/find/kind.h"
#include "core/find/run.h"

namespace gq::find {
namespace {

constexpr float kLow = 2.5f, kHigh = 6.0f, kLeast = 0.05f;

}  // namespace

std::vector<Finding> infraredFindings(const Infrared& evidence, Origin origin, Polarity polarity) {
    std::vector<Finding> out;
    const ImageF z = evidence.depth / evidence.noise;
    for (auto& piece : pieces(Mask(z > kLow))) {
        double depth = 0, high = 0;
        cv::minMaxLoc(evidence.depth(piece.box), nullptr, &depth, nullptr, nullptr, piece.mask);
        cv::minMaxLoc(z(piece.box), nullptr, &high, nullptr, nullptr, piece.mask);
        if (high < double(kHigh) || depth < double(kLeast)) continue;
        Mask core = (evidence.depth(piece.box) > depth / 4) & piece.mask;
        const Region region = regionOf(core, piece.box.tl());
        const int area = region.area();
        if (area < 3) continue;
        Finding f;
        f.region = region;
        f.polarity = polarity;
        const auto run = runOf(region);
        f.measures.size = std::sqrt(float(area) * 1.273f);
        f.measures.length = std::max(lengthOf(run), f.measures.size);
        f.measures.width = float(area) / f.measures.length;
        f.measures.contrast = float(depth);
        f.measures.peak = float(high);
        f.measures.noise = float(depth / high);
        const float chord = run.size() < 2 ? 0 : float(cv::norm(run.front() - run.back()));
        f.kind = kindOf(f.measures, chord > 0.93f * lengthOf(run) ? 1.0f : 0.0f, origin);
        f.confidence =
            1 / (1 + std::exp(-float(std::log(high / 9) * 3 + std::log(depth / 0.08) + 1)));
        out.push_back(std::move(f));
    }
    return out;
}

void confirm(std::vector<Finding>& findings, const Infrared& evidence) {
    for (auto& f : findings) {
        const float depth = float(cv::mean(evidence.depth(f.region.box), f.region.mask)[0]);
        const float noise = float(cv::mean(evidence.noise(f.region.box), f.region.mask)[0]);
        if (depth > 1.5f * noise) continue;
        f.confidence *= f.kind == Kind::Scratch && f.measures.length > 150 ? 0.5f : 0.2f;
    }
}

}  // namespace gq::find
