#include "core/merge/merge.h"

#include <algorithm>
#include <opencv2/imgproc.hpp>
#include <opencv2/photo.hpp>

#include "core/merge/registration.h"
#include "core/pixels/color.h"

namespace gq::merge {
namespace {

Status fitTogether(const std::vector<Image>& frames) {
    const bool alike = std::all_of(frames.begin(), frames.end(), [&](const Image& f) {
        return f.size() == frames.front().size() && f.type() == CV_16UC3;
    });
    if (frames.size() >= 2 && alike) return {};
    return fail(Error::Kind::BadSetting, "only two or more frames of one size can be merged", {},
                "Leave out those of another size or turn.");
}

/// How sharp each place is.
ImageF sharpness(const Image& frame) {
    const ImageF tone = luma(frame);
    ImageF across, down, out;
    cv::filter2D(tone, across, CV_32F, cv::Matx13f(-1, 2, -1));
    cv::filter2D(tone, down, CV_32F, cv::Matx31f(-1, 2, -1));
    cv::boxFilter(ImageF(cv::abs(across) + cv::abs(down)), out, CV_32F, {9, 9});
    return out;
}

/// The frame of middling brightness.
size_t middling(const std::vector<Image>& frames) {
    std::vector<std::pair<double, size_t>> brightness;
    for (size_t i = 0; i < frames.size(); ++i) {
        const cv::Scalar mean = cv::mean(frames[i]);
        brightness.emplace_back(mean[0] + mean[1] + mean[2], i);
    }
    const auto middle = brightness.begin() + ptrdiff_t(brightness.size() / 2);
    std::nth_element(brightness.begin(), middle, brightness.end());
    return middle->second;
}

}  // namespace

Result<Fused> mergedBracket(std::vector<Image> frames, std::stop_token stop) {
    if (auto ok = fitTogether(frames); !ok) return tl::unexpected(ok.error());
    const size_t onto = middling(frames);
    const auto laid = registered(std::move(frames), onto, stop);
    if (!laid) return tl::unexpected(laid.error());
    std::vector<cv::Mat> values;
    for (const auto& f : laid->frames) {
        values.emplace_back();
        f.convertTo(values.back(), CV_32F, 255.0 / 65535);  // the library divides by 255
    }
    if (stop.stop_requested()) return cancelled();
    cv::Mat fused;
    cv::createMergeMertens()->process(values, fused);
    if (stop.stop_requested()) return cancelled();
    Fused out{{}, laid->untold};
    fused.convertTo(out.pixels, CV_16U, 65535);
    return out;
}

Result<Fused> mergedStack(std::vector<Image> frames, std::stop_token stop) {
    if (auto ok = fitTogether(frames); !ok) return tl::unexpected(ok.error());
    const size_t onto = frames.size() / 2;
    const auto laid = registered(std::move(frames), onto, stop);
    if (!laid) return tl::unexpected(laid.error());
    constexpr double kPower = 4, kSoft = 2;
    cv::Mat sum(laid->frames.front().size(), CV_32FC3, cv::Scalar::all(0));
    ImageF total(sum.size(), CV_32F, cv::Scalar(1e-20));
    for (const auto& f : laid->frames) {
        if (stop.stop_requested()) return cancelled();
        ImageF weight, soft;
        cv::pow(ImageF(sharpness(f) + 1e-4), kPower, weight);
        cv::GaussianBlur(weight, soft, {}, kSoft);
        cv::Mat values, three;
        f.convertTo(values, CV_32F);
        cv::merge(std::vector<cv::Mat>(3, soft), three);
        sum += values.mul(three);
        total += soft;
    }
    cv::Mat three;
    cv::merge(std::vector<cv::Mat>(3, total), three);
    Fused out{{}, laid->untold};
    cv::Mat(sum / three).convertTo(out.pixels, CV_16U);
    return out;
}

}  // namespace gq::merge
