#include "tests/testkit/scratch.h"

#include <gtest/gtest.h>
#include <unistd.h>

#include <cstdlib>
#include <fstream>
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
