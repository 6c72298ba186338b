// Finding on the demo series at defaults, against its true maps.
#include <gtest/gtest.h>

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/carry/chart.h"
#include "core/files/folder_scan.h"
#include "core/files/picture_reader.h"
#include "core/find/find.h"
#include "core/render/export.h"
#include "tests/testkit/scratch.h"

namespace gq {
namespace {

ImageF greyOf(const std::filesystem::path& file) {
    const auto loaded = files::readPicture(file);
    EXPECT_TRUE(loaded);
    cv::Mat grey;
    cv::cvtColor(narrow(loaded->picture.pixels), grey, cv::COLOR_RGB2GRAY);
    grey.convertTo(grey, CV_32F);
    return grey;
}

/// The darkest part of a shadow, where it dims at least 0.4 of its most.
Region coreOf(const ImageF& gain, const Region& shadow) {
    double least = 1;
    cv::minMaxLoc(gain(shadow.box), &least, nullptr, nullptr, nullptr, shadow.mask);
    return regionOf(Mask(shadow.mask & (gain(shadow.box) < 1 - (1 - least) * 0.4)),
                    shadow.box.tl());
}

/// A shadow can be seen when it dims by over one code and three deviations of the local texture at
/// its own scale.
bool visible(const ImageF& clean, const ImageF& worn, const Region& core) {
    const Rect around = grown(core.box, 40, clean.size());
    const double scale = std::max(1.5, std::sqrt(double(core.area())) / 3.5);
    cv::Mat soft, softer, texture;
    cv::GaussianBlur(clean(around), soft, {}, scale);
    cv::GaussianBlur(clean(around), softer, {}, 2.5 * scale);
    texture = cv::abs(soft - softer);
    std::vector<float> v(texture.begin<float>(), texture.end<float>());
    std::nth_element(v.begin(), v.begin() + long(v.size() / 2), v.end());
    const double deviation = double(v[v.size() / 2]) * 1.48 + 0.25;
    const double depth = cv::mean(clean(core.box) - worn(core.box), core.mask)[0];
    return depth > 1 && depth > 3 * deviation;
}

Mask maskOf(const std::vector<find::Finding>& found, const Size& size) {
    Mask mask(size, CV_8U, cv::Scalar(0));
    for (const auto& f : found)
        if (f.confidence >= 0.5f) paint(mask, f.region);
    return mask;
}

/// What is known of a frame of "Cloud watch".
struct Known {
    Image worn;
    ImageF gain, cleanGrey, wornGrey;
};

Known frameOf(const std::filesystem::path& demo, const std::string& name) {
    const auto truth = demo / "truth" / "cloud-watch";
    const auto worn = files::readPicture(demo / "cloud-watch" / (name + ".jpg")),
               map = files::readPicture(truth / (name + ".gain.png"));
    Known out{worn->picture.pixels,
              {},
              greyOf(truth / (name + ".clean.jpg")),
              greyOf(demo / "cloud-watch" / (name + ".jpg"))};
    map->picture.pixels.convertTo(out.gain, CV_32F, 1 / 65535.0);
    return out;
}

TEST(Accuracy, OfAChartOfTenFrames) {
    const auto demo = testkit::demoFolder();
    if (!std::filesystem::exists(demo / "cloud-watch" / "CW-012.jpg"))
        GTEST_SKIP() << "set GQ_DEMO to the rendered demo (./dev test does)";
    std::vector<std::filesystem::path> picked;
    for (int i = 1; i <= 10; ++i)
        picked.push_back(demo / "cloud-watch" /
                         ("CW-0" + std::string(i < 10 ? "0" : "") + std::to_string(i) + ".jpg"));
    std::vector<Error> faults;
    const auto series = series::makeSeries(files::pictureFiles(picked), "", faults);
    ASSERT_EQ(series.frames.size(), 10u);
    const auto& first = *series.frames.front();
    const auto chart = carry::chartOf(first, series.frames, render::chartPixels(first));
    ASSERT_TRUE(chart);
    Mask charted(chart->sensor, CV_8U, cv::Scalar(0)), ever = charted.clone(),
                                                       dusty = charted.clone();
    for (const auto& s : chart->spots) paint(charted, s.region);
    for (const auto& file : picked) {
        const Known k = frameOf(demo, file.stem().string());
        dusty |= k.gain < 0.999f;
        for (const auto& shadow : pieces(Mask(k.gain < 0.997))) {
            const Region core = coreOf(k.gain, shadow);
            if (visible(k.cleanGrey, k.wornGrey, core)) paint(ever, core);
        }
    }
    int seen = 0, hit = 0, made = 0;
    for (const auto& grain : pieces(ever)) {
        ++seen;
        hit += cv::countNonZero(charted(grain.box) & grain.mask) >= 0.3 * grain.area();
    }
    for (const auto& s : chart->spots)
        made += cv::countNonZero(dusty(s.region.box) & s.region.mask) == 0;
    std::printf("of a chart of ten frames: %d of %d shadows visible in one of them, %d made up\n",
                hit, seen, made);
    EXPECT_GT(seen, 20);
    EXPECT_GE(hit, 0.98 * seen);
    EXPECT_LE(made, 1);
}

TEST(Accuracy, OnTheDemoSeriesAtDefaults) {
    const auto demo = testkit::demoFolder();
    if (!std::filesystem::exists(demo / "cloud-watch" / "CW-012.jpg"))
        GTEST_SKIP() << "set GQ_DEMO to the rendered demo (./dev test does)";
    int seen = 0, hit = 0, falseOnClean = 0;
    double megapixels = 0;
    for (int i = 1; i <= 12; ++i) {
        const std::string name = "CW-0" + std::string(i < 10 ? "0" : "") + std::to_string(i);
        const Known k = frameOf(demo, name);
        const auto clean =
            files::readPicture(demo / "truth" / "cloud-watch" / (name + ".clean.jpg"));
        ASSERT_TRUE(clean);
        const auto found = find::find({k.worn, 8}, {}), onClean = find::find(clean->picture, {});
        ASSERT_TRUE(found && onClean);
        const Mask mask = maskOf(*found, k.gain.size());
        for (const auto& shadow : pieces(Mask(k.gain < 0.997))) {
            const Region core = coreOf(k.gain, shadow);
            if (!visible(k.cleanGrey, k.wornGrey, core)) continue;
            ++seen;
            hit += cv::countNonZero(mask(core.box) & core.mask) >= 0.3 * core.area();
        }
        for (const auto& f : *onClean) falseOnClean += f.confidence >= 0.5f;
        megapixels += clean->picture.megapixels();
    }
    std::printf(
        "visible shadows found: %d of %d (%.3f); false findings on clean renders: %.2f a "
        "megapixel\n",
        hit, seen, double(hit) / seen, falseOnClean / megapixels);
    EXPECT_GT(seen, 150);
    EXPECT_GE(double(hit) / seen, 0.85);
    EXPECT_LT(falseOnClean / megapixels, 0.3);
}

}  // namespace
}  // namespace gq
