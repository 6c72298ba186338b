#include "core/files/dng_previews.h"

#include <gtest/gtest.h>

#include <fstream>

#include "core/files/picture_reader.h"
#include "core/files/tiff_directory.h"
#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::files {
namespace {

using Tiff = TiffDirectories;

const Size kSize(96, 64);

/// A picture in a directory of its own, after another without any.
class DngPreviews : public testing::Test {
  protected:
    void write(const std::string& bytes, bool jpeg, const char* header) {
        std::ofstream(file, std::ios::binary) << std::string(header, 8);
        Tiff tiff(file);
        const auto number = [&](uint16_t tag, uint32_t value) {
            return tiff.entry(tag, Tiff::kLong, value);
        };
        Tiff::Directory inside{
            {number(256, 96), number(257, 64), number(259, jpeg ? 7 : 1), number(262, jpeg ? 6 : 2),
             number(273, tiff.append(bytes)), number(277, 3), number(279, uint32_t(bytes.size())),
             number(0xfde8, 77)},
            {}};
        const uint32_t inner = tiff.append(inside);
        tiff.write(4, tiff.append(Tiff::Directory{{number(330, inner)}, {}}));
        ASSERT_TRUE(tiff.ok());
    }
    /// The picture as it lies there now.
    Image now() {
        Image out;
        EXPECT_TRUE(changePreviews(file, [&](Image& p) {
            out = p.clone();
            return false;
        }));
        return out;
    }
    static bool dim(Image& picture) {
        picture = picture * 0.5;
        return true;
    }
    const testkit::Scratch dir;
    const std::filesystem::path file = dir / "a.dng";
    const Image picture = testkit::sky(kSize);
};

TEST_F(DngPreviews, PlainOnesKeepTheirPlaces) {
    const Image8 plain = narrow(picture);
    for (const char* header : {"II*\0\0\0\0\0", "MM\0*\0\0\0\0"}) {
        write(std::string(plain.ptr<char>(), plain.total() * 3), false, header);
        const auto before = std::filesystem::file_size(file);
        ASSERT_TRUE(changePreviews(file, dim));
        EXPECT_EQ(std::filesystem::file_size(file), before);
        EXPECT_LE(cv::norm(now(), widen(plain) * 0.5, cv::NORM_INF), 257);
    }
}

TEST_F(DngPreviews, JpegsAreCodedAnewAndKeepTheirOtherTags) {
    testkit::write(dir / "p.jpg", picture, 8);
    const std::string bytes = testkit::bytesOf(dir / "p.jpg");
    for (const char* header : {"II*\0\0\0\0\0", "MM\0*\0\0\0\0"}) {
        write(bytes, true, header);
        ASSERT_TRUE(changePreviews(file, dim));
        EXPECT_LT(cv::norm(now(), picture * 0.5, cv::NORM_L1) / double(picture.total() * 3), 900);
        Tiff tiff(file);
        const auto links = tiff.links();
        ASSERT_EQ(links.size(), 2u);
        const auto tag = tiff.read(tiff.at(links[1])).entries.back();
        EXPECT_EQ(tag.tag, 0xfde8);
        EXPECT_EQ(tiff.valueOf(tag), 77u);
    }
}

TEST_F(DngPreviews, OfDamagedFilesAreLeftAlone) {
    testkit::write(dir / "p.jpg", picture, 8);
    const std::string whole = testkit::bytesOf(dir / "p.jpg");
    for (const size_t length : {size_t(0), size_t(2), whole.size() / 2}) {
        write(whole.substr(0, length), true, "II*\0\0\0\0\0");
        const std::string before = testkit::bytesOf(file);
        EXPECT_TRUE(changePreviews(file, dim));
        EXPECT_EQ(testkit::bytesOf(file), before) << length;
    }
    {
        Tiff tiff(file);
        tiff.write(4, tiff.append(Tiff::Directory{{tiff.entry(330, Tiff::kLong, 1 << 24)}, {}}));
    }
    const std::string before = testkit::bytesOf(file);
    EXPECT_TRUE(changePreviews(file, dim)) << "a directory beyond the end of the file";
    EXPECT_EQ(testkit::bytesOf(file), before);
}

}  // namespace
}  // namespace gq::files
