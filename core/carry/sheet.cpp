#include "core/carry/sheet.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/mend/membrane.h"
#include "core/pixels/color.h"

namespace gq::carry {
namespace {

constexpr float kBlack = 0.01f, kClipped = 0.985f;  ///< of linear light; of the encoded value
constexpr int kRimStep = 3;

/// The picture's pixels under `box` of the sensor, turned and scaled as the sensor lies.
cv::Mat onSensor(const cv::Mat& stored, const cv::Matx23d& toStored, const Size& size) {
    cv::Mat out;
    cv::warpAffine(stored, out, toStored, size, cv::INTER_LINEAR | cv::WARP_INVERSE_MAP,
                   cv::BORDER_REPLICATE);
    return out;
}

/// Plane through the ring, fitted twice: the second time without what departs most.
void takeOutPlane(ImageF& logs, const Mask& ring, Departure& out) {
    cv::Vec3d fit;
    double spread = 1e9;
    for (int round = 0; round < 3; ++round) {
        cv::Matx33d m = cv::Matx33d::eye() * 1e-9;
        cv::Vec3d v;
        double square = 0, n = 0;
        for (int y = 0; y < logs.rows; ++y)
            for (int x = 0; x < logs.cols; ++x) {
                if (!ring.at<uchar>(y, x)) continue;
                const cv::Vec3d base(1, x, y);
                const double l = double(logs.at<float>(y, x)), off = l - fit.dot(base);
                if (round > 0 && std::abs(off) > 2.5 * spread) continue;
                m += base * base.t();
                v += base * l;
                square += off * off;
                n += 1;
            }
        if (round > 0) spread = std::min(spread, std::sqrt(square / std::max(n, 1.0)));
        fit = m.solve(v, cv::DECOMP_CHOLESKY);
        if (round == 0) {
            double all = 0, count = 0;
            for (int y = 0; y < logs.rows; ++y)
                for (int x = 0; x < logs.cols; ++x)
                    if (ring.at<uchar>(y, x)) {
                        const double off =
                            double(logs.at<float>(y, x)) - fit.dot(cv::Vec3d(1, x, y));
                        all += off * off;
                        count += 1;
                    }
            spread = std::sqrt(all / std::max(count, 1.0)) + 1e-6;
        }
    }
    for (int y = 0; y < logs.rows; ++y)
        for (int x = 0; x < logs.cols; ++x)
            logs.at<float>(y, x) -= float(fit.dot(cv::Vec3d(1, x, y)));
    out.noise = float(spread);
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
    std::vector<Point> rim, piece;
    std::vector<mend::Vec4> values;
    for (int y = 0; y < logs.rows; ++y)
        for (int x = 0; x < logs.cols; ++x) {
            if (cover.at<uchar>(y, x)) piece.emplace_back(x, y);
            if (ring.at<uchar>(y, x) && near.at<uchar>(y, x) && (x + y) % kRimStep == 0)
                rim.emplace_back(x, y);
        }
    if (rim.empty() || piece.empty()) return;
    const mend::Membrane membrane(rim, piece);
    for (const Point& p : membrane.rim())
        values.push_back(mend::splat(sums.at<float>(p) / std::max(counts.at<float>(p), 0.02f)));
    const auto sheet = membrane.spread(values);
    for (size_t i = 0; i < piece.size(); ++i) logs.at<float>(piece[i]) -= sheet[i][0];
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
    const PointF a = g.fromSensor(PointF(box.tl())), b = g.fromSensor(PointF(box.br()));
    const Rect stored =
        grown(Rect(Point(int(std::floor(std::min(a.x, b.x))), int(std::floor(std::min(a.y, b.y)))),
                   Point(int(std::ceil(std::max(a.x, b.x))), int(std::ceil(std::max(a.y, b.y))))),
              2, pixels.size()) &
        Rect({0, 0}, pixels.size());
    if (stored.width < 8 || stored.height < 8) return out;
    const cv::Matx23d map = sensorToStored(g, box.tl(), stored.tl());
    const Image part = pixels(stored);
    ImageF usable(part.size(), CV_32F);
    const int channels = part.channels();
    const ImageF dark = logLuminance(part);
    for (int y = 0; y < part.rows; ++y)
        for (int x = 0; x < part.cols; ++x) {
            const auto* p = part.ptr<ushort>(y) + x * channels;
            const bool fine = *std::max_element(p, p + channels) < kClipped * 65535 &&
                              dark.at<float>(y, x) > std::log(kBlack);
            usable.at<float>(y, x) = fine;
        }
    out.logs = onSensor(dark, map, box.size());
    cv::warpAffine(usable, out.trust, map, box.size(), cv::INTER_LINEAR | cv::WARP_INVERSE_MAP,
                   cv::BORDER_CONSTANT, cv::Scalar(0));
    const Mask ring = (out.trust > 0.99f) & (cover == 0);
    if (cv::countNonZero(ring) < 60) return out;
    cv::GaussianBlur(out.logs, out.logs, {5, 5}, 0.8);
    takeOutPlane(out.logs, ring, out);
    takeOutMembrane(out.logs, ring, cover);
    out.told = true;
    return out;
}

}  // namespace gq::carry
