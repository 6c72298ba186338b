#include "core/mend/window.h"

#include <opencv2/imgproc.hpp>

namespace gq::mend {
namespace {

double boxSum(const cv::Mat& integral, const Rect& r) {
    const auto v = [&](int y, int x) {
        return integral.type() == CV_32S ? double(integral.at<int>(y, x))
                                         : integral.at<double>(y, x);
    };
    return v(r.y + r.height, r.x + r.width) - v(r.y, r.x + r.width) - v(r.y + r.height, r.x) +
           v(r.y, r.x);
}

}  // namespace

Window::Window(const Excerpt& pixels, const Rect& box, const Region& hole,
               const std::vector<Region>& avoid)
    : m_box(box),
      m_values(size_t(box.area())),
      m_state(box.size(), CV_8U, cv::Scalar(uchar(State::Known))) {
    const int channels = pixels.channels();
    const Image part = pixels(box);
    for (int y = 0; y < box.height; ++y) {
        const auto* p = part.ptr<ushort>(y);
        for (int x = 0; x < box.width; ++x, p += channels) at(x, y) = vec4Of(p, channels);
    }
    std::vector<Rect> holes;
    const auto blank = [&](const Region& region, State state) {
        const Rect in = region.box & box;
        if (in.empty()) return;
        holes.push_back(in - box.tl());
        m_state(holes.back())
            .setTo(uchar(state), region.mask(Rect(in.tl() - region.box.tl(), in.size())));
    };
    for (const auto& r : avoid) blank(r, State::Avoid);
    blank(hole, State::Hole);
    m_forbidden = (m_state != uchar(State::Known)) / 255;
    cv::integral(m_forbidden, m_forbiddenSum, CV_32S);
    roughFill(holes);
}

void Window::write(const std::vector<Point>& piece, const std::vector<Vec4>& values) {
    for (size_t i = 0; i < piece.size(); ++i) {
        for (int c = 0; c < 3; ++c)
            at(piece[i].x, piece[i].y)[c] = std::clamp(values[i][c], 0.0f, 1.0f);
        m_state.at<uchar>(piece[i]) = uchar(State::Known);
    }
}

int Window::forbiddenIn(const Rect& r) const {
    return int(boxSum(m_forbiddenSum, r));
}

/// Means of known pixels in growing boxes stand in for all others, so that worn pixels do not
/// spoil the grain's estimate. Small holes are looked at one by one.
void Window::roughFill(const std::vector<Rect>& holes) {
    cv::Mat todo = m_forbidden.clone();
    constexpr int kReach = 6;  // px that most of them are filled from
    int apart = 0;
    for (const Rect& r : holes) apart += grown(r, kReach, m_box.size()).area();
    if (apart < m_box.area() / 2)
        for (const Rect& r : holes) roughFill(r, todo);
    roughFill(Rect({0, 0}, m_box.size()), todo);
}

void Window::roughFill(const Rect& part, cv::Mat& todo) {
    const cv::Mat values(m_box.size(), CV_32FC4, m_values.data());
    cv::Mat weighted, known, sums, counts;
    const auto stillOpen = [&] { return cv::boundingRect(todo(part)) + part.tl(); };
    Rect open = stillOpen();
    for (int r = 2; r < 400 && !open.empty(); r *= 3, open = stillOpen()) {
        const Rect near = grown(open, r, m_box.size());
        const cv::Mat blank = m_forbidden(near);
        weighted = values(near).clone();
        weighted.setTo(cv::Scalar::all(0), blank);
        cv::Mat(1 - blank).convertTo(known, CV_32F);
        const cv::Size side(2 * r + 1, 2 * r + 1);
        cv::boxFilter(weighted, sums, CV_32F, side, {-1, -1}, true, cv::BORDER_ISOLATED);
        cv::boxFilter(known, counts, CV_32F, side, {-1, -1}, true, cv::BORDER_ISOLATED);
        for (int y = open.y; y < open.br().y; ++y)
            for (int x = open.x; x < open.br().x; ++x) {
                const Point at(x - near.x, y - near.y);
                if (!todo.at<uchar>(y, x) || counts.at<float>(at) <= 0.02f) continue;
                const auto mean = sums.at<cv::Vec4f>(at) * (1 / counts.at<float>(at));
                this->at(x, y) = Vec4{mean[0], mean[1], mean[2], 0};
                todo.at<uchar>(y, x) = 0;
            }
    }
}

void Window::sumDetail() const {
    cv::Mat tone(m_box.size(), CV_32F), soft, clear(m_box.size(), CV_8U, cv::Scalar(1));
    for (int y = 0; y < m_box.height; ++y) {
        auto* t = tone.ptr<float>(y);
        for (int x = 0; x < m_box.width; ++x) t[x] = lumaOf(at(x, y));
    }
    cv::GaussianBlur(tone, soft, {9, 9}, 1.5);
    cv::subtract(tone, soft, tone);
    cv::multiply(tone, tone, tone);
    if (const Rect open = cv::boundingRect(m_forbidden); !open.empty()) {
        const Rect around = grown(open, 4, m_box.size());
        cv::Mat near;
        cv::dilate(m_forbidden(around), near, cv::Mat::ones(9, 9, CV_8U));
        tone(around).setTo(0, near);
        clear(around).setTo(0, near);
    }
    cv::integral(tone, m_detailSum, CV_64F);
    cv::integral(clear, m_detailCount, CV_32S);
}

double Window::detail(Rect r) const {
    r &= Rect(0, 0, m_box.width, m_box.height);
    if (r.empty()) return -1;
    if (m_detailSum.empty()) sumDetail();
    const double n = boxSum(m_detailCount, r);
    return n < 4 ? -1 : boxSum(m_detailSum, r) / n;
}

}  // namespace gq::mend
