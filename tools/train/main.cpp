// Trains the weights that tell blemishes from picture detail.
#include <fmt/core.h>

#include <CLI/CLI.hpp>
#include <array>
#include <cmath>
#include <fstream>
#include <opencv2/imgproc.hpp>

#include "core/files/safe_write.h"
#include "sim/photo.h"
#include "sim/scene.h"
#include "tools/accuracy/photographs.h"
#include "tools/train/boost.h"
#include "tools/train/samples.h"

namespace {

using namespace gq;

constexpr std::array<train::Subject, 4> kSubjects{{
    {"sensor", "", "sensor", 2, 17, 9, find::Origin::Sensor, sim::Medium::Sensor},
    {"light", "film", "scan", 2, 8, 6, find::Origin::Negative, sim::Medium::Negative},
    {"dark", "film", "scan", 2, 8, 6, find::Origin::Positive, sim::Medium::Positive},
    {"print", "print", "scan", 3, 10, 7, find::Origin::Print, sim::Medium::Print},
}};

struct Options {
    std::string folder = "core/find/weights", only, work;
    bool review = false;
    train::BoostSettings boost;
};

/// A picture to learn from and its half. The second judgement has to learn from what a first one
/// says of pictures that it was not trained on, as those in use are (Wolpert, Stacked
/// generalization, 1992): two first judgements are trained on a half each, and judge the other.
struct Example {
    Image pixels;
    int half;
};
using Examples = std::vector<Example>;
constexpr int kHalves = 2;

std::filesystem::path halfFile(const Options& o, const char* name, int half, const char* ending) {
    return std::filesystem::path(o.work) / fmt::format("{}.{}.{}", name, half, ending);
}

/// How often every picture is worn and by which seeds: `number` keeps the models' wear apart.
struct Round {
    int number, variants;
    bool harm = false;  ///< as of sim::WearPlan
};

/// A larger picture at so many megapixels.
Image reduced(const Image& picture, double megapixels) {
    const double scale = std::sqrt(megapixels * 1e6 / double(picture.total()));
    if (scale >= 1) return picture;
    Image out;
    cv::resize(picture, out, {}, scale, scale, cv::INTER_AREA);
    return out;
}

/// Every picture as often as a round says, in the subject's size: `study` gets it with a seed and
/// its half, two at a time; what it gives goes to `use`, with the half, in order.
template <class Study, class Use>
void forSeeded(const train::Subject& subject, const Round& round, const Examples& pictures,
               Study study, Use use) {
    const auto pictureOf = [&](int i) -> const Example& {
        return pictures[size_t(i / round.variants)];
    };
    inOrder(
        int(pictures.size()) * round.variants,
        [&](int i) {
            const auto seed = hash32(std::uint32_t(subject.medium) + 100, i / round.variants,
                                     i % round.variants + 1000 * round.number);
            const auto& [picture, half] = pictureOf(i);
            return study(reduced(picture, subject.megapixels), seed, half);
        },
        [&](int i, const auto& seen) { use(seen, pictureOf(i).half); });
}

/// The same for pictures worn at random.
template <class Study, class Use>
void forWorn(const train::Subject& subject, const Round& round, const Examples& pictures,
             Study study, Use use) {
    const auto worn = [&](const Image& clean, std::uint32_t seed, int half) {
        return study(train::wornAtRandom(clean, subject.medium, seed, round.harm), half);
    };
    forSeeded(subject, round, pictures, worn, use);
}

/// Own landscapes, of other seeds than the demo's: skies and seas that the photographs lack.
Examples renders() {
    Examples out;
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
        out.push_back({widen(picture), i % kHalves});
    }
    return out;
}

/// Boosts trees on labelled samples and writes them.
Status writeBoosted(const std::filesystem::path& file, const train::Samples& samples,
                    const train::BoostSettings& settings) {
    fmt::print("{}: {} candidates\n", file.stem().string(), samples.labels.size());
    std::fflush(stdout);
    const auto weights = train::boost(samples, settings);
    if (!weights) return tl::unexpected(weights.error());
    return files::writeTextSafely(file, *weights + "\n");
}

std::filesystem::path weightsFile(const Options& o, const std::string& name) {
    return std::filesystem::path(o.folder) / (name + ".json");
}

/// The trees of islands and of long lines, which light and dark marks share.
Status trainPlaces(const std::string& places, const Options& o, const Examples& pictures) {
    struct Places {
        train::Samples islands, lines;
    } all;
    for (const auto& subject : kSubjects)
        if (subject.places == places)
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
        if (auto done = writeBoosted(weightsFile(o, places + name), *samples, small); !done)
            return done;
    return {};
}

/// The trees of stains.
Status trainStains(const Options& o, const Examples& pictures) {
    train::Samples samples;
    forSeeded(
        kSubjects.back(), {4, 10}, pictures,
        [](const Image& clean, std::uint32_t seed, int) {
            return train::stainSamplesOf(train::stainedAtRandom(clean, seed));
        },
        [&](const train::Samples& some, int) { samples.add(some); });
    return writeBoosted(weightsFile(o, "print_stains"), samples, {.trees = 120, .depth = 3});
}

/// What a half's training wrote, trees and network.
Result<train::FirstJudge> firstJudge(const train::Subject& subject, const Options& o, int half) {
    const auto trees = files::readText(halfFile(o, subject.name, half, "json"));
    if (!trees) return tl::unexpected(trees.error());
    auto forest = find::Forest::read(*trees);
    if (!forest) return tl::unexpected(forest.error());
    const auto network = files::readText(halfFile(o, subject.network, half, "onnx"));
    if (!network) return tl::unexpected(network.error());
    return train::FirstJudge{std::move(*forest), {network->begin(), network->end()}};
}

/// The second judgement's trees, by the halves' first ones.
Status trainReview(const train::Subject& subject, const Options& o, const Examples& pictures) {
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
    return writeBoosted(weightsFile(o, std::string(subject.name) + "_review"), samples, o.boost);
}

/// Tells what is worth a look while the first judgement's own trees are not grown yet.
Result<find::Forest> scoutOf(const train::Subject& subject, const Examples& pictures) {
    train::Samples samples;
    forWorn(
        subject, {0, 2}, pictures,
        [&](const sim::Worn& worn, int) {
            return train::lessonOf(worn, subject.origin, nullptr).samples;
        },
        [&](const train::Samples& some, int) { samples.add(some); });
    const auto trees = train::boost(samples, {.trees = 160, .rate = 0.2});
    if (!trees) return tl::unexpected(trees.error());
    return find::Forest::read(*trees);
}

/// For look.py: a byte for the label, then the planes.
void write(const train::Looks& looks, std::ofstream& out) {
    for (size_t i = 0; i < looks.looks.size(); ++i) {
        out.put(char(looks.labels[i]));
        out.write(reinterpret_cast<const char*>(looks.looks[i].data()),
                  std::streamsize(looks.looks[i].size()));
    }
}

/// Writes the trees of all pictures and of each half, and the looks of the halves.
Status trainFirst(const train::Subject& subject, const Options& o, const Examples& pictures) {
    const auto scout = scoutOf(subject, pictures);
    if (!scout) return tl::unexpected(scout.error());
    std::array<train::Samples, kHalves> samples;
    std::array<std::ofstream, kHalves> looks;
    for (int half = 0; half < kHalves; ++half)
        looks[size_t(half)].open(halfFile(o, subject.name, half, "looks"), std::ios::binary);
    forWorn(
        subject, {1, subject.variants}, pictures,
        [&](const sim::Worn& worn, int) { return train::lessonOf(worn, subject.origin, &*scout); },
        [&](const train::Lesson& lesson, int half) {
            samples[size_t(half)].add(lesson.samples);
            write(lesson.looks, looks[size_t(half)]);
        });
    for (auto& file : looks)
        if (!file.flush())
            return fail(Error::Kind::NoPermission, "the looks could not be written", o.work);
    for (int half = 0; half < kHalves; ++half)
        if (auto done = writeBoosted(halfFile(o, subject.name, half, "json"), samples[size_t(half)],
                                     o.boost);
            !done)
            return done;
    samples[0].add(samples[1]);
    return writeBoosted(weightsFile(o, subject.name), samples[0], o.boost);
}

Status run(const Options& o) {
    Examples all = renders(), common = all;
    int half = 0;
    double most = 0;
    for (const auto& s : kSubjects) most = std::max(most, s.megapixels);
    std::string before;
    for (const auto& p : accuracy::photographs()) {
        if (p.aside) continue;
        auto picture = accuracy::load(p, most);
        if (!picture) return tl::unexpected(picture.error());
        // Two views of one thing (NAME_left, NAME_right) stay together.
        const std::string thing = p.name.substr(0, p.name.find('_'));
        if (thing != before) half = (half + 1) % kHalves;
        before = thing;
        all.push_back({picture->pixels, half});
        if (!p.filmOnly) common.push_back(all.back());
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
        if (auto done =
                o.review ? trainReview(subject, o, pictures) : trainFirst(subject, o, pictures);
            !done)
            return done;
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
    app.add_option("--trees", o.boost.trees, "trees a model");
    app.add_option("--depth", o.boost.depth, "levels a tree");
    app.add_option("--rate", o.boost.rate, "learning rate");
    CLI11_PARSE(app, argc, argv);
    const auto done = run(o);
    if (!done) fmt::print(stderr, "gqtrain: {}\n", done.error().message());
    return done ? 0 : 1;
}
