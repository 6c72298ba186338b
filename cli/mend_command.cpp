#include "cli/common.h"
#include "core/files/picture_writer.h"
#include "core/render/compose.h"
#include "core/render/mask_mends.h"

namespace gq::cli {
namespace fs = std::filesystem;
namespace {

struct MendOptions {
    std::string file, mask, method = "auto", out;
    int seed = 0, grow = 1;
    bool replace = false;
};

/// The mends that the mask asks for.
Result<series::Frame> frameOf(const MendOptions& o, const Size& size) {
    const auto mask = files::readPicture(o.mask);
    if (!mask) return tl::unexpected(mask.error());
    if (mask->picture.size() != size)
        return fail(Error::Kind::BadSetting, "the mask has another size than the picture", o.mask,
                    "Make it " + std::to_string(size.width) + " x " + std::to_string(size.height) +
                        " pixels.");
    cv::Mat grey;
    cv::extractChannel(mask->picture.pixels, grey, 0);
    return render::frameOfMask(grey > 32767, o.grow, mend::methodFromWord(o.method), o.seed);
}

Status run(const MendOptions& o) {
    auto loaded = files::readPicture(o.file);
    if (!loaded) return tl::unexpected(loaded.error());
    const auto format = files::formatForName(o.out, loaded->picture.bits);
    if (!format)
        return fail(Error::Kind::BadSetting, "this suffix names no format that can be written",
                    o.out, "Use .tif, .png or .jpg.");
    const auto frame = frameOf(o, loaded->picture.size());
    if (!frame) return tl::unexpected(frame.error());
    if (auto ok = render::mendInPlace(loaded->picture.pixels, *frame, 0); !ok)
        return tl::unexpected(ok.error());
    return files::writePicture(o.out, *loaded, {.format = *format, .replace = o.replace}, o.file);
}

}  // namespace

void addMend(CLI::App& app, Common& common) {
    auto* c = app.add_subcommand("mend", "mend what a mask marks");
    static MendOptions o;
    c->add_option("FRAME", o.file, "the picture")->required();
    c->add_option("--mask", o.mask, "picture of the same size, white where to mend")->required();
    c->add_option("--method", o.method, "how to mend")
        ->check(CLI::IsMember(
            {"auto", "heal", "clone", "span", "rebuild", "even-out", "unshade", "sift"}))
        ->capture_default_str();
    c->add_option("--seed", o.seed, "another result: 0 is the best, 1, 2, ... the next ones")
        ->check(CLI::Range(0, 1000));
    c->add_option("--grow", o.grow, "grow the mask by this many pixels first")
        ->check(CLI::Range(0, 64))
        ->capture_default_str();
    c->add_flag("--replace", o.replace, "replace the output if it is there");
    c->add_option("-o", o.out, "file to write; its suffix is the format, 8-bit stays 8-bit")
        ->required();
    addCommon(*c, common);
    c->callback([&] {
        setThreads(common.threads);
        tellPagesLeft(common, {o.file});
        if (auto ok = run(o); !ok) complain(common, ok.error());
        report(common, o.file, 1, 1);
    });
}

}  // namespace gq::cli
