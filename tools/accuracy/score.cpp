#include "tools/accuracy/score.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"

namespace gq::accuracy {
namespace {

constexpr int kCut = 128;

bool isLine(sim::WearKind kind) {
    using enum sim::WearKind;
    return kind == Fibre || kind == Scratch || kind == Crack || kind == Crease;
}

/// The true change, and the fine texture of the clean picture.
struct Planes {
    ImageF change, texture, clean;
};

Planes planesOf(const sim::Worn& truth) {
    const ImageF clean = luma(truth.clean), worn = luma(truth.worn);
    ImageF smooth;
    cv::GaussianBlur(clean, smooth, {}, 3);
    return {cv::abs(worn - clean), cv::abs(clean - smooth), clean};
}

/// How much the clean picture itself differs between the inside of such an outline and a ring
/// around it, root mean square over eight places beside the true one.
double unevenness(const ImageF& tone, const Rect& box, const Mask& mask) {
    constexpr int kRing = 6;
    Mask inside, wide;
    cv::copyMakeBorder(mask, inside, kRing, kRing, kRing, kRing, cv::BORDER_CONSTANT, 0);
    cv::dilate(inside, wide, Mask::ones(2 * kRing + 1, 2 * kRing + 1, CV_8U));
    const Mask ring = wide & ~inside;
    const Rect all({0, 0}, tone.size());
    double square = 0;
    int n = 0;
    for (const auto& [x, y] :
         {std::pair(1, 0), {1, 1}, {0, 1}, {-1, 1}, {-1, 0}, {-1, -1}, {0, -1}, {1, -1}}) {
        const Rect there = Rect(box.x - kRing, box.y - kRing, inside.cols, inside.rows) +
                           Point(x * (box.width + 4), y * (box.height + 4));
        if ((there & all) != there) continue;
        const double d = cv::mean(tone(there), inside)[0] - cv::mean(tone(there), ring)[0];
        square += d * d;
        ++n;
    }
    return n ? std::sqrt(square / n) : 0;
}

/// Can a person tell it from what surrounds it?
bool visible(const Planes& planes, const Rect& box, const Mask& mask) {
    const double change = cv::mean(planes.change(box), mask)[0];
    const Rect wide = grown(box, 10, planes.change.size());
    // Mean of |x| is 0.8 deviations; larger marks are told apart in rougher texture.
    const double texture = cv::mean(planes.texture(wide))[0] * 1.25;
    return change > 1.5 / 255 && change > 1.2 * texture &&
           change > 1.5 * unevenness(planes.clean, box, mask);
}

}  // namespace

Score::Count Score::all() const {
    Count out;
    for (const auto& [kind, c] : kinds) {
        out.asked += c.asked;
        out.found += c.found;
    }
    return out;
}

double Score::recall() const {
    const Count c = all();
    return c.asked ? double(c.found) / c.asked : 1.0;
}

double Score::precision() const {
    return findings ? 1 - double(wrong) / findings : 1.0;
}

double Score::f1() const {
    const double p = precision(), r = recall();
    return p + r > 0 ? 2 * p * r / (p + r) : 0;
}

double Score::lineShare() const {
    return askedLine > 0 ? foundLine / askedLine : 1.0;
}

void Score::add(const Score& other) {
    for (const auto& [kind, c] : other.kinds) {
        kinds[kind].asked += c.asked;
        kinds[kind].found += c.found;
    }
    askedLine += other.askedLine;
    foundLine += other.foundLine;
    findings += other.findings;
    wrong += other.wrong;
    megapixels += other.megapixels;
}

Score score(const std::vector<find::Finding>& findings, float line, const sim::Worn& truth) {
    const Size size = truth.clean.size();
    const Mask wear = truth.map();
    Mask marked(size, CV_8U, cv::Scalar(0));
    Score out;
    out.megapixels = double(truth.clean.total()) * 1e-6;
    for (const auto& f : findings) {
        if (f.confidence < line) continue;
        ++out.findings;
        Mask on;
        cv::bitwise_and(wear(f.region.box), f.region.mask, on);
        out.wrong += cv::countNonZero(on) < 0.1 * f.region.area();
        paint(marked, grown(f.region, 2, size));
    }
    const Planes planes = planesOf(truth);
    for (const auto& piece : truth.pieces) {
        const int cut = isLine(piece.kind) ? kCut : 1 << 20;
        const Rect whole = piece.cover.box;
        for (int y = 0; y < whole.height; y += cut)
            for (int x = 0; x < whole.width; x += cut) {
                const Rect part = Rect(x, y, cut, cut) & Rect({0, 0}, whole.size());
                const Mask mask = piece.cover.share(part) > 0.25f;
                const int area = cv::countNonZero(mask);
                const Rect box = part + whole.tl();
                if (area < 3 || (cut == kCut && area < 12) || !visible(planes, box, mask)) continue;
                auto& count = out.kinds[piece.kind];
                ++count.asked;
                Mask on;
                cv::bitwise_and(marked(box), mask, on);
                const int covered = cv::countNonZero(on);
                count.found += covered >= 0.3 * area;
                if (piece.kind == sim::WearKind::Scratch || piece.kind == sim::WearKind::Crack) {
                    out.askedLine += area;
                    out.foundLine += covered;
                }
            }
    }
    return out;
}

}  // namespace gq::accuracy
