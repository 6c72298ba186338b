#include "core/carry/sheet.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/mend/membrane.h"
#include "core/pixels/color.h"

namespace gq::carry {
namespace {

constexpr float kBlack = 0.01f;             ///< of linear light
constexpr float kClipped = 0.985f * 65535;  ///< encoded
constexpr double kFewClipped = 0.1;         ///< share of a place
constexpr double kNear = 12;                ///< px; the ring's spread is told about so far
constexpr float kLittle = 0.003f;           ///< say of the whole ring where none is near
constexpr int kRimStep = 3, kGrid = 4;      // px

/// The picture's pixels under `box` of the sensor, turned and scaled as the sensor lies.
cv::Mat onSensor(const cv::Mat& stored, const cv::Matx23d& toStored, const Size& size) {
    cv::Mat out;
    cv::warpAffine(stored, out, toStored, size, cv::INTER_LINEAR | cv::WARP_INVERSE_MAP,
                   cv::BORDER_REPLICATE);
    return out;
}

/// Weights of the colours that tell of light: those that are clipped here tell nothing of a shadow.
/// All of them where hardly one tells.
std::array<float, 3> tellingColours(const Image& part) {
    if (part.channels() == 1) return kLumaWeights;
    std::array<int, 3> clipped{};
    for (int y = 0; y < part.rows; ++y)
        for (int x = 0; x < part.cols; ++x)
            for (size_t c = 0; c < 3; ++c)
                clipped[c] += part.ptr<ushort>(y)[3 * size_t(x) + c] >= kClipped;
    auto weights = kLumaWeights;
    float sum = 0;
    for (size_t c = 0; c < 3; ++c) {
        if (clipped[c] > kFewClipped * part.total()) weights[c] = 0;
        sum += weights[c];
    }
    if (sum <= 0) return kLumaWeights;
    for (auto& w : weights) w /= sum;
    return weights;
}

/// Calls `visit(x, y, value)` for every pixel of the ring.
template <class Visit>
void overRing(const ImageF& logs, const Mask& ring, Visit visit) {
    for (int y = 0; y < logs.rows; ++y) {
        const auto* l = logs.ptr<float>(y);
        const auto* r = ring.ptr<uchar>(y);
        for (int x = 0; x < logs.cols; ++x)
            if (r[x]) visit(double(x), double(y), double(l[x]));
    }
}

/// Plane through the ring, fitted three times: after the first without what departs most.
void takeOutPlane(ImageF& logs, const Mask& ring, Departure& out) {
    cv::Vec3d fit;
    const auto off = [&](double x, double y, double l) {
        return l - fit[0] - fit[1] * x - fit[2] * y;
    };
    double spread = 1e9;
    for (int round = 0; round < 3; ++round) {
        double n = 1e-9, sx = 0, sy = 0, xx = 1e-9, xy = 0, yy = 1e-9, square = 0;
        cv::Vec3d v;
        overRing(logs, ring, [&](double x, double y, double l) {
            const double d = off(x, y, l);
            if (round > 0 && std::abs(d) > 2.5 * spread) return;
            n += 1;
            sx += x;
            sy += y;
            xx += x * x;
            xy += x * y;
            yy += y * y;
            v[0] += l;
            v[1] += x * l;
            v[2] += y * l;
            square += d * d;
        });
        if (round > 0) spread = std::min(spread, std::sqrt(square / std::max(n, 1.0)));
        fit = cv::Matx33d(n, sx, sy, sx, xx, xy, sy, xy, yy).solve(v, cv::DECOMP_CHOLESKY);
        if (round > 0) continue;
        double all = 0;
        overRing(logs, ring, [&](double x, double y, double l) {
            const double d = off(x, y, l);
            all += d * d;
        });
        spread = std::sqrt(all / std::max(n, 1.0)) + 1e-6;
    }
    for (int y = 0; y < logs.rows; ++y) {
        auto* l = logs.ptr<float>(y);
        for (int x = 0; x < logs.cols; ++x) l[x] -= float(fit[0] + fit[1] * x + fit[2] * y);
    }
    out.noise = float(spread);
}

/// A membrane through `values` (one a point of the rim) over the cover, zero elsewhere: worked out
/// at every kGrid-th pixel, since it is smooth.
ImageF membraneOver(const Mask& cover, const std::vector<Point>& rim, const ImageF& values) {
    const Size grid((cover.cols + kGrid - 1) / kGrid + 1, (cover.rows + kGrid - 1) / kGrid + 1);
    Mask near;
    cv::dilate(cover, near, Mask::ones(2 * kGrid + 1, 2 * kGrid + 1, CV_8U));
    std::vector<Point> knots;
    for (int y = 0; y < grid.height; ++y)
        for (int x = 0; x < grid.width; ++x)
            if (near.at<uchar>(std::min(y * kGrid, cover.rows - 1),
                               std::min(x * kGrid, cover.cols - 1)))
                knots.emplace_back(x * kGrid, y * kGrid);
    const mend::Membrane membrane(rim, knots);
    std::vector<mend::Vec4> onRim;
    for (const Point& p : membrane.rim()) onRim.push_back(mend::splat(values.at<float>(p)));
    const auto sheet = membrane.spread(onRim);
    ImageF coarse = ImageF::zeros(grid, CV_32F), out;
    for (size_t i = 0; i < knots.size(); ++i) coarse.at<float>(knots[i] / kGrid) = sheet[i][0];
    const cv::Matx23d toGrid(1.0 / kGrid, 0, 0, 0, 1.0 / kGrid, 0);
    cv::warpAffine(coarse, out, toGrid, cover.size(), cv::INTER_LINEAR | cv::WARP_INVERSE_MAP);
    out.setTo(0, cover == 0);
    return out;
}

/// What the plane leaves of the ring, stretched over the cover as a membrane.
void takeOutMembrane(ImageF& logs, const Mask& ring, const Mask& cover) {
    ImageF known, weighted = logs.clone(), sums, counts;
    ring.convertTo(known, CV_32F, 1.0 / 255);
    weighted.setTo(0, ring == 0);
    cv::GaussianBlur(weighted, sums, {}, 4);
    cv::GaussianBlur(known, counts, {}, 4);
    Mask near;
    cv::dilate(cover, near, Mask::ones(5, 5, CV_8U));
    std::vector<Point> rim;
    for (int y = 0; y < logs.rows; ++y)
        for (int x = 0; x < logs.cols; ++x)
            if (ring.at<uchar>(y, x) && near.at<uchar>(y, x) && (x + y) % kRimStep == 0)
                rim.emplace_back(x, y);
    if (rim.empty() || cv::countNonZero(cover) == 0) return;
    logs -= membraneOver(cover, rim, sums / cv::max(counts, 0.02f));
}

}  // namespace

cv::Matx23d sensorToStored(const FrameGeometry& g, Point from, Point to) {
    const auto stored = [&](double x, double y) {
        const PointF p = g.fromSensor({float(x + from.x + 0.5), float(y + from.y + 0.5)});
        return cv::Vec2d(double(p.x) - 0.5 - to.x, double(p.y) - 0.5 - to.y);
    };
    const auto o = stored(0, 0), x = stored(1, 0) - o, y = stored(0, 1) - o;
    return {x[0], y[0], o[0], x[1], y[1], o[1]};
}

Departure departureAt(const Image& pixels, const FrameGeometry& g, const Rect& box,
                      const Mask& cover) {
    Departure out;
    const Rect stored = grown(g.boxFromSensor(box), 2, pixels.size()) & Rect({0, 0}, pixels.size());
    if (stored.width < 8 || stored.height < 8) return out;
    const cv::Matx23d map = sensorToStored(g, box.tl(), stored.tl());
    const Image part = pixels(stored);
    ImageF usable(part.size(), CV_32F);
    const auto channels = size_t(part.channels());
    const auto weights = tellingColours(part);
    const ImageF dark = logLuminance(part, weights);
    const float logBlack = std::log(kBlack);
    for (int y = 0; y < part.rows; ++y) {
        const auto* p = part.ptr<ushort>(y);
        const auto* l = dark.ptr<float>(y);
        auto* u = usable.ptr<float>(y);
        for (int x = 0; x < part.cols; ++x, p += channels) {
            bool told = l[x] > logBlack;
            for (size_t c = 0; c < channels; ++c) told &= float(p[c]) < kClipped || weights[c] == 0;
            u[x] = told;
        }
    }
    out.logs = onSensor(dark, map, box.size());
    cv::warpAffine(usable, out.trust, map, box.size(), cv::INTER_LINEAR | cv::WARP_INVERSE_MAP,
                   cv::BORDER_CONSTANT, cv::Scalar(0));
    out.ring = (out.trust > 0.99f) & (cover == 0);
    if (cv::countNonZero(out.ring) < 60) return out;
    cv::GaussianBlur(out.logs, out.logs, {5, 5}, 0.8);
    takeOutPlane(out.logs, out.ring, out);
    out.level = out.logs.clone();
    takeOutMembrane(out.logs, out.ring, cover);
    out.told = true;
    return out;
}

ImageF spreadNear(const Departure& d) {
    ImageF known, squares, counts;
    d.ring.convertTo(known, CV_32F, 1.0 / 255);
    cv::GaussianBlur(ImageF(d.level.mul(d.level).mul(known)), squares, {}, kNear);
    cv::GaussianBlur(known, counts, {}, kNear);
    ImageF out = (squares + kLittle * d.noise * d.noise) / (counts + kLittle);
    cv::sqrt(out, out);
    return out;
}

}  // namespace gq::carry
