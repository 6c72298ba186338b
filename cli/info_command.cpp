#include <fmt/core.h>

#include "cli/common.h"
#include "core/files/frame_info.h"

namespace gq::cli {

void addInfo(CLI::App& app, Common& common) {
    auto* c = app.add_subcommand("info", "tell what frames are, without decoding them");
    static std::vector<std::string> files;
    c->add_option("FRAME", files, "pictures or folders")->required();
    addCommon(*c, common);
    c->callback([&] {
        forFrames(common, files, [&](const auto& file) -> Status {
            const auto i = files::readInfo(file);
            if (!i) return tl::unexpected(i.error());
            fmt::print("{}: {}, {} x {}, {} x {} bits, orientation {}", i->file, i->format,
                       i->size.width, i->size.height, i->channels, i->bits, int(i->orientation));
            if (!i->camera.empty()) fmt::print(", {}", i->camera);
            if (i->aperture > 0) fmt::print(", f/{:.3g}", i->aperture);
            if (!i->taken.empty()) fmt::print(", {}", i->taken);
            if (i->pages > 1) fmt::print(", {} pages", i->pages);
            fmt::print("\n");
            return {};
        });
    });
}

}  // namespace gq::cli
