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
    forRows(image.rows, [&](int y) {
        cv::Mat row = out.row(y);
        image.row(y).convertTo(row, CV_16U, 257);
    });
    return out;
}

Image8 narrow(const Image& image) {
    Image8 out(image.size(), CV_MAKETYPE(CV_8U, image.channels()));
    forRows(image.rows, [&](int y) {
        cv::Mat row = out.row(y);
        image.row(y).convertTo(row, CV_8U, 1 / 257.0);  // no value lies half way between two codes
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
