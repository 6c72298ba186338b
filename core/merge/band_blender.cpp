#include "core/merge/band_blender.h"

#include <opencv2/imgproc.hpp>

#include "core/pixels/parallel.h"

namespace gq::merge {
namespace {

constexpr int kBands = 5;
constexpr int kStep = 1 << kBands;  ///< px of the coarsest band
constexpr int kReach = 3 * kStep;   ///< px beyond a picture that its bands say something about
constexpr float kNothing = 1e-5f;   ///< weight of a place that no picture covers

int roundedUp(int v) {
    return (v + kStep - 1) / kStep * kStep;
}

/// REDUCE and EXPAND of the source.
cv::Mat shrunk(const cv::Mat& image) {
    cv::Mat out;
    cv::pyrDown(image, out);
    return out;
}

cv::Mat widened(const cv::Mat& image) {
    cv::Mat out;
    cv::pyrUp(image, out);
    return out;
}

/// `sum` += `band` x `weight`.
void accumulate(cv::Mat sum, const cv::Mat& band, const ImageF& weight) {
    forRows(sum.rows, [&](int y) {
        const auto* b = band.ptr<cv::Vec3f>(y);
        const auto* w = weight.ptr<float>(y);
        auto* s = sum.ptr<cv::Vec3f>(y);
        for (int x = 0; x < sum.cols; ++x) s[x] += b[x] * w[x];
    });
}

void divide(cv::Mat& sum, const ImageF& weight) {
    forRows(sum.rows, [&](int y) {
        const auto* w = weight.ptr<float>(y);
        auto* s = sum.ptr<cv::Vec3f>(y);
        for (int x = 0; x < sum.cols; ++x) s[x] *= 1 / (w[x] + kNothing);
    });
}

}  // namespace

BandBlender::BandBlender(const Rect& area)
    : m_area(area.x, area.y, roundedUp(area.width), roundedUp(area.height)), m_size(area.size()) {
    for (int b = 0; b <= kBands; ++b) {
        const Size size(m_area.width >> b, m_area.height >> b);
        m_sums.emplace_back(size, CV_32FC3, cv::Scalar::all(0));
        m_weights.emplace_back(size, CV_32F, cv::Scalar(0));
    }
}

void BandBlender::add(const Image& pixels, double gain, const Mask& own, const Point& corner) {
    // The picture with what its bands reach, on whole pixels of the coarsest one.
    const Point at = corner - m_area.tl();
    const int left = std::max(0, (at.x - kReach) / kStep * kStep);
    const int top = std::max(0, (at.y - kReach) / kStep * kStep);
    const int right = std::min(m_area.width, roundedUp(at.x + pixels.cols + kReach));
    const int bottom = std::min(m_area.height, roundedUp(at.y + pixels.rows + kReach));
    const Rect box(left, top, right - left, bottom - top);
    const auto framed = [&](const cv::Mat& m, int border) {
        cv::Mat out;
        cv::copyMakeBorder(m, out, at.y - top, bottom - at.y - m.rows, at.x - left,
                           right - at.x - m.cols, border);
        return out;
    };
    cv::Mat values;
    ImageF weight;
    framed(pixels, cv::BORDER_REFLECT).convertTo(values, CV_32F, gain);
    framed(own > 0, cv::BORDER_CONSTANT).convertTo(weight, CV_32F, 1 / 255.0);
    for (int b = 0; b <= kBands; ++b) {
        const Rect in(box.x >> b, box.y >> b, box.width >> b, box.height >> b);
        cv::Mat coarser, band = values;
        if (b < kBands) {
            coarser = shrunk(values);
            band = values - widened(coarser);
        }
        accumulate(m_sums[size_t(b)](in), band, weight);
        m_weights[size_t(b)](in) += weight;
        values = coarser;
        if (b < kBands) weight = shrunk(weight);
    }
}

Image BandBlender::blend(Mask& covered) {
    const Rect whole({}, m_size);
    covered = m_weights.front()(whole) > kNothing;
    for (size_t b = 0; b < m_sums.size(); ++b) divide(m_sums[b], m_weights[b]);
    for (size_t b = m_sums.size() - 1; b > 0; --b) {
        m_sums[b - 1] += widened(m_sums[b]);
        m_sums[b].release();
    }
    Image out;
    m_sums.front()(whole).convertTo(out, CV_16U);
    out.setTo(cv::Scalar::all(0), ~covered);
    return out;
}

}  // namespace gq::merge
