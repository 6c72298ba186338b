// How near each method of Mend comes to the truth: a table per kind, beside stock inpainting.
#include <fmt/core.h>

#include <CLI/CLI.hpp>
#include <chrono>
#include <opencv2/imgproc.hpp>
#include <opencv2/photo.hpp>

#include "core/render/compose.h"
#include "core/render/mask_mends.h"
#include "sim/wear.h"
#include "tools/accuracy/fidelity.h"
#include "tools/accuracy/photographs.h"

namespace {

using namespace gq;

struct Options {
    double megapixels = 1.5;
    std::string only;
    std::vector<std::string> methods;
    bool each = false, trained = false;
};

struct Material {
    const char* title;
    sim::Medium medium;
    std::vector<sim::WearKind> kinds;
    std::vector<std::string> methods{"telea", "navier-stokes", "auto"};
    bool harm = false;  ///< stains and losses: not part of the mean
    int grow = 2;
    bool toned = false;  ///< pictures become toned prints of one colour first
    float variety = 0;   ///< of the wear
};

const std::vector<Material>& materials() {
    using enum sim::WearKind;
    static const std::vector<Material> all{
        {"film specks", sim::Medium::Negative, {Speck}},
        {"film lines", sim::Medium::Negative, {Fibre, Scratch}},
        {"sensor shadows", sim::Medium::Sensor, {Shadow}},
        {"sensor hairs", sim::Medium::Sensor, {Fibre}},
        {"paper specks", sim::Medium::Print, {Speck}},
        {"paper cracks", sim::Medium::Print, {Crack}},
        {"paper losses", sim::Medium::Print, {Loss}, {"telea", "navier-stokes", "rebuild"}, true},
        {"paper stains",
         sim::Medium::Print,
         {Stain},
         {"untouched", "rebuild", "even-out"},
         true,
         0},
        {"toned stains", sim::Medium::Print, {Stain}, {"untouched", "even-out"}, true, 0, true},
        {"varied stains",
         sim::Medium::Print,
         {Stain},
         {"untouched", "even-out"},
         true,
         0,
         false,
         1},
        {"soft shadows", sim::Medium::Sensor, {Shadow}, {"untouched", "heal", "unshade"}, true, 4},
    };
    return all;
}

Result<Image> mended(const Image& worn, const Mask& mask, const std::string& method) {
    if (method == "telea" || method == "navier-stokes") {
        Image8 out;
        cv::inpaint(narrow(worn), mask, out, 5,
                    method == "telea" ? cv::INPAINT_TELEA : cv::INPAINT_NS);
        return widen(out);
    }
    if (method == "untouched") return worn;
    const auto chosen = mend::methodFromWord(method);
    return render::composed(worn, render::frameOfMask(mask, 0, chosen, 0), 0);
}

/// An old print of one colour: warm paper, darker tones warmer still.
Image toned(const Image& pixels) {
    const Image grey = accuracy::monochrome(pixels);
    std::vector<cv::Mat> channels(3);
    const std::pair<double, double> paperAndGamma[]{{0.80, 1.15}, {0.90, 1.03}, {0.96, 0.95}};
    for (size_t c = 0; c < 3; ++c) {
        cv::Mat plane;
        grey.convertTo(plane, CV_32F, 1.0 / 65535);
        cv::pow(plane, paperAndGamma[c].second, plane);
        plane.convertTo(channels[c], CV_16U, 65535 * paperAndGamma[c].first);
    }
    Image out;
    cv::merge(channels, out);
    return out;
}

Mask maskOf(const sim::Worn& worn, const std::vector<sim::WearKind>& kinds, int grow) {
    Mask out(worn.clean.size(), CV_8U, cv::Scalar(0)), wide;
    for (const auto k : kinds) out |= worn.map(k);
    cv::dilate(out, wide,
               cv::getStructuringElement(cv::MORPH_ELLIPSE, {2 * grow + 1, 2 * grow + 1}));
    return wide;
}

/// Even out keeps what lies under a stain, other wear too, which is not its task.
Mask judgedOf(const sim::Worn& worn, const Material& m, const Mask& where) {
    if (m.kinds != std::vector{sim::WearKind::Stain}) return where;
    std::vector<sim::WearKind> others = sim::allWearKinds();
    std::erase(others, sim::WearKind::Stain);
    return where & ~maskOf(worn, others, 2);
}

struct Sum {
    accuracy::Fidelity total;
    double seams = 0, seconds = 0, megapixels = 0;
    int pictures = 0, withSeam = 0;

    void add(const accuracy::Fidelity& f) {
        total.plain += f.plain;
        total.structure += f.structure;
        total.ssim += f.ssim;
        total.texture += f.texture;
        seams += f.seam.value_or(0);
        withSeam += f.seam.has_value();
        total.places += f.places;
        ++pictures;
    }
    [[nodiscard]] double seam() const { return seams / std::max(1, withSeam); }
};

Status measure(const Options& o) {
    std::map<std::string, Sum> means;  // over materials
    fmt::print(
        "| worn | method | structure | plain | SSIM | texture | seam | ms a place | s a MP |\n"
        "|---|---|---|---|---|---|---|---|---|\n");
    for (const auto& m : materials()) {
        if (!o.only.empty() && o.only != m.title) continue;
        const auto& methods = o.methods.empty() ? m.methods : o.methods;
        std::map<std::string, Sum> sums;
        std::uint32_t seed = 70000;
        for (const auto& p : accuracy::photographs()) {
            if (p.aside == o.trained) continue;
            const auto picture = accuracy::load(p, o.megapixels);
            if (!picture) return tl::unexpected(picture.error());
            const auto worn = sim::wear(
                m.toned ? toned(picture->pixels) : picture->pixels,
                {.medium = m.medium, .seed = seed++, .variety = m.variety, .harm = m.harm});
            const Mask where = maskOf(worn, m.kinds, m.grow), judged = judgedOf(worn, m, where);
            if (cv::countNonZero(judged) < 30) continue;
            const Image truth = widen(narrow(worn.clean)), start = widen(narrow(worn.worn));
            for (const auto& method : methods) {
                const auto before = std::chrono::steady_clock::now();
                const auto out = mended(start, where, method);
                if (!out) return tl::unexpected(out.error());
                auto& s = sums[method];
                s.seconds +=
                    std::chrono::duration<double>(std::chrono::steady_clock::now() - before)
                        .count();
                s.megapixels += picture->megapixels();
                const auto f = accuracy::fidelity(widen(narrow(*out)), start, truth, judged);
                s.add(f);
                if (o.each)
                    fmt::print("  {} {} {}: {:.2f} {:.2f} texture {:.2f} seam {:.2f}\n", m.title,
                               p.name, method, f.structure, f.plain, f.texture, f.seam.value_or(0));
            }
        }
        for (const auto& method : methods) {
            const auto& s = sums[method];
            const double n = std::max(1, s.pictures);
            const auto& t = s.total;
            fmt::print(
                "| {} | {} | {:.2f} | {:.2f} | {:.3f} | {:.2f} | {:.2f} | {:.1f} | {:.2f} |\n",
                m.title, method, t.structure / n, t.plain / n, t.ssim / n, t.texture / n, s.seam(),
                1e3 * s.seconds / std::max(1, t.places), s.seconds / s.megapixels);
            std::fflush(stdout);
            if (m.harm) continue;
            means[method].add(
                {t.plain / n, t.structure / n, t.ssim / n, t.texture / n, s.seam(), t.places});
        }
    }
    for (const auto& [method, s] : means) {
        const double n = std::max(1, s.pictures);
        fmt::print("| mean | {} | {:.2f} | {:.2f} | {:.3f} | {:.2f} | {:.2f} | | |\n", method,
                   s.total.structure / n, s.total.plain / n, s.total.ssim / n, s.total.texture / n,
                   s.seam());
    }
    return {};
}

}  // namespace

int main(int argc, char** argv) {
    CLI::App app{"gqfidelity: Mend against the truth, on packaged photographs worn by seeds"};
    Options o;
    app.add_option("--megapixels", o.megapixels, "photographs are reduced to this");
    app.add_option("--only", o.only, "one of the materials, as the table names it");
    app.add_option("--methods", o.methods, "telea, navier-stokes, or one of Mend's own");
    app.add_flag("--each", o.each, "a line per picture");
    app.add_flag("--trained", o.trained, "the other photographs");
    CLI11_PARSE(app, argc, argv);
    const auto done = measure(o);
    if (!done) fmt::print(stderr, "gqfidelity: {}\n", done.error().message());
    return done ? 0 : 1;
}
