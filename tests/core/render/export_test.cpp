#include "core/render/export.h"

#include <gtest/gtest.h>

#include <fstream>

#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::render {
namespace {

using testkit::bytesOf;
using testkit::Scratch;

series::Frame frameAt(const std::filesystem::path& file) {
    auto f = series::makeFrame(file, "f0001");
    EXPECT_TRUE(f);
    f->mends.push_back({1, {disc({100, 80}, 9, f->geometry.stored)}, 0, false});
    return *f;
}

TEST(ExportFrame, ChangesNoPixelOutsideTheMends) {
    Scratch dir;
    for (const auto& [name, bits, format] : {std::tuple{"a.tif", 16, files::Format::Tiff16},
                                             {"b.png", 8, files::Format::Png8},
                                             {"c.png", 16, files::Format::Png16},
                                             {"d.tif", 8, files::Format::Tiff8}}) {
        testkit::write(dir / name, testkit::grass({240, 180}), bits);
        const std::string original = bytesOf(dir / name);
        const auto frame = frameAt(dir / name);
        const auto target = deliveryPaths(frame, dir / "out", {{.format = format}}).front();
        std::filesystem::create_directories(dir / "out");
        const auto done = exportFrame(frame, 0.5f, target, {.format = format});
        ASSERT_TRUE(done) << done.error().message();
        const auto before = files::readPicture(dir / name), after = files::readPicture(target);
        Mask touched(before->picture.size(), CV_8U, cv::Scalar(0));
        paint(touched, mend::footprint(frame.mends[0].mend, before->picture.size()));
        EXPECT_EQ(testkit::worstOutside(after->picture.pixels, before->picture.pixels, touched), 0)
            << name;
        EXPECT_FALSE(testkit::equal(after->picture.pixels, before->picture.pixels)) << name;
        EXPECT_EQ(bytesOf(dir / name), original) << name;
    }
}

TEST(ExportFrame, RefusesAnOriginalThatChanged) {
    Scratch dir;
    testkit::write(dir / "a.tif", testkit::sky({240, 180}));
    const auto frame = frameAt(dir / "a.tif");
    testkit::write(dir / "a.tif", testkit::sky({240, 180}, 7));
    const auto done = exportFrame(frame, 0.5f, dir / "out.tif", {});
    ASSERT_FALSE(done);
    EXPECT_EQ(done.error().kind, Error::Kind::Changed);
    EXPECT_FALSE(std::filesystem::exists(dir / "out.tif"));
}

TEST(ExportFrame, SaysWhenTheFolderIsNotThere) {
    Scratch dir;
    testkit::write(dir / "a.tif", testkit::sky({240, 180}));
    const auto done = exportFrame(frameAt(dir / "a.tif"), 0.5f, dir / "none" / "a.tif", {});
    ASSERT_FALSE(done);
    EXPECT_NE(done.error().message().find("none/a.tif"), std::string::npos);
}

TEST(Deliver, NeverReplacesTheOriginalOfAnotherFrame) {
    Scratch dir;
    testkit::write(dir / "a.png", testkit::sky({240, 180}), 8);
    testkit::write(dir / "a.tif", testkit::sky({240, 180}, 7), 8);
    std::vector<Error> faults;
    const auto s = series::makeSeries({dir / "a.png", dir / "a.tif"}, "", faults);
    ASSERT_EQ(s.frames.size(), 2u);
    const std::string original = bytesOf(dir / "a.tif");
    for (const auto& frame : s.frames) {
        const auto done = deliver(s, *frame, dir / "",
                                  {.write = {.format = files::Format::Tiff8, .replace = true}});
        ASSERT_FALSE(done);
        EXPECT_EQ(done.error().kind, Error::Kind::Refused);
    }
    EXPECT_EQ(bytesOf(dir / "a.tif"), original);
}

}  // namespace
}  // namespace gq::render
