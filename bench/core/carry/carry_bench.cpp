// Carrying a frame's mends to three others and exporting them, against plain decode and encode.
#include "bench/ratio.h"
#include "core/carry/carry.h"
#include "core/files/picture_writer.h"
#include "core/find/find.h"
#include "core/render/compose.h"
#include "core/render/mend_findings.h"

namespace {

namespace fs = std::filesystem;
const gq::files::WriteOptions kJpeg{.format = gq::files::Format::Jpeg, .replace = true};

fs::path out(const char* name) {
    return fs::temp_directory_path() / name;
}

gq::series::Frame mendedReference() {
    auto frame = gq::series::makeFrame(gq::bench::demoFrame(1), "f1");
    const gq::Image pixels = gq::bench::pixelsOf(frame->file);
    gq::series::Id next = 1;
    const auto found = gq::series::withFindings(*frame, *gq::find::find({pixels, 8}, {}), next);
    return *gq::render::withMends(pixels, found, gq::render::openAbove(found, 0.5f), 0.5f, next);
}

void decodeEncode(benchmark::State& state) {
    for (auto _ : state)
        for (int i = 2; i <= 4; ++i) {
            const auto loaded = gq::files::readPicture(gq::bench::demoFrame(i));
            if (!gq::files::writePicture(out("gentle-quill-bench-a.jpg"), *loaded, kJpeg))
                state.SkipWithError("cannot write");
        }
}
BENCHMARK(decodeEncode)->Unit(benchmark::kMillisecond)->UseRealTime();

void carry(benchmark::State& state) {
    const auto reference = mendedReference();
    for (auto _ : state)
        for (int i = 2; i <= 4; ++i) {
            auto loaded = gq::files::readPicture(gq::bench::demoFrame(i));
            gq::series::Frame target = reference;
            target.id = "f2";
            target.findings.clear();
            target.mends.clear();
            gq::series::Id next = 1000;
            gq::mend::PatchStore made;
            const auto frame =
                gq::carry::carryTo(loaded->picture.pixels, reference, target,
                                   {.reference = reference.id}, 0.5f, next, {}, {}, &made);
            if (!gq::render::mendInPlace(loaded->picture.pixels, *frame, 0.5f, {}, &made))
                std::abort();
            if (!gq::files::writePicture(out("gentle-quill-bench-b.jpg"), *loaded, kJpeg))
                state.SkipWithError("cannot write");
        }
}
BENCHMARK(carry)->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace

int main(int argc, char** argv) {
    return gq::bench::runRatio(argc, argv, "carry + export / decode + encode", "carry",
                               "decodeEncode", 1.5);
}
