#include "cli/batch.h"
#include "core/files/picture_writer.h"
#include "core/render/export.h"
#include "core/series/series_folder.h"

namespace gq::cli {
namespace fs = std::filesystem;

void addExport(CLI::App& app, Common& common) {
    auto* c = app.add_subcommand("export", "write the frames of a series with their mends");
    static std::string folder, out, format = "tiff16";
    static int quality = 95;
    static bool replace = false, raw = false;
    c->add_option("SERIES", folder, "series folder")->required();
    c->add_option("-o", out, "folder to write into")->required();
    c->add_option("--format", format,
                  "tiff8, tiff16, png8, png16 or jpeg; dng divides shadows out of the raw samples "
                  "of DNG frames and pairs")
        ->check(CLI::IsMember({"tiff8", "tiff16", "png8", "png16", "jpeg", "dng"}))
        ->capture_default_str();
    c->add_option("--quality", quality, "of JPEG, 1..100")
        ->check(CLI::Range(1, 100))
        ->capture_default_str();
    c->add_flag("--replace", replace, "replace files that are there");
    c->add_flag("--raw", raw, "write the raw files of pairs too, as NAME-raw.tif");
    addResume(*c, common);
    addCommon(*c, common);
    c->callback([&] {
        setThreads(common.threads);
        const fs::path at =
            series::isSeriesFolder(folder) ? fs::path(folder) : series::seriesFolderFor(folder);
        const auto s = series::loadSeries(at);
        if (!s) return complain(common, s.error());
        if (auto ok = makeFolder(out); !ok) return complain(common, ok.error());
        render::DeliveryPlan plan{
            {.jpegQuality = quality, .replace = replace}, format == "dng", raw};
        if (!plan.dng) plan.write.format = *files::formatFromWord(format);
        std::vector<BatchFrame> frames;
        for (const auto& frame : s->frames)
            frames.push_back({frame->file, frame->companion,
                              render::deliveryPaths(*frame, out, plan), [&, frame](bool again) {
                                  auto own = plan;
                                  own.write.replace |= again;
                                  return render::deliver(*s, *frame, out, own);
                              }});
        runBatch(common, frames);
    });
}

}  // namespace gq::cli
