#include "core/pixels/image.h"

#include <fmt/core.h>

#include <opencv2/imgproc.hpp>

#include "core/pixels/parallel.h"

namespace gq {

std::string Error::message() const {
    std::string text = file.empty() ? what : fmt::format("{}: {}", file, what);
    if (!text.empty() && text.back() != '.') text += '.';
    return remedy.empty() ? text : fmt::format("{} {}", text, remedy);
}

Image widen(const Image8& image) {
    Image out(image.size(), CV_MAKETYPE(CV_16U, image.channels()));
    const int n = image.cols * image.channels();
    forRows(image.rows, [&](int y) {
        const auto* from = image.ptr<uchar>(y);
        auto* to = out.ptr<ushort>(y);
        for (int i = 0; i < n; ++i) to[i] = ushort(from[i] * 257);
    });
    return out;
}

Image8 narrow(const Image& image) {
    Image8 out(image.size(), CV_MAKETYPE(CV_8U, image.channels()));
    const int n = image.cols * image.channels();
    forRows(image.rows, [&](int y) {
        const auto* from = image.ptr<ushort>(y);
        auto* to = out.ptr<uchar>(y);
        for (int i = 0; i < n; ++i) to[i] = uchar((from[i] * 255u + 32895u) >> 16);
    });
    return out;
}

Image asColour(const Image& image) {
    if (image.channels() == 3) return image;
    Image out;
    cv::cvtColor(image, out, cv::COLOR_GRAY2RGB);
    return out;
}

Rect grown(const Rect& b, int by, const Size& size) {
    return Rect(b.x - by, b.y - by, b.width + 2 * by, b.height + 2 * by) & Rect({0, 0}, size);
}

}  // namespace gq
