// gquill: the work of Gentle Quill without a window.
#include <exception>
#include <iostream>

#include "cli/common.h"
#include "core/pixels/memory.h"

int main(int argc, char** argv) {
    gq::keepFreedMemory();
    CLI::App app{
        "gquill finds dust, specks and hairs in pictures, mends them, and carries the mends over a "
        "series.\n"
        "Originals are never written to. `gquill COMMAND --help` tells the rest."};
    app.set_version_flag("--version", "gquill " GQ_VERSION);
    app.require_subcommand(1);
    gq::cli::Common common;
    gq::cli::addFind(app, common);
    gq::cli::addMend(app, common);
    gq::cli::addMerge(app, common);
    gq::cli::addClean(app, common);
    gq::cli::addChart(app, common);
    gq::cli::addCarry(app, common);
    gq::cli::addExport(app, common);
    gq::cli::addInfo(app, common);
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& e) {
        return app.exit(e) == 0 ? gq::cli::kDone : gq::cli::kUsage;
    } catch (const std::bad_alloc&) {
        std::cerr << "gquill: there is not enough memory for this picture. Close other programs, "
                     "or use fewer threads (-j 1).\n";
        return gq::cli::kSomeFailed;
    }
    return common.exit;
}
