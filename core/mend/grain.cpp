#include "core/mend/grain.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

namespace gq::mend {
namespace {

/// High pass (sigma 1.5) of values scattered over a piece, zero outside it.
class PieceDetail {
  public:
    PieceDetail(const Window& w, const std::vector<Point>& piece) : m_window(w), m_piece(piece) {
        const Rect b = cv::boundingRect(piece);
        m_box = Rect(b.x - 6, b.y - 6, b.width + 12, b.height + 12);
    }

    std::vector<Vec4> highPass(const std::vector<Vec4>& values) const {
        cv::Mat plane(m_box.size(), CV_32FC4, cv::Scalar::all(0)), soft;
        for (size_t i = 0; i < m_piece.size(); ++i)
            *reinterpret_cast<Vec4*>(plane.ptr<cv::Vec4f>(m_piece[i].y - m_box.y) +
                                     (m_piece[i].x - m_box.x)) = values[i];
        cv::GaussianBlur(plane, soft, {9, 9}, 1.5);
        std::vector<Vec4> out(values.size());
        for (size_t i = 0; i < m_piece.size(); ++i) {
            const auto& s = soft.at<cv::Vec4f>(m_piece[i] - m_box.tl());
            out[i] = values[i] - Vec4{s[0], s[1], s[2], 0};
        }
        return out;
    }

    /// Fine detail in luma of the piece as it would lie in its surroundings.
    std::vector<float> lumaDetail(const std::vector<float>& inside, bool withSurroundings) const {
        cv::Mat plane(m_box.size(), CV_32F, cv::Scalar(0)), soft;
        if (withSurroundings)
            for (int y = 0; y < m_box.height; ++y)
                for (int x = 0; x < m_box.width; ++x)
                    plane.at<float>(y, x) =
                        lumaOf(m_window.at(std::clamp(m_box.x + x, 0, m_window.width() - 1),
                                           std::clamp(m_box.y + y, 0, m_window.height() - 1)));
        for (size_t i = 0; i < m_piece.size(); ++i)
            plane.at<float>(m_piece[i] - m_box.tl()) = inside[i];
        cv::GaussianBlur(plane, soft, {9, 9}, 1.5);
        std::vector<float> out(inside.size());
        for (size_t i = 0; i < m_piece.size(); ++i)
            out[i] = inside[i] - soft.at<float>(m_piece[i] - m_box.tl());
        return out;
    }

  private:
    const Window& m_window;
    const std::vector<Point>& m_piece;
    Rect m_box;
};

std::vector<float> lumas(const std::vector<Vec4>& v) {
    std::vector<float> out(v.size());
    for (size_t i = 0; i < v.size(); ++i) out[i] = lumaOf(v[i]);
    return out;
}

}  // namespace

std::vector<Vec4> fineDetail(const Window& w, const std::vector<Point>& piece,
                             std::vector<Vec4> values) {
    Vec4 mean{};
    for (const Vec4& v : values) mean += v * splat(1 / float(values.size()));
    for (Vec4& v : values) v -= mean;
    return PieceDetail(w, piece).highPass(values);
}

void putGrainBack(const Window& w, const std::vector<Point>& piece, const std::vector<Vec4>& best,
                  float grain, std::vector<Vec4>& structure) {
    std::vector<Vec4> lost(structure.size());
    for (size_t i = 0; i < lost.size(); ++i) lost[i] = best[i] - structure[i];
    const PieceDetail tool(w, piece);
    const std::vector<Vec4> detail = tool.highPass(lost);
    const std::vector<float> has = tool.lumaDetail(lumas(structure), true),
                             adds = tool.lumaDetail(lumas(detail), false);
    double hh = 0, aa = 0, ha = 0;
    for (size_t i = 0; i < has.size(); ++i) {
        hh += double(has[i]) * double(has[i]);
        aa += double(adds[i]) * double(adds[i]);
        ha += double(has[i]) * double(adds[i]);
    }
    const double n = double(has.size());
    hh /= n, aa /= n, ha /= n;
    const Rect b = cv::boundingRect(piece);
    double around = -1;
    for (const int reach : {10, 25})
        if (around < 0)
            around =
                w.detail(Rect(b.x - reach, b.y - reach, b.width + 2 * reach, b.height + 2 * reach));
    float share = 1;
    if (around >= 0 && aa > 1e-12) {
        const double root = ha * ha - aa * (hh - around * double(grain) * double(grain));
        share = root > 0 ? float(std::clamp((-ha + std::sqrt(root)) / aa, 0.0, 1.4)) : 0.0f;
    }
    for (size_t i = 0; i < structure.size(); ++i) structure[i] += splat(share) * detail[i];
}

}  // namespace gq::mend
