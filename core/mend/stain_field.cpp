#include "core/mend/stain_field.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

namespace gq::mend {
namespace {

constexpr float kFloor = 0.01f;  ///< added before logarithms
constexpr float kWhite = 1.03f;  ///< towards which pictures fade

}  // namespace

float multiplied(float v, bool faded) {
    return faded ? std::max(kWhite - v, kFloor) : v + kFloor;
}

float unmultiplied(float q, bool faded) {
    return faded ? kWhite - q : q - kFloor;
}

size_t StainField::sectorOf(int x, int y, size_t count) const {
    const double turn = std::atan2(y - middle.y, x - middle.x) / (2 * CV_PI) + 0.5;
    return size_t(turn * double(count)) % count;
}

StainField stainField(const Window& w, const Mask& inside, bool faded) {
    StainField f;
    f.faded = faded;
    const Size size(w.width(), w.height());
    f.logs.create(size, CV_32FC3);
    f.known.create(size, CV_32F);
    for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x) {
            const Vec4& v = w.at(x, y);
            for (int c = 0; c < 3; ++c)
                f.logs.at<cv::Vec3f>(y, x)[c] = std::log(multiplied(v[c], faded));
            f.known.at<float>(y, x) = w.forbidden(x, y) ? 0.0f : 1.0f;
        }
    cv::Mat in, out;
    cv::distanceTransform(inside, in, cv::DIST_L2, 5);
    cv::distanceTransform(inside == 0, out, cv::DIST_L2, 5);
    f.distance = in - out;  // from pixel to pixel across the outline: half a pixel each
    cv::add(f.distance, -0.5, f.distance, inside);
    cv::add(f.distance, 0.5, f.distance, inside == 0);
    const cv::Moments moments = cv::moments(inside, true);
    f.middle = {moments.m10 / moments.m00, moments.m01 / moments.m00};
    return f;
}

cv::Mat three(const cv::Mat& plane) {
    cv::Mat out;
    cv::merge(std::vector<cv::Mat>(3, plane), out);
    return out;
}

cv::Mat maskedBlur(const cv::Mat& values, const cv::Mat& weight, double sigma, cv::Mat& share) {
    cv::Mat sum, out;
    cv::GaussianBlur(weight, share, {}, sigma);
    cv::GaussianBlur(values.mul(three(weight)), sum, {}, sigma);
    cv::divide(sum, three(cv::max(share, 1e-5f)), out);
    return out;
}

}  // namespace gq::mend
