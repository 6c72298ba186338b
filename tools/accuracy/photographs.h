#pragma once
#include <filesystem>
#include <string>
#include <vector>

#include "core/pixels/image.h"
#include "core/pixels/result.h"

namespace gq::accuracy {

/// A photograph of a Debian package; used to train and to measure, never shipped or shown.
struct Photograph {
    std::string name;
    std::filesystem::path file;
    bool aside = false;     ///< kept out of training
    bool filmOnly = false;  ///< drawn, printed or magnified: they help film, and harm the others
};

/// Those that are installed. Packages: mate-backgrounds, ukui-wallpapers,
/// plasma-workspace-wallpapers, python3-skimage.
[[nodiscard]] std::vector<Photograph> photographs();

/// A photograph reduced to at most `megapixels`. Errors: as of files::readPicture.
[[nodiscard]] Result<Picture> load(const Photograph& photograph, double megapixels);

/// The three channels' mean in one channel.
[[nodiscard]] Image monochrome(const Image& pixels);

}  // namespace gq::accuracy
