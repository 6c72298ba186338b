#include "sim/wear_shapes.h"

#include <algorithm>
#include <array>
#include <opencv2/imgproc.hpp>

namespace gq::sim {
namespace {

constexpr float kTurn = 6.2831853f;

float smooth(float t) {
    t = std::clamp(t, 0.0f, 1.0f);
    return t * t * (3 - 2 * t);
}

float distanceToSegment(PointF p, PointF a, PointF b, float& along) {
    const PointF ab = b - a, ap = p - a;
    const float length = ab.dot(ab);
    along = length > 0 ? std::clamp(ap.dot(ab) / length, 0.0f, 1.0f) : 0.0f;
    const PointF d = ap - ab * along;
    return std::hypot(d.x, d.y);
}

void drawSegment(Cover& cover, const StrokePoint& a, const StrokePoint& b, float edge) {
    const float reach = std::max(a.width, b.width) / 2 + edge + 1;
    const Rect box =
        Rect(Point(int(std::min(a.at.x, b.at.x) - reach), int(std::min(a.at.y, b.at.y) - reach)),
             Point(int(std::max(a.at.x, b.at.x) + reach) + 1,
                   int(std::max(a.at.y, b.at.y) + reach) + 1)) &
        cover.box;
    for (int y = box.y; y < box.br().y; ++y) {
        auto* row = cover.share.ptr<float>(y - cover.box.y);
        for (int x = box.x; x < box.br().x; ++x) {
            float t = 0;
            const float d = distanceToSegment({float(x) + 0.5f, float(y) + 0.5f}, a.at, b.at, t);
            const float half = (a.width + (b.width - a.width) * t) / 2;
            const float strength = a.strength + (b.strength - a.strength) * t;
            // A run thinner than a pixel covers only its share of it.
            const float full = std::min(1.0f, 2 * half);
            const float s = full * strength * smooth((std::max(half, 0.5f) - d) / edge + 0.5f);
            auto& out = row[x - cover.box.x];
            out = std::max(out, s);
        }
    }
}

}  // namespace

Cover blob(PointF centre, float radius, float edge, float stretch, Dice& dice,
           const Size& picture) {
    std::array<float, 5> height{}, phase{};
    for (size_t k = 0; k < height.size(); ++k) {
        height[k] = 0.17f * dice.normal() / float(k + 1);
        phase[k] = kTurn * dice.unit();
    }
    const float turn = kTurn * dice.unit(), c = std::cos(turn), s = std::sin(turn);
    const int reach = int(radius * 1.8f * std::max(1.0f, stretch) + edge) + 2;
    Cover out;
    out.box = Rect(int(centre.x) - reach, int(centre.y) - reach, 2 * reach + 1, 2 * reach + 1) &
              Rect({0, 0}, picture);
    if (out.box.empty()) return {};
    out.share.create(out.box.size(), CV_32F);
    for (int y = 0; y < out.box.height; ++y) {
        auto* row = out.share.ptr<float>(y);
        for (int x = 0; x < out.box.width; ++x) {
            const PointF d =
                PointF(float(out.box.x + x) + 0.5f, float(out.box.y + y) + 0.5f) - centre;
            const PointF q{(d.x * c + d.y * s) / stretch, -d.x * s + d.y * c};
            const float angle = std::atan2(q.y, q.x), far = std::hypot(q.x, q.y);
            float r = 1;
            for (size_t k = 0; k < height.size(); ++k)
                r += height[k] * std::cos(float(k + 2) * angle + phase[k]);
            r = radius * std::clamp(r, 0.45f, 1.7f);
            const float full = std::min(1.0f, 2 * radius);
            row[x] = full * smooth((std::max(r, 0.5f) - far) / edge + 0.5f);
        }
    }
    return out;
}

Cover strokeCover(const std::vector<StrokePoint>& run, float edge, const Size& picture) {
    if (run.empty()) return {};
    PointF lo = run[0].at, hi = run[0].at;
    float widest = 0;
    for (const auto& p : run) {
        lo = {std::min(lo.x, p.at.x), std::min(lo.y, p.at.y)};
        hi = {std::max(hi.x, p.at.x), std::max(hi.y, p.at.y)};
        widest = std::max(widest, p.width);
    }
    const float m = widest / 2 + edge + 2;
    Cover out;
    out.box = Rect(Point(int(std::floor(lo.x - m)), int(std::floor(lo.y - m))),
                   Point(int(hi.x + m) + 1, int(hi.y + m) + 1)) &
              Rect({0, 0}, picture);
    if (out.box.empty()) return {};
    out.share = ImageF(out.box.size(), CV_32F, cv::Scalar(0));
    for (size_t i = 1; i < run.size(); ++i) drawSegment(out, run[i - 1], run[i], edge);
    return out;
}

std::vector<StrokePoint> hairRun(PointF start, float length, float width, Dice& dice) {
    std::vector<StrokePoint> run;
    const float step = std::max(2.0f, width * 1.5f);
    float heading = kTurn * dice.unit(), bend = 0.06f * dice.normal();
    const float thinning = dice.between(0.2f, 0.8f);
    const int n = std::max(3, int(length / step));
    for (int i = 0; i <= n; ++i) {
        const float t = float(i) / float(n), taper = 1 - thinning * std::abs(2 * t - 1);
        run.push_back({start, width * taper, dice.between(0.85f, 1.0f)});
        bend = 0.92f * bend + 0.025f * dice.normal();
        heading += bend * step / 4;
        start += PointF(std::cos(heading), std::sin(heading)) * step;
    }
    return run;
}

std::vector<StrokePoint> scratchRun(PointF start, float heading, float length, float width,
                                    Dice& dice) {
    std::vector<StrokePoint> run;
    const float step = 12;
    const int n = std::max(2, int(length / step));
    const float breaks = dice.chance(0.4f) ? dice.between(0.2f, 0.6f) : 0;
    const std::uint32_t seed = dice.seed();
    for (int i = 0; i <= n; ++i) {
        const float wave = fractalNoise(seed, float(i) * 0.13f, 0.5f, 3);
        const float end = smooth(float(std::min(i, n - i)) / 4 + 0.2f);
        run.push_back({start, width * (1 + 0.35f * wave),
                       end * std::clamp(0.85f + 0.5f * wave - breaks, 0.0f, 1.0f)});
        heading += 0.004f * dice.normal();
        start += PointF(std::cos(heading), std::sin(heading)) * step;
    }
    return run;
}

std::vector<std::vector<StrokePoint>> crackRuns(PointF start, float heading, float length,
                                                float width, Dice& dice) {
    std::vector<std::vector<StrokePoint>> runs(1);
    std::vector<StrokePoint> branchStarts;
    std::vector<float> branchHeadings;
    const int n = std::max(4, int(length / 6));
    float drift = heading;
    for (int i = 0; i <= n; ++i) {
        const float left = 1 - float(i) / float(n);
        runs[0].push_back({start, width * (0.35f + 0.65f * left) * dice.between(0.75f, 1.2f), 1});
        drift += 0.05f * dice.normal();
        heading = drift + 0.45f * dice.normal();
        start += PointF(std::cos(heading), std::sin(heading)) * 6;
        if (i > 3 && left > 0.2f && dice.chance(0.045f)) {
            branchStarts.push_back(runs[0].back());
            branchHeadings.push_back(drift +
                                     (dice.chance(0.5f) ? 1.0f : -1.0f) * dice.between(0.5f, 1.2f));
        }
    }
    if (width > 0.8f)
        for (size_t b = 0; b < branchStarts.size(); ++b)
            for (auto& run : crackRuns(branchStarts[b].at, branchHeadings[b],
                                       length * dice.between(0.15f, 0.45f), width * 0.7f, dice))
                runs.push_back(std::move(run));
    return runs;
}

}  // namespace gq::sim
