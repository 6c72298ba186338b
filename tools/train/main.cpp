// Trains the weights that tell blemishes from picture detail.
#include <fmt/core.h>

#include <CLI/CLI.hpp>
#include <array>
#include <fstream>

#include "core/files/safe_write.h"
#include "sim/photo.h"
#include "sim/scene.h"
#include "tools/accuracy/photographs.h"
#include "tools/train/boost.h"
#include "tools/train/samples.h"

namespace {

using namespace gq;

constexpr std::array<train::Subject, 4> kSubjects{{
    {"sensor", "sensor", 8, 17, 10, find::Origin::Sensor, sim::Medium::Sensor},
    {"light", "film", 9, 8, 6, find::Origin::Negative, sim::Medium::Negative},
    {"dark", "film", 9, 8, 6, find::Origin::Positive, sim::Medium::Positive},
    {"print", "print", 12, 12, 8, find::Origin::Print, sim::Medium::Print},
}};

struct Options {
    std::string folder = "core/find/weights", only, looks;
    double megapixels = 3;
    bool review = false;
    train::BoostSettings boost;
};

/// How often every picture is worn and by which seeds: `number` keeps the models' wear apart.
struct Round {
    int number, variants;
    bool harm = false;  ///< as of sim::WearPlan
};

/// Every picture, worn for a round, as `study` sees it, in order.
template <class Study, class Use>
void forWorn(const train::Subject& subject, const Round& round,
             const std::vector<Picture>& pictures, Study study, Use use) {
    for (size_t i = 0; i < pictures.size(); ++i) {
        using Seen = std::invoke_result_t<Study, const sim::Worn&>;
        std::vector<Seen> seen(size_t(round.variants), Seen{});
        forEach(round.variants, [&](int v) {
            const auto seed =
                hash32(std::uint32_t(subject.medium) + 100, int(i), v + 1000 * round.number);
            seen[size_t(v)] =
                study(train::wornAtRandom(pictures[i].pixels, subject.medium, seed, round.harm));
        });
        for (const auto& one : seen) use(one);
    }
}

/// Own landscapes, of other seeds than the demo's: skies and seas that the photographs lack.
std::vector<Picture> renders() {
    std::vector<Picture> out;
    for (int i = 0; i < 7; ++i) {
        sim::View v;
        v.size = {1920, 1280};
        v.focal = 1400 + 300 * float(i % 3);
        v.yaw = 0.1f + 0.07f * float(i);
        v.tilt = 0.04f + 0.03f * float(i % 4);
        v.cover = -0.3f + 0.12f * float(i);
        v.seed = 7000u + std::uint32_t(i);
        Image8 picture(v.size, CV_8UC3);
        sim::develop(sim::renderScene(v), {}, {.seed = v.seed}, Rect({0, 0}, v.size), picture);
        out.push_back({widen(picture), 8});
    }
    return out;
}

/// Boosts trees on labelled samples, writes and returns them.
Result<std::string> boosted(const std::string& name, const train::Samples& samples,
                            const train::BoostSettings& settings, const Options& o) {
    fmt::print("{}: {} candidates\n", name, samples.labels.size());
    std::fflush(stdout);
    auto weights = train::boost(samples, settings);
    if (!weights) return weights;
    const auto file = std::filesystem::path(o.folder) / (name + ".json");
    if (auto done = files::writeTextSafely(file, *weights + "\n"); !done)
        return tl::unexpected(done.error());
    return weights;
}

/// Boosts trees on what `study` sees in worn pictures.
template <class Study>
Result<std::string> trainTrees(const std::string& name, const train::Subject& subject,
                               const Round& round, const Options& o,
                               const std::vector<Picture>& pictures, Study study) {
    train::Samples samples;
    forWorn(subject, round, pictures, study,
            [&](const train::Samples& some) { samples.add(some); });
    return boosted(name, samples, o.boost, o);
}

/// The trees of islands and of long lines, which light and dark marks share.
Status trainPlaces(const std::string& look, const Options& o,
                   const std::vector<Picture>& pictures) {
    struct Places {
        train::Samples islands, lines;
    } all;
    for (const auto& subject : kSubjects)
        if (subject.look == look)
            forWorn(
                subject, {3, 6, true}, pictures,
                [&](const sim::Worn& worn) {
                    return Places{train::islandSamplesOf(worn, subject.origin),
                                  train::lineSamplesOf(worn, subject.origin)};
                },
                [&](const Places& some) {
                    all.islands.add(some.islands);
                    all.lines.add(some.lines);
                });
    const train::BoostSettings small{.trees = 120, .depth = 3};
    for (const auto& [name, samples] :
         {std::pair("_islands", &all.islands), {"_lines", &all.lines}})
        if (const auto done = boosted(look + name, *samples, small, o); !done)
            return tl::unexpected(done.error());
    return {};
}

/// The second judgement's trees; the first one must be built in.
Status trainReview(const train::Subject& subject, const Options& o,
                   const std::vector<Picture>& pictures) {
    const auto study = [&](const sim::Worn& worn) {
        return train::reviewSamplesOf(worn, subject.origin);
    };
    const auto done = trainTrees(std::string(subject.name) + "_review", subject,
                                 {2, subject.reviewVariants}, o, pictures, study);
    if (!done) return tl::unexpected(done.error());
    return {};
}

Result<find::Forest> trainForest(const train::Subject& subject, const Options& o,
                                 const std::vector<Picture>& pictures) {
    const auto study = [&](const sim::Worn& worn) {
        return train::samplesOf(worn, subject.origin);
    };
    const auto weights =
        trainTrees(subject.name, subject, {0, subject.variants}, o, pictures, study);
    if (!weights) return tl::unexpected(weights.error());
    return find::Forest::read(*weights);
}

/// For look.py: a byte for the label, then the planes, added to the network's file.
Status addLooks(const train::Subject& subject, const Options& o, const find::Forest& forest,
                const std::vector<Picture>& pictures) {
    const auto file = std::filesystem::path(o.looks) / (std::string(subject.look) + ".bin");
    std::ofstream out(file, std::ios::binary | std::ios::app);
    size_t count = 0;
    const auto study = [&](const sim::Worn& worn) {
        return train::looksOf(worn, subject.origin, forest);
    };
    forWorn(subject, {1, subject.lookVariants}, pictures, study, [&](const train::Looks& looks) {
        for (size_t i = 0; i < looks.looks.size(); ++i) {
            out.put(char(looks.labels[i]));
            out.write(reinterpret_cast<const char*>(looks.looks[i].data()),
                      std::streamsize(looks.looks[i].size()));
        }
        count += looks.looks.size();
    });
    fmt::print("{}: {} looks\n", subject.name, count);
    std::fflush(stdout);
    if (out.flush()) return {};
    return fail(Error::Kind::NoPermission, "the looks could not be written", file.string());
}

Status run(const Options& o) {
    std::vector<Picture> all = renders(), common = all;
    for (const auto& p : accuracy::photographs()) {
        if (p.aside) continue;
        auto picture = accuracy::load(p, o.megapixels);
        if (!picture) return tl::unexpected(picture.error());
        if (!p.filmOnly) common.push_back(*picture);
        all.push_back(std::move(*picture));
    }
    if (common.size() < 20)
        return fail(Error::Kind::NotFound, "the photographs to train on are not installed", {},
                    "`./dev train` installs their packages.");
    if (!o.review && (o.only.empty() || o.only == "places")) {
        if (auto done = trainPlaces("film", o, all); !done) return done;
        if (auto done = trainPlaces("print", o, common); !done) return done;
    }
    for (const auto& subject : kSubjects) {
        if (!o.only.empty() && o.only != subject.name) continue;
        const auto& pictures = train::isFilm(subject.medium) ? all : common;
        if (o.review) {
            if (auto done = trainReview(subject, o, pictures); !done) return done;
            continue;
        }
        const auto forest = trainForest(subject, o, pictures);
        if (!forest) return tl::unexpected(forest.error());
        if (o.looks.empty()) continue;
        if (auto done = addLooks(subject, o, *forest, pictures); !done) return done;
    }
    return {};
}

}  // namespace

int main(int argc, char** argv) {
    CLI::App app{"gqtrain: rebuilds core/find/weights from packaged photographs worn by seeds"};
    Options o;
    app.add_option("--folder", o.folder, "where the weights are written");
    app.add_option("--only", o.only, "one of sensor, light, dark, print, places");
    app.add_option("--looks", o.looks, "folder that the looks for look.py are added to");
    app.add_flag("--review", o.review, "train the second judgement; the first is the one built in");
    app.add_option("--megapixels", o.megapixels, "photographs are reduced to this");
    app.add_option("--trees", o.boost.trees, "trees a model");
    app.add_option("--depth", o.boost.depth, "levels a tree");
    app.add_option("--rate", o.boost.rate, "learning rate");
    CLI11_PARSE(app, argc, argv);
    const auto done = run(o);
    if (!done) fmt::print(stderr, "gqtrain: {}\n", done.error().message());
    return done ? 0 : 1;
}
