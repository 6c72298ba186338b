#include "core/find/measure.h"

#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"

namespace gq::find {
namespace {

struct Sample {
    Point at;
    float distance;  ///< from the candidate, px of the level; 0 inside
};

/// Least-squares plane through values over places.
struct Plane {
    double a = 0, bx = 0, by = 0;
    [[nodiscard]] double at(double x, double y) const { return a + bx * x + by * y; }
};

Plane fitPlane(const std::vector<PointF>& places, const std::vector<float>& values) {
    cv::Matx33d m = cv::Matx33d::zeros();
    cv::Vec3d v(0, 0, 0);
    for (size_t i = 0; i < places.size(); ++i) {
        const cv::Vec3d b(1, double(places[i].x), double(places[i].y));
        m += b * b.t();
        v += b * double(values[i]);
    }
    m(1, 1) += 1e-3;
    m(2, 2) += 1e-3;
    const cv::Vec3d s = m.solve(v, cv::DECOMP_CHOLESKY);
    return {s[0], s[1], s[2]};
}

/// Inside and ring pixels; the ring skips other candidates.
void gather(const Candidates& all, size_t index, std::vector<Sample>& inside,
            std::vector<Sample>& ring, float wide) {
    const Region& region = all.regions[index];
    const Rect box = grown(region.box, int(wide) + 3, all.labels.size());
    Mask outside(box.size(), CV_8U, cv::Scalar(255));
    outside(Rect(region.box.tl() - box.tl(), region.box.size())).setTo(0, region.mask);
    cv::Mat distance;
    cv::distanceTransform(outside, distance, cv::DIST_L2, 3);
    for (int y = 0; y < box.height; ++y)
        for (int x = 0; x < box.width; ++x) {
            const float d = distance.at<float>(y, x);
            const Point at(box.x + x, box.y + y);
            if (d == 0)
                inside.push_back({at, 0});
            else if (d > 1.8f && d <= 1.8f + wide && all.labels.at<int>(at) == 0)
                ring.push_back({at, d});
        }
}

/// Shape from second moments: length and width of the rectangle with the same ones.
void shape(const std::vector<Sample>& inside, PointF centre, float scale, Measures& out) {
    double xx = 1.0 / 12, yy = 1.0 / 12, xy = 0;
    for (const auto& s : inside) {
        const double dx = s.at.x - double(centre.x), dy = s.at.y - double(centre.y);
        xx += dx * dx / double(inside.size());
        yy += dy * dy / double(inside.size());
        xy += dx * dy / double(inside.size());
    }
    const double t = std::sqrt((xx - yy) * (xx - yy) / 4 + xy * xy), l1 = (xx + yy) / 2 + t;
    const auto area = float(inside.size());
    out.length = float(std::sqrt(12 * l1)) * scale;
    out.width = area * scale * scale / out.length;
    out.size = std::sqrt(area * 4 / 3.14159265f) * scale;
}

float neutralDeparture(const Residual& r, const std::vector<Sample>& inside,
                       const std::vector<Sample>& ring) {
    if (r.colour.channels() != 3) return 0;
    std::array<double, 3> in{}, out{};
    for (const auto& s : inside)
        for (int c = 0; c < 3; ++c)
            in[size_t(c)] += double(toLinear(r.colour.at<cv::Vec<ushort, 3>>(s.at)[c]));
    for (const auto& s : ring)
        for (int c = 0; c < 3; ++c)
            out[size_t(c)] += double(toLinear(r.colour.at<cv::Vec<ushort, 3>>(s.at)[c]));
    std::array<double, 3> change{};
    for (size_t c = 0; c < 3; ++c)
        change[c] = std::log((in[c] / double(inside.size()) + 0.003) /
                             (out[c] / double(ring.size()) + 0.003));
    const auto [lo, hi] = std::minmax_element(change.begin(), change.end());
    const double mean = (change[0] + change[1] + change[2]) / 3;
    return float((*hi - *lo) / (std::abs(mean) + 0.01));
}

}  // namespace

Surroundings surroundingsOf(const Residual& r, const Candidates& all, Polarity polarity) {
    Surroundings out;
    const float sign = polarity == Polarity::Dark ? -1.0f : 1.0f;
    cv::boxFilter(ImageF(cv::abs(r.residual)), out.wide, CV_32F, {61, 61}, {-1, -1}, true,
                  cv::BORDER_REFLECT);
    for (const auto& region : all.regions) {
        double lo = 0, hi = 0;
        cv::minMaxLoc(r.residual(region.box), &lo, &hi, nullptr, nullptr, region.mask);
        out.peaks.push_back(sign > 0 ? float(hi) : float(-lo));
        out.places.push_back(region.centre());
    }
    return out;
}

Measures measure(const Residual& r, const Candidates& all, const Surroundings& around, size_t index,
                 Polarity polarity) {
    Measures out;
    const float sign = polarity == Polarity::Dark ? -1.0f : 1.0f, scale = float(1 << r.level);
    const Region& region = all.regions[index];
    const PointF centre = region.centre() - PointF(0.5f, 0.5f);
    const float diameter = std::sqrt(float(region.area()) * 1.273f);
    std::vector<Sample> inside, ring;
    gather(all, index, inside, ring, std::clamp(0.7f * diameter, 4.0f, 14.0f));
    shape(inside, centre, scale, out);
    const float reach = std::max(1.0f, float(std::max(region.box.width, region.box.height)));
    if (ring.size() < 12) {  // hemmed in by other candidates: certainly not an isolated blemish
        out.ring = out.sector = 9;
        out.crowd = 99;
        return out;
    }
    std::vector<PointF> places;
    std::vector<float> values;
    for (const auto& s : ring) {
        places.push_back((PointF(s.at) - centre) * (1 / reach));
        values.push_back(r.plane.at<float>(s.at));
    }
    const Plane plane = fitPlane(places, values);
    std::array<double, 8> sum{}, count{};
    double square = 0;
    for (size_t i = 0; i < ring.size(); ++i) {
        const double e = double(values[i]) - plane.at(double(places[i].x), double(places[i].y));
        const float a = std::atan2(places[i].y, places[i].x) * (4 / 3.14159265f) + 8;
        sum[size_t(a) % 8] += e;
        count[size_t(a) % 8] += 1;
        square += e * e;
    }
    double depth = 0, absolute = 0, most = 0;
    for (const auto& s : inside) {
        const PointF p = (PointF(s.at) - centre) * (1 / reach);
        depth +=
            double(sign) * (double(r.plane.at<float>(s.at)) - plane.at(double(p.x), double(p.y)));
        absolute += double(std::abs(r.residual.at<float>(s.at)));
        most = std::max(most, double(sign * r.residual.at<float>(s.at) / r.noise.at<float>(s.at)));
    }
    const double n = double(inside.size()), contrast = depth / n, safe = std::max(contrast, 1e-4);
    const Point middle(std::clamp(int(centre.x + 0.5f), 0, r.plane.cols - 1),
                       std::clamp(int(centre.y + 0.5f), 0, r.plane.rows - 1));
    out.contrast = float(contrast);
    out.noise = r.noise.at<float>(middle);
    out.peak = float(most);
    out.ring = float(std::sqrt(square / double(ring.size())) / safe);
    for (size_t k = 0; k < 8; ++k)
        if (count[k] > 0)
            out.sector = std::max(out.sector, float(std::abs(sum[k] / count[k]) / safe));
    out.colour = neutralDeparture(r, inside, ring);
    const double area = 61.0 * 61.0, whole = double(around.wide.at<float>(middle)) * area;
    out.isolation = float(safe / (std::max(whole - absolute, 0.02 * whole) / area + 0.0015));
    // Edge width: between the areas above a third and above two thirds of the peak.
    int core = 0;
    for (const auto& s : inside)
        core += sign * r.residual.at<float>(s.at) > 0.67f * around.peaks[index];
    out.softness = (std::sqrt(float(n)) - std::sqrt(float(std::max(core, 1)))) * 0.5642f * scale;
    const float near = 125, own = around.peaks[index];
    for (size_t k = 0; k < around.places.size(); ++k) {
        if (k == index) continue;
        const PointF d = around.places[k] - around.places[index];
        const float far = std::hypot(d.x, d.y);
        if (far > near) continue;
        out.crowd += std::min(1.0f, around.peaks[k] / own);
        if (far < 3 * diameter + 10) out.rival = std::max(out.rival, around.peaks[k] / own);
    }
    return out;
}

}  // namespace gq::find
