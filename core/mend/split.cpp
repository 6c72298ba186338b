#include "core/mend/split.h"

#include <algorithm>
#include <limits>

namespace gq::mend {
namespace {

int squared(Point d) {
    return d.x * d.x + d.y * d.y;
}

std::vector<Point> greedySeeds(const std::vector<Point>& hole, int across) {
    std::vector<Point> seeds;
    for (const Point& p : hole)
        if (std::none_of(seeds.rbegin(), seeds.rend(),
                         [&](const Point& s) { return squared(p - s) < across * across; }))
            seeds.push_back(p);
    return seeds;
}

size_t nearest(const std::vector<Point>& seeds, const Point& p) {
    size_t best = 0;
    int least = std::numeric_limits<int>::max();
    for (size_t i = 0; i < seeds.size(); ++i)
        if (const int d = squared(p - seeds[i]); d < least) least = d, best = i;
    return best;
}

}  // namespace

std::vector<std::vector<Point>> split(const std::vector<Point>& hole, int across) {
    std::vector<Point> seeds = greedySeeds(hole, across);
    if (seeds.size() <= 1) return {hole};
    for (int round = 0; round < 2; ++round) {
        std::vector<cv::Point3i> sums(seeds.size());
        for (const Point& p : hole) sums[nearest(seeds, p)] += {p.x, p.y, 1};
        for (size_t i = 0; i < seeds.size(); ++i)
            if (sums[i].z) seeds[i] = {sums[i].x / sums[i].z, sums[i].y / sums[i].z};
    }
    Point middle(0, 0);
    for (const Point& p : hole) middle += p;
    middle = Point(middle.x / int(hole.size()), middle.y / int(hole.size()));
    std::stable_sort(seeds.begin(), seeds.end(), [&](const Point& a, const Point& b) {
        return squared(a - middle) > squared(b - middle);
    });
    std::vector<std::vector<Point>> all(seeds.size());
    for (const Point& p : hole) all[nearest(seeds, p)].push_back(p);
    std::erase_if(all, [](const auto& piece) { return piece.empty(); });
    return all;
}

}  // namespace gq::mend
