#include "core/mend/rough_fill.h"

#include <opencv2/imgproc.hpp>

namespace gq::mend {
namespace {

/// `todo` as means of what is known around it, from the rim inwards.
void fillByMeans(cv::Mat& values, Mask todo) {
    cv::Mat known, sums, counts, weights, mean, one;
    for (int r = 1; cv::countNonZero(todo) > 0 && r < 4096; r *= 2) {
        cv::Mat(~todo).convertTo(known, CV_32F, 1.0 / 255);
        cv::merge(std::vector<cv::Mat>(4, known), weights);
        cv::boxFilter(values.mul(weights), sums, CV_32F, {2 * r + 1, 2 * r + 1});
        cv::boxFilter(weights, counts, CV_32F, {2 * r + 1, 2 * r + 1});
        cv::divide(sums, cv::max(counts, 1e-6f), mean);
        cv::extractChannel(counts, one, 0);
        const Mask now = todo & (one > 0.05f);
        mean.copyTo(values, now);
        todo &= ~now;
    }
}

/// `part` as the nearest pixels of `rim`, which has some.
void fillByNearest(cv::Mat& values, const Mask& part, const Mask& rim) {
    cv::Mat distance, nearest;
    cv::distanceTransform(~rim, distance, nearest, cv::DIST_L2, 5, cv::DIST_LABEL_PIXEL);
    std::vector<cv::Vec4f> of(size_t(cv::countNonZero(rim)) + 1);
    for (int y = 0; y < rim.rows; ++y)
        for (int x = 0; x < rim.cols; ++x)
            if (rim.at<uchar>(y, x)) of[size_t(nearest.at<int>(y, x))] = values.at<cv::Vec4f>(y, x);
    for (int y = 0; y < part.rows; ++y)
        for (int x = 0; x < part.cols; ++x)
            if (part.at<uchar>(y, x))
                values.at<cv::Vec4f>(y, x) = of[size_t(nearest.at<int>(y, x))];
}

/// Pixels that guide lines pass through.
Mask wallsOf(const Level& level) {
    constexpr int kBits = 4;  // of a pixel's fraction
    Mask out(level.hole.size(), CV_8U, cv::Scalar(0));
    const auto fixed = [](const PointF& p) {
        return Point((p - PointF(0.5f, 0.5f)) * float(1 << kBits));
    };
    for (const auto& line : level.lines)
        for (size_t i = 1; i < line.size(); ++i)
            cv::line(out, fixed(line[i - 1]), fixed(line[i]), cv::Scalar(255), 1, cv::LINE_8,
                     kBits);
    return out;
}

}  // namespace

void roughFill(Level& level) {
    const Mask unknown = level.hole | level.forbidden, walls = wallsOf(level);
    Mask todo = unknown.clone();
    cv::Mat labels;
    const int parts =
        level.lines.empty() ? 0 : cv::connectedComponents(level.hole & ~walls, labels, 4);
    for (int k = 1; k < parts; ++k) {
        const Mask part = labels == k;
        Mask rim;
        cv::dilate(part, rim, cv::getStructuringElement(cv::MORPH_CROSS, {3, 3}));
        rim &= ~unknown & ~walls;
        if (cv::countNonZero(rim) == 0) continue;
        fillByNearest(level.values, part, rim);
        todo &= ~part;
    }
    fillByMeans(level.values, todo);
}

}  // namespace gq::mend
