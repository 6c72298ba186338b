#include "sim/station.h"

#include <cmath>
#include <opencv2/imgproc.hpp>
#include <vector>

#include "core/pixels/hash_noise.h"
#include "sim/land.h"
#include "sim/sky.h"

namespace gq::sim {
namespace {

struct Vec3 {
    float e, n, u;  ///< east, north, up, m
};

class Painter {
  public:
    Painter(const View& v, const ImageF& depth, ImageF& picture)
        : m_view(v),
          m_depth(depth),
          m_picture(picture),
          m_eye(std::max(kEyeHeight, groundHeight(v.eastward, 0, 1.0f) + 1.7f)) {}

    /// A flat face of one colour, lit by its normal, with a weathered surface.
    void face(const std::vector<Vec3>& corners, Colour albedo, float lit, float wear = 0.10f) {
        std::vector<Point> pixels;
        float nearest = 1e9f;
        for (const auto& c : corners) {
            const auto [p, d] = project(c);
            if (d < 1) return;
            nearest = std::min(nearest, d);
            pixels.emplace_back(int(std::lround(p.x * 16)), int(std::lround(p.y * 16)));
        }
        fill(
            [&](cv::Mat& m, Point offset) {
                std::vector<Point> moved;
                for (auto p : pixels) moved.push_back(p - offset * 16);
                cv::fillConvexPoly(m, moved, cv::Scalar(255), cv::LINE_AA, 4);
            },
            box(pixels), nearest, albedo * (sunlight(m_view) * lit + skylight(m_view) * 0.8f),
            wear);
    }

    /// A bar from a to b, `width` m wide.
    void bar(Vec3 a, Vec3 b, float width, Colour albedo, float lit) {
        const auto [p, d] = project(a);
        const auto [q, e] = project(b);
        if (d < 1 || e < 1) return;
        const PointF along = q - p;
        const float length = std::max(1e-3f, std::hypot(along.x, along.y));
        const float wide = width * m_view.focal / d, drawn = std::max(wide, 0.9f);
        const PointF side(-along.y / length * drawn / 2, along.x / length * drawn / 2);
        std::vector<Point> pixels;
        for (const PointF c : {p + side, q + side, q - side, p - side})
            pixels.emplace_back(int(std::lround(c.x * 16)), int(std::lround(c.y * 16)));
        fill(
            [&](cv::Mat& m, Point offset) {
                std::vector<Point> moved;
                for (auto c : pixels) moved.push_back(c - offset * 16);
                cv::fillConvexPoly(m, moved, cv::Scalar(255.0 * std::min(1.0f, wide / drawn)),
                                   cv::LINE_AA, 4);
            },
            box(pixels), std::min(d, e),
            albedo * (sunlight(m_view) * lit + skylight(m_view) * 0.8f), 0.08f);
    }

  private:
    std::pair<PointF, float> project(const Vec3& p) const {
        const float e = p.e - m_view.eastward;
        const float d = e * std::sin(m_view.yaw) + p.n * std::cos(m_view.yaw);
        const float side = e * std::cos(m_view.yaw) - p.n * std::sin(m_view.yaw);
        return {{float(m_view.size.width) / 2 + m_view.focal * side / d,
                 m_view.horizon() + m_view.focal * (m_eye - p.u) / d},
                d};
    }

    static Rect box(const std::vector<Point>& sixteenths) {
        Rect b = cv::boundingRect(sixteenths);
        return Rect(b.x / 16 - 2, b.y / 16 - 2, b.width / 16 + 5, b.height / 16 + 5);
    }

    template <class Draw>
    void fill(Draw draw, Rect b, float distance, Colour colour, float wear) {
        b &= Rect({0, 0}, m_view.size);
        if (b.empty()) return;
        Mask cover(b.size(), CV_8U, cv::Scalar(0));
        draw(cover, b.tl());
        const float grain = m_view.focal / distance;
        for (int y = 0; y < b.height; ++y)
            for (int x = 0; x < b.width; ++x) {
                const float a = float(cover.at<uchar>(y, x)) / 255;
                const float there = m_depth.at<float>(b.y + y, b.x + x);
                if (a <= 0 || (there > 0 && there < distance - 6)) continue;
                const float gx = float(b.x + x) / grain, gy = float(b.y + y) / grain;
                const float stain = 1 + wear * (fractalNoise(77, gx * 1.3f, gy * 0.7f, 4) +
                                                0.6f * gradientNoise(78, gx * 22, gy * 22));
                auto& o = m_picture.at<cv::Vec3f>(b.y + y, b.x + x);
                const Colour k = colour * stain;
                o = o * (1 - a) + cv::Vec3f(k.r, k.g, k.b) * a;
            }
    }

    const View& m_view;
    const ImageF& m_depth;
    ImageF& m_picture;
    float m_eye;
};

void house(Painter& paint, Vec3 at) {
    const float w = 6.0f, l = 4.0f, h = 3.3f, ridge = 2.6f;
    const auto p = [&](float e, float n, float u) { return Vec3{at.e + e, at.n + n, at.u + u}; };
    const Colour wall{0.74f, 0.70f, 0.62f}, roof{0.20f, 0.085f, 0.065f}, pane{0.035f, 0.05f, 0.06f},
        door{0.07f, 0.12f, 0.11f}, trim{0.80f, 0.78f, 0.74f};
    paint.face({p(-w, -l, 0), p(-w, l, 0), p(-w, l, h), p(-w, 0, h + ridge), p(-w, -l, h)}, wall,
               0.85f);
    paint.face({p(-w, -l, -1), p(w, -l, -1), p(w, -l, h), p(-w, -l, h)}, wall, 0.45f);
    paint.face({p(-w - .4f, -l - .5f, h - .2f), p(w + .4f, -l - .5f, h - .2f),
                p(w + .4f, 0, h + ridge), p(-w - .4f, 0, h + ridge)},
               roof, 0.6f, 0.3f);
    for (const float e : {-3.6f, 2.2f}) {
        paint.face({p(e - .2f, -l - .05f, .9f), p(e + 1.6f, -l - .05f, .9f),
                    p(e + 1.6f, -l - .05f, 2.5f), p(e - .2f, -l - .05f, 2.5f)},
                   trim, 0.5f);
        paint.face({p(e, -l - .1f, 1.1f), p(e + 1.4f, -l - .1f, 1.1f), p(e + 1.4f, -l - .1f, 2.3f),
                    p(e, -l - .1f, 2.3f)},
                   pane, 0.3f);
        paint.bar(p(e + .7f, -l - .15f, 1.1f), p(e + .7f, -l - .15f, 2.3f), 0.09f, trim, 0.5f);
    }
    paint.face({p(-.7f, -l - .1f, 0), p(.5f, -l - .1f, 0), p(.5f, -l - .1f, 2.2f),
                p(-.7f, -l - .1f, 2.2f)},
               door, 0.4f);
    paint.face({p(3.2f, -.6f, h + 1), p(4.3f, -.6f, h + 1), p(4.3f, -.6f, h + 3.6f),
                p(3.2f, -.6f, h + 3.6f)},
               wall * 0.7f, 0.5f, 0.25f);
}

void mast(Painter& paint, Vec3 at) {
    const auto p = [&](float e, float u) { return Vec3{at.e + e, at.n, at.u + u}; };
    const Colour steel{0.16f, 0.165f, 0.17f}, wire{0.10f, 0.10f, 0.10f};
    for (const float e : {-0.28f, 0.28f}) paint.bar(p(e, -1), p(e * 0.4f, 17), 0.10f, steel, 0.5f);
    for (int i = 0; i < 15; ++i) {
        const float u = float(i) * 1.1f + 0.5f, k = 0.28f * (1 - u / 29),
                    side = i % 2 ? 1.0f : -1.0f;
        paint.bar(p(-k * side, u), p(k * side, u + 1.0f), 0.05f, steel, 0.4f);
    }
    for (const float u : {10.0f, 14.5f, 17.0f})
        paint.bar(p(-1.6f, u), p(1.6f, u), 0.08f, steel, 0.5f);
    for (const float e : {-9.0f, 9.0f})
        for (const float u : {9.0f, 15.0f}) paint.bar(p(0, u), p(e, -1.0f), 0.022f, wire, 0.3f);
    for (const float e : {-1.5f, 1.5f})
        paint.face({p(e - .22f, 17), p(e + .22f, 17), p(e + .16f, 17.5f), p(e - .16f, 17.5f)},
                   steel, 0.7f);
}

void screenBox(Painter& paint, Vec3 at) {
    const auto p = [&](float e, float u) { return Vec3{at.e + e, at.n, at.u + u}; };
    const Colour white{0.78f, 0.78f, 0.76f};
    for (const float e : {-0.55f, 0.55f})
        paint.bar(p(e, -0.5f), p(e, 1.2f), 0.1f, white * 0.8f, 0.5f);
    paint.face({p(-.7f, 1.1f), p(.7f, 1.1f), p(.7f, 2.2f), p(-.7f, 2.2f)}, white, 0.6f);
    for (int i = 0; i < 7; ++i)
        paint.bar(p(-.6f, 1.2f + .14f * float(i)), p(.6f, 1.2f + .14f * float(i)), 0.03f,
                  white * 0.4f, 0.3f);
    paint.face({p(-.85f, 2.2f), p(.85f, 2.2f), p(.75f, 2.4f), p(-.75f, 2.4f)}, white, 0.9f);
}

}  // namespace

void drawStation(const View& v, const ImageF& depth, ImageF& picture) {
    Painter paint(v, depth, picture);
    const auto on = [](float e, float n) { return Vec3{e, n, groundHeight(e, n, 0.5f)}; };
    Vec3 before = on(40, 118);
    for (int i = 0; i < 26; ++i) {  // fence along the path
        const Vec3 post =
            on(42.0f + 3.1f * float(i), 118.0f + 1.4f * float(i) + 4 * std::sin(float(i) * 0.4f));
        paint.bar({post.e, post.n, post.u - 0.4f}, {post.e + 0.03f, post.n, post.u + 1.2f}, 0.13f,
                  {0.12f, 0.10f, 0.08f}, 0.5f);
        for (const float u : {0.5f, 1.0f})
            paint.bar({before.e, before.n, before.u + u}, {post.e, post.n, post.u + u}, 0.012f,
                      {0.1f, 0.1f, 0.1f}, 0.4f);
        before = post;
    }
    mast(paint, on(112, 176));
    house(paint, on(94, 170));
    screenBox(paint, on(78, 158));
}

}  // namespace gq::sim
