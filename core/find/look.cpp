#include "core/find/look.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace gq::find {
namespace {

constexpr float kSpread = 2.5f;  ///< side of the look over the candidate's longer side

/// `plane` over `window` (which may reach beyond it), reduced to the look's side.
ImageF windowOf(const cv::Mat& plane, const Rect& window) {
    const Rect inside = window & Rect({0, 0}, plane.size());
    ImageF part;
    plane(inside).convertTo(part, CV_32F);
    if (inside != window)
        cv::copyMakeBorder(part, part, inside.y - window.y, window.br().y - inside.br().y,
                           inside.x - window.x, window.br().x - inside.br().x,
                           cv::BORDER_REPLICATE);
    ImageF out;
    cv::resize(part, out, {kLookSide, kLookSide}, 0, 0, cv::INTER_AREA);
    return out;
}

/// The candidate and its neighbours over `window`.
ImageF sharesOf(const Candidates& all, size_t index, const Rect& window) {
    const Rect inside = window & Rect({0, 0}, all.labels.size());
    ImageF shares(inside.size(), CV_32F);
    for (int y = 0; y < inside.height; ++y) {
        const auto* l = all.labels.ptr<int>(inside.y + y) + inside.x;
        auto* s = shares.ptr<float>(y);
        for (int x = 0; x < inside.width; ++x)
            s[x] = l[x] == int(index) + 1 ? 255.0f : l[x] ? 100.0f : 0.0f;
    }
    return windowOf(shares, window - inside.tl());
}

/// Signed, finest around zero: 128 at 0, 64 and 192 at -8 and 8.
uchar signedByte(float z) {
    return cv::saturate_cast<uchar>(128 + 127 * z / (std::abs(z) + 8));
}

}  // namespace

Look lookAt(const Level& level, const Residual& r, const Candidates& all, size_t index) {
    const Rect& box = all.regions[index].box;
    const int longer = std::max(box.width, box.height);
    const int side = std::max(kLookSide, int(std::lround(kSpread * float(longer))));
    const Point middle((box.x * 2 + box.width) / 2, (box.y * 2 + box.height) / 2);
    const Rect window(middle.x - side / 2, middle.y - side / 2, side, side);
    const Point at(std::clamp(middle.x, 0, r.noise.cols - 1),
                   std::clamp(middle.y, 0, r.noise.rows - 1));
    const float unit = 1 / r.noise.at<float>(at);
    const ImageF toward = windowOf(r.toward, window), across = windowOf(r.across, window),
                 plane = windowOf(level.plane, window), shares = sharesOf(all, index, window);
    const float mean = float(cv::mean(plane)[0]);
    Look out;
    for (int y = 0; y < kLookSide; ++y)
        for (int x = 0; x < kLookSide; ++x) {
            const size_t k = size_t(y) * kLookSide + size_t(x), n = size_t(kLookSide) * kLookSide;
            const float off = across.at<float>(y, x) * unit;
            out[k] = signedByte(toward.at<float>(y, x) * unit);
            out[n + k] = cv::saturate_cast<uchar>(255 * off / (off + 4));
            out[2 * n + k] = signedByte((plane.at<float>(y, x) - mean) * unit);
            out[3 * n + k] = cv::saturate_cast<uchar>(shares.at<float>(y, x));
        }
    return out;
}

}  // namespace gq::find
