#include "bench/accuracy/demo.h"

#include <algorithm>
#include <opencv2/imgproc.hpp>

#include "core/render/search_series.h"

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

/// Each frame's findings, the series searched together.
Result<std::vector<std::vector<find::Finding>>> searched(const std::vector<fs::path>& files,
                                                         const find::FindPlan& plan) {
    std::vector<Error> faults;
    auto series = series::makeSeries(files, "", faults);
    series.plan = plan;
    std::vector<std::string> ids;
    for (const auto& f : series.frames) ids.push_back(f->id);
    const auto out = render::searchSeries(series, ids, render::Untold::OneCamera);
    if (!out) return tl::unexpected(out.error());
    faults.insert(faults.end(), out->faults.begin(), out->faults.end());
    if (!faults.empty()) return tl::unexpected(faults.front());
    std::vector<std::vector<find::Finding>> found;
    for (const auto& frame : out->series.frames) {
        found.emplace_back();
        for (const auto& e : frame->findings) found.back().push_back(e.finding);
    }
    return found;
}

}  // namespace

Result<std::vector<DemoFrame>> searchDemo(const fs::path& demo, const std::string& series,
                                          find::Origin origin) {
    std::error_code code;
    std::vector<fs::path> frames, clean, stems;
    for (const auto& e : fs::directory_iterator(demo / series, code))
        if (e.path().extension() == ".jpg" || e.path().extension() == ".tif")
            frames.push_back(e.path());
    if (frames.empty())
        return fail(Error::Kind::NotFound, "the demo series is not rendered",
                    (demo / series).string(), "`./dev bench accuracy` renders it.");
    std::sort(frames.begin(), frames.end());
    for (const auto& file : frames) {
        stems.push_back(demo / "truth" / series / file.stem());
        clean.push_back(stems.back().string() + ".clean" + file.extension().string());
    }
    const find::FindPlan plan{.origin = origin};
    const auto onWorn = searched(frames, plan), onClean = searched(clean, plan);
    if (!onWorn) return tl::unexpected(onWorn.error());
    if (!onClean) return tl::unexpected(onClean.error());
    std::vector<DemoFrame> out;
    for (size_t i = 0; i < frames.size(); ++i) {
        const auto before = files::readPicture(clean[i]), after = files::readPicture(frames[i]);
        if (!before) return tl::unexpected(before.error());
        if (!after) return tl::unexpected(after.error());
        sim::Worn truth{before->picture.pixels, after->picture.pixels, {}}, nothing = truth;
        nothing.worn = nothing.clean;
        if (auto ok = addMaps(stems[i], truth); !ok) return tl::unexpected(ok.error());
        out.push_back({frames[i].stem().string(), score((*onWorn)[i], plan.line, truth),
                       score((*onClean)[i], plan.line, nothing)});
    }
    return out;
}

}  // namespace gq::accuracy
