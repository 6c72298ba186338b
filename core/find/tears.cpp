#include "core/find/tears.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace gq::find {

bool isClipped(float tone, int area, int elsewhere) {
    constexpr float kEnd = 0.015f;
    constexpr double kPart = 0.25;
    return (tone < kEnd || tone > 1 - kEnd) && elsewhere > kPart * area;
}

Calm::Calm(const ImageF& plane, int side) {
    cv::blur(plane, mean, {side, side});
    cv::blur(ImageF(plane.mul(plane)), deviation, {side, side});
    cv::sqrt(cv::max(deviation - mean.mul(mean), 0), deviation);
}

Deviations::Deviations(const ImageF& deviation, const Mask& open, const Mask& near) {
    for (int y = 0; y < open.rows; ++y)
        for (int x = 0; x < open.cols; ++x) {
            const float d = deviation.at<float>(y, x);
            if (open.at<uchar>(y, x))
                inside.push_back(d);
            else if (!near.at<uchar>(y, x))
                outside.push_back(d);
        }
}

Mask near(const Mask& mask) {
    Mask out;
    cv::dilate(mask, out, cv::Mat::ones(17, 17, CV_8U));
    return out;
}

Region beyond(const Region& piece, const Mask& open) {
    Region wide = grown(piece, 7, open.size());
    Mask rim = wide.mask.clone();
    const Region near = grown(piece, 3, open.size());
    rim(Rect(near.box.tl() - wide.box.tl(), near.box.size())).setTo(0, near.mask);
    rim.setTo(0, open(wide.box));
    wide.mask = rim;
    return wide;
}

double straightCut(const Region& piece) {
    const auto [width, height] = piece.box.size();
    const cv::Mat &mask = piece.mask, edge = mask.rowRange(0, std::min(2, height));
    int along = 0;
    for (int x = 0; x < width; ++x)
        along += (cv::countNonZero(edge.col(x)) > 0) +
                 (cv::countNonZero(mask.rowRange(std::max(0, height - 2), height).col(x)) > 0);
    for (int y = 0; y < height; ++y)
        along += (cv::countNonZero(mask.row(y).colRange(0, std::min(2, width))) > 0) +
                 (cv::countNonZero(mask.row(y).colRange(std::max(0, width - 2), width)) > 0);
    return along / (2.0 * (width + height));
}

Finding lossOf(const Region& piece, const Calm& calm, float step, float spread, const Coarse& at,
               const Size& picture) {
    constexpr float kLeastNoise = 0.002f, kLeastStep = 0.03f;
    auto f = markOf(grown(piece, 2, calm.mean.size()), at.level, picture, Kind::Loss,
                    step > 0 ? Polarity::Light : Polarity::Dark, std::abs(step));
    f.measures.ring = spread / std::max(std::abs(step), kLeastStep);
    f.measures.noise =
        std::max(float(cv::mean(calm.deviation(piece.box), piece.mask)[0]), kLeastNoise);
    f.measures.peak = std::abs(step) / f.measures.noise;
    return f;
}

}  // namespace gq::find
