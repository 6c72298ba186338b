#include "bench/accuracy/demo.h"

#include <algorithm>
#include <opencv2/imgproc.hpp>

#include "core/render/search.h"

namespace gq::accuracy {
namespace fs = std::filesystem;
namespace {

constexpr double kDims = 0.99;  ///< a gain below this is called a shadow

void addPieces(const Mask& map, sim::WearKind kind, sim::Worn& truth) {
    for (const auto& piece : pieces(map)) {
        ImageF share;
        piece.mask.convertTo(share, CV_32F, 1.0 / 255);
        truth.pieces.push_back({kind, {piece.box, share}, 1});
    }
}

Status addMaps(const fs::path& stem, sim::Worn& truth) {
    std::error_code code;
    for (const auto kind : sim::allWearKinds()) {
        const fs::path file = stem.string() + "." + sim::word(kind) + ".png";
        if (!fs::exists(file, code)) continue;
        const auto map = files::readPicture(file);
        if (!map) return tl::unexpected(map.error());
        addPieces(Mask(map->picture.pixels > 32767), kind, truth);
    }
    const fs::path gain = stem.string() + ".gain.png";
    if (fs::exists(gain, code)) {
        const auto map = files::readPicture(gain);
        if (!map) return tl::unexpected(map.error());
        addPieces(Mask(map->picture.pixels < kDims * 65535), sim::WearKind::Shadow, truth);
    }
    return {};
}

Result<Score> scored(const files::LoadedPicture& picture, find::Origin origin,
                     const sim::Worn& truth) {
    const find::FindPlan plan{.origin = origin};
    const auto searched = render::search(picture, {}, plan);
    if (!searched) return tl::unexpected(searched.error());
    return score(searched->findings, plan.line, truth);
}

Result<DemoFrame> searchFrame(const fs::path& file, const fs::path& stem, find::Origin origin) {
    const auto worn = files::readPicture(file);
    if (!worn) return tl::unexpected(worn.error());
    const auto clean = files::readPicture(stem.string() + ".clean" + file.extension().string());
    if (!clean) return tl::unexpected(clean.error());
    sim::Worn truth{clean->picture.pixels, worn->picture.pixels, {}}, nothing = truth;
    nothing.worn = nothing.clean;
    if (auto ok = addMaps(stem, truth); !ok) return tl::unexpected(ok.error());
    const auto onWorn = scored(*worn, origin, truth), onClean = scored(*clean, origin, nothing);
    if (!onWorn) return tl::unexpected(onWorn.error());
    if (!onClean) return tl::unexpected(onClean.error());
    return DemoFrame{file.stem().string(), *onWorn, *onClean};
}

}  // namespace

Result<std::vector<DemoFrame>> searchDemo(const fs::path& demo, const std::string& series,
                                          find::Origin origin) {
    std::error_code code;
    std::vector<fs::path> frames;
    for (const auto& e : fs::directory_iterator(demo / series, code))
        if (e.path().extension() == ".jpg" || e.path().extension() == ".tif")
            frames.push_back(e.path());
    if (frames.empty())
        return fail(Error::Kind::NotFound, "the demo series is not rendered",
                    (demo / series).string(), "`./dev bench accuracy` renders it.");
    std::sort(frames.begin(), frames.end());
    std::vector<DemoFrame> out;
    for (const auto& file : frames) {
        auto frame = searchFrame(file, demo / "truth" / series / file.stem(), origin);
        if (!frame) return tl::unexpected(frame.error());
        out.push_back(std::move(*frame));
    }
    return out;
}

}  // namespace gq::accuracy
