#pragma once
#include <memory>
#include <vector>

#include "core/mend/patch.h"
#include "core/mend/vec4.h"

namespace gq::mend {

/// The float copy of the neighbourhood a mend works in; places are window coordinates.
class Window {
  public:
    enum class State : uchar { Known, Hole, Avoid };

    /// `box` of the picture; `hole` and `avoid` regions are marked, everything else is known.
    Window(const Excerpt& pixels, const Rect& box, const Region& hole,
           const std::vector<Region>& avoid);

    [[nodiscard]] int width() const { return m_box.width; }
    [[nodiscard]] int height() const { return m_box.height; }
    [[nodiscard]] const Rect& box() const { return m_box; }
    [[nodiscard]] Vec4& at(int x, int y) {
        return m_values[size_t(y) * size_t(m_box.width) + size_t(x)];
    }
    [[nodiscard]] const Vec4& at(int x, int y) const {
        return m_values[size_t(y) * size_t(m_box.width) + size_t(x)];
    }
    [[nodiscard]] const Vec4* data() const { return m_values.data(); }
    [[nodiscard]] State state(int x, int y) const { return State(m_state.at<uchar>(y, x)); }
    [[nodiscard]] bool known(int x, int y) const { return state(x, y) == State::Known; }
    /// True if the pixel may never be copied from (it was in the hole or is to be avoided).
    [[nodiscard]] bool forbidden(int x, int y) const { return m_forbidden.at<uchar>(y, x) != 0; }
    [[nodiscard]] const uchar* forbiddenData() const { return m_forbidden.data; }
    /// Forbidden pixels in a box.
    [[nodiscard]] int forbiddenIn(const Rect& r) const;
    /// Writes a piece, a value a pixel, cut to 0..1; it becomes known surroundings for the next.
    void write(const std::vector<Point>& piece, const std::vector<Vec4>& values);
    /// Mean square of the fine detail (luma less its blur of sigma 1.5) in a box, of known pixels
    /// away from holes; negative when there are too few.
    [[nodiscard]] double detail(Rect r) const;

  private:
    void roughFill(const std::vector<Rect>& holes);
    void roughFill(const Rect& part, cv::Mat& todo);
    void sumDetail() const;

    Rect m_box;
    std::vector<Vec4> m_values;
    cv::Mat m_state, m_forbidden, m_forbiddenSum;
    mutable cv::Mat m_detailSum, m_detailCount;  ///< made when first asked for
};

}  // namespace gq::mend
