#include <gtest/gtest.h>

#include "core/files/frame_info.h"
#include "core/files/picture_reader.h"
#include "sim/camera_dust.h"
#include "sim/cloud_watch.h"
#include "sim/photo.h"
#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::sim {
namespace {

using testkit::bytesOf;
using testkit::Scratch;

TEST(Shoot, GivesTheSameBytesForAnyNumberOfThreads) {
    Scratch a, b;
    const ShootSettings small{.frames = 2, .sensorWidth = 480};
    setThreads(1);
    ASSERT_TRUE(shootCloudWatch(a.path(), small));
    setThreads(0);
    ASSERT_TRUE(shootCloudWatch(b.path(), small));
    for (const char* f : {"cloud-watch/CW-001.jpg", "cloud-watch/CW-002.jpg",
                          "cloud-watch/CW-001.dng", "truth/cloud-watch/CW-002.gain.png"})
        EXPECT_EQ(bytesOf(a / f), bytesOf(b / f)) << f;
}

TEST(Shoot, WritesTurnedFramesAndRawThatOpen) {
    Scratch dir;
    ASSERT_TRUE(shootCloudWatch(dir.path(), {.frames = 9, .sensorWidth = 300}));
    for (const char* kind : {".jpg", ".dng"}) {
        const auto up = files::readInfo(dir / (std::string("cloud-watch/CW-001") + kind)),
                   cw = files::readInfo(dir / (std::string("cloud-watch/CW-006") + kind)),
                   ccw = files::readInfo(dir / (std::string("cloud-watch/CW-009") + kind));
        ASSERT_TRUE(up && cw && ccw) << kind;
        EXPECT_EQ(up->orientation, Orientation::Upright) << kind;
        EXPECT_EQ(cw->orientation, Orientation::Turn90) << kind;
        EXPECT_EQ(ccw->orientation, Orientation::Turn270) << kind;
        EXPECT_EQ(up->size, cw->size) << kind;
        EXPECT_DOUBLE_EQ(up->aperture, 16) << kind;
    }
    const auto jpeg = files::readPicture(dir / "cloud-watch/CW-001.jpg"),
               raw = files::readPicture(dir / "cloud-watch/CW-001.dng");
    ASSERT_TRUE(jpeg && raw);
    for (int c = 0; c < 3; ++c)
        EXPECT_NEAR(cv::mean(jpeg->picture.pixels)[c], cv::mean(raw->picture.pixels)[c], 5000)
            << "the raw develops to the same picture";
}

TEST(CameraDust, DimsLinearLightByItsGain) {
    const Size size(600, 400);
    const ImageF light(size, CV_32FC3, cv::Scalar::all(0.5));
    const auto dust = cameraDust(size, 3);
    EXPECT_GE(dust.size(), 20u);
    EXPECT_LE(dust.size(), 32u);
    const ImageF gain = gainMap(dust, size, 11);
    const Image worn = mosaic(light, gain, {.shot = 0, .read = 0}),
                clean = mosaic(light, {}, {.shot = 0, .read = 0});
    for (int y = 0; y < size.height; y += 7)
        for (int x = 0; x < size.width; x += 5)
            EXPECT_NEAR((worn.at<ushort>(y, x) - 512.0) / (clean.at<ushort>(y, x) - 512.0),
                        double(gain.at<float>(y, x)), 0.002);
}

TEST(CameraDust, GrowsFainterAndSofterAtWideApertures) {
    const Size size(4256, 2838);
    const auto dust = cameraDust(size, 20);
    double narrow = 0, wide = 0;
    cv::minMaxLoc(gainMap(dust, size, 16), &narrow);
    cv::minMaxLoc(gainMap(dust, size, 5.6), &wide);
    EXPECT_GT(wide, narrow + 0.05);
}

}  // namespace
}  // namespace gq::sim
