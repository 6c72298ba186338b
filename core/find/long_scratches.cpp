#include "core/find/long_scratches.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/find/believed.h"
#include "core/find/long_windows.h"
#include "core/find/run.h"
#include "core/pixels/parallel.h"

namespace gq::find {
namespace {

constexpr int kShortest = 120;  ///< px
constexpr int kMostPixels = 6'000'000;

/// The channel in which dust shows most: light dust lifts the darkest, dark dust the brightest.
ImageF planeOf(const Image& pixels, Polarity polarity) {
    ImageF out(pixels.size(), CV_32F);
    const int channels = pixels.channels();
    const bool light = polarity == Polarity::Light;
    forRows(pixels.rows, [&](int y) {
        const auto* p = pixels.ptr<ushort>(y);
        auto* o = out.ptr<float>(y);
        for (int x = 0; x < pixels.cols; ++x, p += channels) {
            int v = p[0];
            for (int c = 1; c < channels; ++c)
                v = light ? std::min<int>(v, p[c]) : std::max<int>(v, p[c]);
            o[x] = float(light ? v : 65535 - v) * (1 / 65535.0f);
        }
    });
    return out;
}

/// Lines that compete with each of these: near, and beside it for a part of its length.
std::vector<int> rivalsOf(const std::vector<Region>& lines) {
    std::vector<int> out;
    for (const auto& line : lines)
        out.push_back(int(std::ranges::count_if(lines, [&](const Region& other) {
            return &other != &line && std::abs(other.box.x - line.box.x) < 150 &&
                   other.box.y < line.box.br().y && line.box.y < other.box.br().y;
        })));
    return out;
}

/// Upright lines, where they lie in `pixels`. Stopped: none.
std::vector<LongLine> uprightLines(const Image& pixels, Polarity polarity, std::stop_token stop) {
    const ImageF tone = planeOf(pixels, polarity);
    const ImageF sum = alongWindows(tone, stop);
    if (sum.empty()) return {};
    const Mask stands = outstanding(sum, tone.rows);
    if (stop.stop_requested()) return {};
    std::vector<Region> lines = pieces(stands);
    std::erase_if(lines, [](const Region& r) { return r.box.height < kShortest; });
    const auto rivals = rivalsOf(lines);
    const LineField field{pixels, tone, sum, kRowsPooled, polarity == Polarity::Dark};
    std::vector<LongLine> out;
    for (size_t i = 0; i < lines.size() && !stop.stop_requested(); ++i) {
        LongLine line{lines[i], featuresOf(field, lines[i])};
        line.features[LineRivals] = float(rivals[i]);
        line.features[LinesOverall] = std::log1p(float(lines.size()));
        out.push_back(std::move(line));
    }
    return out;
}

Region transposed(const Region& region) {
    Mask mask;
    cv::transpose(region.mask, mask);
    const auto& [x, y, width, height] = region.box;
    return {Rect(y, x, height, width), mask};
}

Finding findingOf(const LongLine& line, int level, const Size& size, Polarity polarity) {
    Finding f;
    const auto scale = float(1 << level);
    f.kind = Kind::Scratch;
    f.polarity = polarity;
    f.measures.length = float(std::max(line.region.box.width, line.region.box.height)) * scale;
    f.measures.width = 3 * scale;
    f.measures.size = std::sqrt(f.measures.length * f.measures.width * 1.27f);
    f.measures.peak = line.features[LineStrength];
    f.measures.contrast = line.features[LineContrast];
    std::vector<PointF> path;
    for (const PointF& p : runOf(line.region, 16)) path.push_back(p * scale);
    f.region = stroke(path, 3 * scale, size);
    return f;
}

/// True if a sure line runs along nearly all of another.
bool follows(const Finding& own, const Finding& line, const Size& picture) {
    constexpr float kSure = 0.5f, kOfLength = 0.8f, kOfArea = 0.7f;
    if (!isLine(own.kind) || own.confidence < kSure || (own.region.box & line.region.box).empty() ||
        own.measures.length < kOfLength * line.measures.length)
        return false;
    const Region near = grown(own.region, 2, picture);
    const Rect both = near.box & line.region.box;
    Mask shared;
    cv::bitwise_and(near.mask(both - near.box.tl()), line.region.mask(both - line.region.box.tl()),
                    shared);
    return float(cv::countNonZero(shared)) > kOfArea * float(line.region.area());
}

}  // namespace

int scratchHalvings(const Size& size) {
    int out = 0;
    for (Size s = size; s.area() > kMostPixels; ++out) s = {s.width / 2, s.height / 2};
    return out;
}

LongLines longLinesOf(const Scales& picture, Polarity polarity, std::stop_token stop) {
    LongLines out{scratchHalvings(picture.size()), {}};
    const Image& pixels = picture.at(out.level);
    if (std::min(pixels.cols, pixels.rows) < kShortest || stop.stop_requested()) return out;
    out.all = uprightLines(pixels, polarity, stop);
    if (stop.stop_requested()) return out;
    Image turned;
    cv::transpose(pixels, turned);
    for (auto& line : uprightLines(turned, polarity, stop)) {
        line.region = transposed(line.region);
        out.all.push_back(std::move(line));
    }
    return out;
}

std::vector<Finding> longScratches(const Scales& picture, Origin origin, Polarity polarity,
                                   float least, std::stop_token stop) {
    const Forest* forest = lineForestFor(origin);
    if (!forest) return {};
    const LongLines lines = longLinesOf(picture, polarity, stop);
    return believed(lines.all, *forest, kDoubt, least, [&](const LongLine& line) {
        Finding f = findingOf(line, lines.level, picture.size(), polarity);
        if (origin == Origin::Print) f.kind = Kind::Crack;
        return f;
    });
}

void leaveOutFollowed(std::vector<Finding>& found, std::vector<Finding>& candidates,
                      const Size& picture) {
    std::erase_if(found, [&](const Finding& line) {
        if (!isLine(line.kind)) return false;
        const auto own = std::ranges::find_if(
            candidates, [&](const Finding& c) { return follows(c, line, picture); });
        if (own == candidates.end()) return false;
        own->confidence = std::max(own->confidence, line.confidence);
        return true;
    });
}

}  // namespace gq::find
