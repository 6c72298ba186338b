#include "sim/shot_files.h"

#include "core/files/picture_writer.h"

namespace gq::sim {
namespace fs = std::filesystem;

Status writeJpeg(const fs::path& file, const Image& pixels, const files::CameraTags& tags,
                 int quality) {
    files::LoadedPicture loaded;
    loaded.picture = {pixels, 8};
    const files::WriteOptions options{
        .format = files::Format::Jpeg, .jpegQuality = quality, .replace = true};
    if (auto done = files::writePicture(file, loaded, options); !done) return done;
    return files::writeCameraTags(file, tags);
}

Status writeGain(const fs::path& file, const ImageF& gain) {
    files::LoadedPicture loaded;
    gain.convertTo(loaded.picture.pixels, CV_16U, 65535.0);
    loaded.picture.bits = 16;
    return files::writePicture(file, loaded, {.format = files::Format::Png16, .replace = true});
}

}  // namespace gq::sim
