#include "sim/instrument.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/parallel.h"
#include "sim/dice.h"
#include "sim/view.h"

namespace gq::sim {
namespace {

cv::Scalar tone(float v, float warm = 0) {
    return {double(v * (1 + 0.25f * warm)), double(v), double(v * (1 - 0.35f * warm))};
}

/// A painted board: planks with grain, worn paint, light falling from the left.
ImageF board(const Size& size, std::uint32_t seed) {
    ImageF out(size, CV_32FC3);
    const float plank = float(size.width) / 5.5f;
    forRows(size.height, [&](int y) {
        auto* row = out.ptr<cv::Vec3f>(y);
        for (int x = 0; x < size.width; ++x) {
            const auto fx = float(x), fy = float(y);
            const float into = std::fmod(fx, plank) / plank;
            const int which = int(fx / plank);
            const float grain =
                fractalNoise(seed + std::uint32_t(which), fx * 0.11f, fy * 0.006f, 4);
            const float paint = fractalNoise(seed + 9, fx * 0.012f, fy * 0.012f, 5);
            const float gap = into < 0.012f ? 0.25f : 1 - 0.25f * (1 - smooth(0.012f, 0.05f, into));
            const float bare = smooth(0.22f, 0.34f, paint);
            const float light = 0.62f - 0.30f * fx / float(size.width);
            const float v = light * gap * (0.42f + 0.10f * grain + 0.05f * paint);
            row[x] = cv::Vec3f(v * (0.72f + 0.5f * bare), v * (0.95f - 0.1f * bare),
                               v * (0.92f - 0.45f * bare));
        }
    });
    return out;
}

void shadowOf(ImageF& picture, const Point& centre, int radius) {
    ImageF shade(picture.size(), CV_32F, cv::Scalar(0));
    cv::circle(shade, centre + Point(radius / 7, radius / 7), radius, cv::Scalar(0.6), -1);
    cv::GaussianBlur(shade, shade, {}, double(radius) / 9);
    forRows(picture.rows, [&](int y) {
        auto* p = picture.ptr<cv::Vec3f>(y);
        const auto* s = shade.ptr<float>(y);
        for (int x = 0; x < picture.cols; ++x) p[x] *= 1 - s[x];
    });
}

void drawDial(ImageF& picture, Dice& dice) {
    const int h = picture.rows;
    const Point centre(int(float(picture.cols) * dice.between(0.40f, 0.55f)), h / 2);
    const int radius = int(0.40f * float(h));
    shadowOf(picture, centre, radius);
    for (int i = 0; i < radius / 7; ++i) {  // the brass rim, rounded
        const float t = float(i) / float(radius) * 7, glow = std::sin(t * 3.1f);
        cv::circle(picture, centre, radius - i, tone(0.14f + 0.5f * glow * glow, 0.8f), 2,
                   cv::LINE_AA);
    }
    const int face = radius * 6 / 7;
    cv::circle(picture, centre, face, tone(0.72f, 0.15f), -1, cv::LINE_AA);
    const auto at = [&](float angle, float far) {
        return Point(centre.x + int(std::sin(angle) * far * float(face)),
                     centre.y - int(std::cos(angle) * far * float(face)));
    };
    for (int i = -50; i <= 50; ++i) {
        const float a = float(i) * 0.05f;
        const bool major = i % 10 == 0;
        cv::line(picture, at(a, major ? 0.80f : 0.86f), at(a, 0.93f), tone(0.03f),
                 major ? std::max(2, h / 300) : 1, cv::LINE_AA);
        if (major)
            cv::putText(picture, std::to_string(970 + i), at(a, 0.66f) - Point(h / 34, -h / 90),
                        cv::FONT_HERSHEY_COMPLEX, double(h) / 1500, tone(0.04f),
                        std::max(1, h / 700), cv::LINE_AA);
    }
    const float reading = dice.between(-1.8f, 1.8f);
    cv::line(picture, at(reading + 3.14f, 0.25f), at(reading, 0.82f), tone(0.02f), h / 130,
             cv::LINE_AA);
    cv::circle(picture, centre, h / 45, tone(0.35f, 0.8f), -1, cv::LINE_AA);
}

void drawThermometers(ImageF& picture, Dice& dice) {
    const int h = picture.rows, count = 3;
    for (int i = 0; i < count; ++i) {
        const int x = picture.cols * (2 * i + 1) / (2 * count) + int(20 * dice.normal());
        const Rect plate(x - h / 14, h / 8, h / 7, h * 3 / 4);
        shadowOf(picture, {x, plate.br().y}, h / 14);
        cv::rectangle(picture, plate, tone(0.70f, 0.12f), -1);
        cv::rectangle(picture, plate, tone(0.22f, 0.6f), h / 200);
        const int top = plate.y + h / 12, bottom = plate.br().y - h / 10;
        for (int k = 0; k <= 60; ++k) {
            const int y = top + (bottom - top) * k / 60;
            const int reach = k % 10 == 0 ? h / 24 : k % 5 == 0 ? h / 32 : h / 44;
            cv::line(picture, {x - reach, y}, {x - h / 90, y}, tone(0.05f), 1, cv::LINE_AA);
            if (k % 10 == 0)
                cv::putText(picture, std::to_string(50 - k), {x + h / 60, y + h / 150},
                            cv::FONT_HERSHEY_COMPLEX, double(h) / 1900, tone(0.05f), 1,
                            cv::LINE_AA);
        }
        cv::line(picture, {x, top - h / 50}, {x, bottom}, tone(0.88f), h / 110, cv::LINE_AA);
        const int level = top + int(float(bottom - top) * dice.between(0.3f, 0.8f));
        cv::line(picture, {x, level}, {x, bottom}, cv::Scalar(0.45, 0.03, 0.03), h / 190,
                 cv::LINE_AA);
        cv::circle(picture, {x, bottom + h / 70}, h / 60, cv::Scalar(0.45, 0.03, 0.03), -1,
                   cv::LINE_AA);
    }
}

}  // namespace

ImageF renderInstrument(const Size& size, std::uint32_t seed) {
    Dice dice(seed);
    ImageF picture = board(size, dice.seed());
    if (seed % 2)
        drawThermometers(picture, dice);
    else
        drawDial(picture, dice);
    // Reflections and dust-free glass: a soft band of light across.
    forRows(size.height, [&](int y) {
        auto* row = picture.ptr<cv::Vec3f>(y);
        for (int x = 0; x < size.width; ++x) {
            const float band = float(x + y) / float(size.width) - 0.55f;
            const float paper =
                1 + 0.04f * fractalNoise(seed + 5, float(x) * 0.05f, float(y) * 0.05f, 4);
            row[x] = row[x] * paper + cv::Vec3f::all(0.05f * std::exp(-band * band * 60));
        }
    });
    cv::GaussianBlur(picture, picture, {}, 0.9);
    return picture;
}

}  // namespace gq::sim
