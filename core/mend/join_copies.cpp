#include "core/mend/join_copies.h"

#include <array>
#include <opencv2/imgproc.hpp>

#include "core/pixels/parallel.h"

namespace gq::mend {
namespace {

constexpr int kRounds = 60;
constexpr float kOverRelax = 1.8f;
constexpr float kPull = 0.002f;  ///< towards the copies, beside 1 for each step
constexpr float kEdge = 0.04f;   ///< a step that lacks more than this is an edge, and stays one
constexpr float kStricter = 30;  ///< how much more a step counts at the rim
constexpr float kReach = 4;      ///< px over which that falls by e

/// How much the steps of each pixel count.
ImageF strictness(const Mask& hole) {
    ImageF depth, out;
    cv::distanceTransform(hole, depth, cv::DIST_L2, 3);
    cv::exp(depth / -kReach, out);
    return 1 + kStricter * out;
}

/// A step between two neighbours: what it lacks of the copied places' step, and how much it counts.
struct Step {
    Vec4 lacking{};
    float weight = 0;
};

}  // namespace

void joinCopies(Level& level, const PatchMatch& match, std::stop_token stop) {
    const Size size = level.hole.size();
    const cv::Mat known = ~(level.hole | level.forbidden);
    const ImageF strict = strictness(level.hole);
    const auto inHole = [&](const Point& p) {
        return level.hole.at<uchar>(p) > 0 && match.match(p).x >= 0;
    };
    // From p to its right or lower neighbour.
    const auto stepFrom = [&](const Point& p, const Point& by) {
        const Point q = p + by;
        Step out;
        if (p.x < 0 || p.y < 0 || q.x >= size.width || q.y >= size.height) return out;
        const bool here = inHole(p), there = inHole(q);
        if ((!here && !there) || (!here && !known.at<uchar>(p)) || (!there && !known.at<uchar>(q)))
            return out;
        Vec4 wanted{};
        if (const Point m = match.match(p); here)
            wanted += level.at(m.x + by.x, m.y + by.y) - level.at(m.x, m.y);
        if (const Point m = match.match(q); there)
            wanted += level.at(m.x, m.y) - level.at(m.x - by.x, m.y - by.y);
        if (here && there) wanted *= splat(0.5f);
        out.lacking = wanted - (level.at(q.x, q.y) - level.at(p.x, p.y));
        const Vec4 square = out.lacking * out.lacking;
        out.weight = std::min(strict.at<float>(p), strict.at<float>(q)) /
                     (1 + (square[0] + square[1] + square[2]) / (3 * kEdge * kEdge));
        return out;
    };
    const Point right(1, 0), down(0, 1);
    cv::Mat wanted(size, CV_32FC4, cv::Scalar::all(0)), change = wanted.clone();
    cv::Mat weights(size, CV_32FC4, cv::Scalar::all(0));  // of the steps right, down, left, up
    forRows(size.height, [&](int y) {
        for (int x = 0; x < size.width; ++x) {
            const Point p(x, y);
            if (!inHole(p)) continue;
            const Step steps[] = {stepFrom(p, right), stepFrom(p, down), stepFrom(p - right, right),
                                  stepFrom(p - down, down)};
            auto& sum = wanted.at<cv::Vec4f>(p);
            for (int i = 0; i < 4; ++i) {
                const float w = steps[i].weight * (i < 2 ? -1.0f : 1.0f);
                for (int c = 0; c < 3; ++c) sum[c] += w * steps[i].lacking[c];
                weights.at<cv::Vec4f>(p)[i] = steps[i].weight;
            }
        }
    });
    const std::array<Point, 4> beside{right, down, -right, -down};
    for (int round = 0; round < 2 * kRounds && !stop.stop_requested(); ++round)
        forRows(size.height, [&](int y) {
            for (int x = (y + round) & 1; x < size.width; x += 2) {
                const Point p(x, y);
                const auto& w = weights.at<cv::Vec4f>(p);
                const float all = w[0] + w[1] + w[2] + w[3];
                if (all <= 0) continue;
                cv::Vec4f sum = wanted.at<cv::Vec4f>(p);
                for (int i = 0; i < 4; ++i)
                    if (w[i] > 0) sum += change.at<cv::Vec4f>(p + beside[size_t(i)]) * w[i];
                auto& c = change.at<cv::Vec4f>(p);
                c += (sum / (all + kPull) - c) * kOverRelax;
            }
        });
    cv::add(level.values, change, level.values, level.hole);
}

}  // namespace gq::mend
