#include "core/mend/join_copies.h"

#include <array>

#include "core/pixels/parallel.h"

namespace gq::mend {
namespace {

constexpr int kRounds = 60;
constexpr float kOverRelax = 1.8f;
constexpr float kPull = 0.002f;  ///< towards the copies, beside 1 for each step
constexpr std::array<std::array<int, 2>, 4> kBeside{{{1, 0}, {-1, 0}, {0, 1}, {0, -1}}};

}  // namespace

void joinCopies(Level& level, const PatchMatch& match, std::stop_token stop) {
    const Size size = level.hole.size();
    cv::Mat known = ~(level.hole | level.forbidden), wanted(size, CV_32FC4, cv::Scalar::all(0)),
            weight(size, CV_32F, cv::Scalar(0)), change(size, CV_32FC4, cv::Scalar::all(0));
    const auto inHole = [&](int x, int y) {
        return level.hole.at<uchar>(y, x) > 0 && match.match({x, y}).x >= 0;
    };
    // Only changes are sought: what each pixel's step to its neighbour lacks.
    forRows(size.height, [&](int y) {
        for (int x = 0; x < size.width; ++x) {
            if (!inHole(x, y)) continue;
            const Point s = match.match({x, y});
            Vec4 lacking{};
            float edges = 0;
            for (const auto& [u, v] : kBeside) {
                const int qx = x + u, qy = y + v;
                if (qx < 0 || qy < 0 || qx >= size.width || qy >= size.height) continue;
                const bool free = inHole(qx, qy);
                if (!free && !known.at<uchar>(qy, qx)) continue;
                const Vec4 own = level.at(x, y) - level.at(qx, qy);
                Vec4 step = level.at(s.x, s.y) - level.at(s.x + u, s.y + v);
                if (free) {
                    const Point o = match.match({qx, qy});
                    step = (step + level.at(o.x - u, o.y - v) - level.at(o.x, o.y)) * splat(0.5f);
                }
                lacking += step - own;
                edges += 1;
            }
            wanted.at<cv::Vec4f>(y, x) = {lacking[0], lacking[1], lacking[2], 0};
            weight.at<float>(y, x) = edges;
        }
    });
    for (int round = 0; round < 2 * kRounds && !stop.stop_requested(); ++round)
        forRows(size.height, [&](int y) {
            for (int x = (y + round) & 1; x < size.width; x += 2) {
                if (!inHole(x, y)) continue;
                cv::Vec4f sum = wanted.at<cv::Vec4f>(y, x);
                for (const auto& [u, v] : kBeside) {
                    const int qx = x + u, qy = y + v;
                    if (qx < 0 || qy < 0 || qx >= size.width || qy >= size.height) continue;
                    if (inHole(qx, qy)) sum += change.at<cv::Vec4f>(qy, qx);
                }
                auto& c = change.at<cv::Vec4f>(y, x);
                c += (sum / (weight.at<float>(y, x) + kPull) - c) * kOverRelax;
            }
        });
    cv::add(level.values, change, level.values, level.hole);
}

}  // namespace gq::mend
