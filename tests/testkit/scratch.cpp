#include "tests/testkit/scratch.h"

#include <gtest/gtest.h>
#include <tiffio.h>
#include <unistd.h>

#include <cstdlib>
#include <fstream>
#include <opencv2/imgproc.hpp>
#include <sstream>

#include "core/files/metadata.h"

namespace gq::testkit {
namespace fs = std::filesystem;

Scratch::Scratch() {
    std::string name = (fs::temp_directory_path() / "gq-test-XXXXXX").string();
    if (!mkdtemp(name.data())) std::abort();
    m_folder = name;
}

Scratch::~Scratch() {
    std::error_code code;
    fs::remove_all(m_folder, code);
}

void write(const fs::path& file, const Image& pixels, int bits, Orientation orientation) {
    files::LoadedPicture loaded;
    loaded.picture = {pixels, bits};
    const auto format = files::formatForName(file, bits);
    ASSERT_TRUE(format.has_value());
    const auto done = files::writePicture(file, loaded, {.format = *format, .replace = true});
    ASSERT_TRUE(done) << done.error().message();
    if (file.extension() != ".jpg") return;
    ASSERT_TRUE(files::writeCameraTags(
        file, {"Sandpiper", "Test", "2026:05:14 10:00:00", 11, 0.004, 35, 100, orientation}));
}

void writePages(const fs::path& file, const std::vector<Image>& pages) {
    TIFF* tiff = TIFFOpen(file.c_str(), "w");
    ASSERT_TRUE(tiff);
    for (const auto& page : pages) {
        TIFFSetField(tiff, TIFFTAG_IMAGEWIDTH, page.cols);
        TIFFSetField(tiff, TIFFTAG_IMAGELENGTH, page.rows);
        const bool mask = page.channels() == 1;
        TIFFSetField(tiff, TIFFTAG_BITSPERSAMPLE, mask ? 1 : 16);
        TIFFSetField(tiff, TIFFTAG_SAMPLESPERPIXEL, page.channels());
        TIFFSetField(tiff, TIFFTAG_PHOTOMETRIC, mask ? PHOTOMETRIC_MASK : PHOTOMETRIC_RGB);
        TIFFSetField(tiff, TIFFTAG_PLANARCONFIG, PLANARCONFIG_CONTIG);
        Image rows = page.clone();
        if (!mask) cv::cvtColor(page, rows, cv::COLOR_BGR2RGB);
        for (int y = 0; y < rows.rows; ++y) TIFFWriteScanline(tiff, rows.ptr(y), uint32_t(y));
        TIFFWriteDirectory(tiff);
    }
    TIFFClose(tiff);
}

series::Frame frameOf(const std::string& id, const Size& size, Orientation orientation) {
    series::Frame f;
    f.id = id;
    f.file = "/nowhere/" + id + ".tif";
    f.geometry.stored = size;
    f.geometry.orientation = orientation;
    f.camera = "Sandpiper Test";
    return f;
}

fs::path demoFolder() {
    const char* set = std::getenv("GQ_DEMO");
    return set ? fs::path(set) : fs::path();
}

std::string bytesOf(const fs::path& file) {
    std::ifstream in(file, std::ios::binary);
    std::ostringstream out;
    out << in.rdbuf();
    return out.str();
}

}  // namespace gq::testkit
