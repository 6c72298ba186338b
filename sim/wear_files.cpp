#include "sim/wear_files.h"

#include "core/files/picture_reader.h"
#include "core/files/picture_writer.h"

namespace gq::sim {
namespace fs = std::filesystem;

Status writeMaps(const fs::path& stem, const Worn& worn) {
    for (const WearKind kind : allWearKinds()) {
        bool borne = false;
        for (const auto& p : worn.pieces) borne = borne || p.kind == kind;
        if (!borne) continue;
        files::LoadedPicture map;
        map.picture = {widen(worn.map(kind)), 8};
        const auto done = files::writePicture(stem.string() + "." + word(kind) + ".png", map,
                                              {.format = files::Format::Png8, .replace = true});
        if (!done) return done;
    }
    return {};
}

Status wearFile(const fs::path& picture, const fs::path& folder, const WearPlan& plan,
                bool replace) {
    auto loaded = files::readPicture(picture);
    if (!loaded) return tl::unexpected(loaded.error());
    std::error_code code;
    fs::create_directories(folder, code);
    const Worn worn = wear(loaded->picture.pixels, plan);
    const fs::path stem = folder / picture.stem();
    const files::WriteOptions options{
        .format = loaded->picture.bits == 16 ? files::Format::Tiff16 : files::Format::Tiff8,
        .replace = replace};
    loaded->picture.pixels = worn.worn;
    if (auto done = files::writePicture(stem.string() + ".tif", *loaded, options); !done)
        return done;
    loaded->picture.pixels = worn.clean;
    if (auto done = files::writePicture(stem.string() + ".clean.tif", *loaded, options); !done)
        return done;
    return writeMaps(stem, worn);
}

std::optional<Medium> mediumFromWord(const std::string& text) {
    if (text == "sensor") return Medium::Sensor;
    if (text == "negative") return Medium::Negative;
    if (text == "positive") return Medium::Positive;
    if (text == "print") return Medium::Print;
    return std::nullopt;
}

}  // namespace gq::sim
