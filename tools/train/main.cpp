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
    std::string folder = "core/find/weights", only, work;
    double megapixels = 3;
    bool review = false;
    train::BoostSettings boost;
};

/// Each photograph's half. The second judgement has to learn from what a first one says of pictures
/// that it was not trained on, as those in use are (Wolpert, Stacked generalization, 1992): two
/// first judgements are trained on a half each, and judge the other.
constexpr int kHalves = 2;
int halfOf(size_t picture) {
    return int(picture) % kHalves;
}

std::filesystem::path halfFile(const Options& o, const char* name, int half, const char* ending) {
    return std::filesystem::path(o.work) / fmt::format("{}.{}.{}", name, half, ending);
}

/// How often every picture is worn and by which seeds: `number` keeps the models' wear apart.
struct Round {
    int number, variants;
    bool harm = false;  ///< as of sim::WearPlan
};

/// Every picture as often as a round says: `study` gets it with a seed and its half, in order; what
/// it gives goes to `use`, with the half.
template <class Study, class Use>
void forSeeded(const train::Subject& subject, const Round& round,
               const std::vector<Picture>& pictures, Study study, Use use) {
    for (size_t i = 0; i < pictures.size(); ++i) {
        using Seen = std::invoke_result_t<Study, const Image&, std::uint32_t, int>;
        std::vector<Seen> seen(size_t(round.variants), Seen{});
        forEach(round.variants, [&](int v) {
            const auto seed =
                hash32(std::uint32_t(subject.medium) + 100, int(i), v + 1000 * round.number);
            seen[size_t(v)] = study(pictures[i].pixels, seed, halfOf(i));
        });
        for (const auto& one : seen) use(one, halfOf(i));
    }
}

/// The same for pictures worn at random.
template <class Study, class Use>
void forWorn(const train::Subject& subject, const Round& round,
             const std::vector<Picture>& pictures, Study study, Use use) {
    const auto worn = [&](const Image& clean, std::uint32_t seed, int half) {
        return study(train::wornAtRandom(clean, subject.medium, seed, round.harm), half);
    };
    forSeeded(subject, round, pictures, worn, use);
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
Result<std::string> boosted(const std::filesystem::path& file, const train::Samples& samples,
                            const train::BoostSettings& settings) {
    fmt::print("{}: {} candidates\n", file.stem().string(), samples.labels.size());
    std::fflush(stdout);
    auto weights = train::boost(samples, settings);
    if (!weights) return weights;
    if (auto done = files::writeTextSafely(file, *weights + "\n"); !done)
        return tl::unexpected(done.error());
    return weights;
}

std::filesystem::path weightsFile(const Options& o, const std::string& name) {
    return std::filesystem::path(o.folder) / (name + ".json");
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
                [&](const sim::Worn& worn, int) {
                    return Places{train::islandSamplesOf(worn, subject.origin),
                                  train::lineSamplesOf(worn, subject.origin)};
                },
                [&](const Places& some, int) {
                    all.islands.add(some.islands);
                    all.lines.add(some.lines);
                });
    const train::BoostSettings small{.trees = 120, .depth = 3};
    for (const auto& [name, samples] :
         {std::pair("_islands", &all.islands), {"_lines", &all.lines}})
        if (const auto done = boosted(weightsFile(o, look + name), *samples, small); !done)
            return tl::unexpected(done.error());
    return {};
}

/// The trees of stains.
Status trainStains(const Options& o, const std::vector<Picture>& pictures) {
    train::Samples samples;
    forSeeded(
        kSubjects.back(), {4, 10}, pictures,
        [](const Image& clean, std::uint32_t seed, int) {
            return train::stainSamplesOf(train::stainedAtRandom(clean, seed));
        },
        [&](const train::Samples& some, int) { samples.add(some); });
    const auto file = weightsFile(o, "print_stains");
    if (const auto done = boosted(file, samples, {.trees = 120, .depth = 3}); !done)
        return tl::unexpected(done.error());
    return {};
}

/// What a half's training wrote, trees and network.
Result<train::FirstJudge> firstJudge(const train::Subject& subject, const Options& o, int half) {
    const auto trees = files::readText(halfFile(o, subject.name, half, "json"));
    if (!trees) return tl::unexpected(trees.error());
    auto forest = find::Forest::read(*trees);
    if (!forest) return tl::unexpected(forest.error());
    const auto network = files::readText(halfFile(o, subject.look, half, "onnx"));
    if (!network) return tl::unexpected(network.error());
    return train::FirstJudge{std::move(*forest), {network->begin(), network->end()}};
}

/// The second judgement's trees, by the halves' first ones.
Status trainReview(const train::Subject& subject, const Options& o,
                   const std::vector<Picture>& pictures) {
    std::vector<train::FirstJudge> judges;
    for (int half = 0; half < kHalves; ++half) {
        auto judge = firstJudge(subject, o, half);
        if (!judge) return tl::unexpected(judge.error());
        judges.push_back(std::move(*judge));
    }
    train::Samples samples;
    forWorn(
        subject, {2, subject.reviewVariants}, pictures,
        [&](const sim::Worn& worn, int half) {
            return train::reviewSamplesOf(worn, subject.origin, judges[size_t(1 - half)]);
        },
        [&](const train::Samples& some, int) { samples.add(some); });
    const auto file = weightsFile(o, std::string(subject.name) + "_review");
    if (const auto done = boosted(file, samples, o.boost); !done)
        return tl::unexpected(done.error());
    return {};
}

/// Writes the trees of all pictures, which are returned, and of each half.
Result<find::Forest> trainForest(const train::Subject& subject, const Options& o,
                                 const std::vector<Picture>& pictures) {
    std::array<train::Samples, kHalves> samples;
    forWorn(
        subject, {0, subject.variants}, pictures,
        [&](const sim::Worn& worn, int) { return train::samplesOf(worn, subject.origin); },
        [&](const train::Samples& some, int half) { samples[size_t(half)].add(some); });
    for (int half = 0; half < kHalves; ++half)
        if (const auto done =
                boosted(halfFile(o, subject.name, half, "json"), samples[size_t(half)], o.boost);
            !done)
            return tl::unexpected(done.error());
    samples[0].add(samples[1]);
    const auto weights = boosted(weightsFile(o, subject.name), samples[0], o.boost);
    if (!weights) return tl::unexpected(weights.error());
    return find::Forest::read(*weights);
}

/// For look.py: a byte for the label, then the planes, added to the files of the halves.
Status addLooks(const train::Subject& subject, const Options& o, const find::Forest& forest,
                const std::vector<Picture>& pictures) {
    std::array<std::ofstream, kHalves> out;
    for (int half = 0; half < kHalves; ++half)
        out[size_t(half)].open(halfFile(o, subject.look, half, "bin"),
                               std::ios::binary | std::ios::app);
    size_t count = 0;
    forWorn(
        subject, {1, subject.lookVariants}, pictures,
        [&](const sim::Worn& worn, int) { return train::looksOf(worn, subject.origin, forest); },
        [&](const train::Looks& looks, int half) {
            for (size_t i = 0; i < looks.looks.size(); ++i) {
                out[size_t(half)].put(char(looks.labels[i]));
                out[size_t(half)].write(reinterpret_cast<const char*>(looks.looks[i].data()),
                                        std::streamsize(looks.looks[i].size()));
            }
            count += looks.looks.size();
        });
    fmt::print("{}: {} looks\n", subject.name, count);
    std::fflush(stdout);
    for (auto& file : out)
        if (!file.flush())
            return fail(Error::Kind::NoPermission, "the looks could not be written", o.work);
    return {};
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
    if (!o.review && (o.only.empty() || o.only == "stains"))
        if (auto done = trainStains(o, all); !done) return done;
    for (const auto& subject : kSubjects) {
        if (!o.only.empty() && o.only != subject.name) continue;
        const auto& pictures = train::isFilm(subject.medium) ? all : common;
        if (o.review) {
            if (auto done = trainReview(subject, o, pictures); !done) return done;
            continue;
        }
        const auto forest = trainForest(subject, o, pictures);
        if (!forest) return tl::unexpected(forest.error());
        if (auto done = addLooks(subject, o, *forest, pictures); !done) return done;
    }
    return {};
}

}  // namespace

int main(int argc, char** argv) {
    CLI::App app{"gqtrain: rebuilds core/find/weights from packaged photographs worn by seeds"};
    Options o;
    app.add_option("--folder", o.folder, "where the weights are written");
    app.add_option("--only", o.only, "one of sensor, light, dark, print, places, stains");
    app.add_option("--work", o.work, "folder for the looks that look.py reads, and for the halves")
        ->required();
    app.add_flag("--review", o.review, "train the second judgement, by what the halves' first say");
    app.add_option("--megapixels", o.megapixels, "photographs are reduced to this");
    app.add_option("--trees", o.boost.trees, "trees a model");
    app.add_option("--depth", o.boost.depth, "levels a tree");
    app.add_option("--rate", o.boost.rate, "learning rate");
    CLI11_PARSE(app, argc, argv);
    const auto done = run(o);
    if (!done) fmt::print(stderr, "gqtrain: {}\n", done.error().message());
    return done ? 0 : 1;
}
