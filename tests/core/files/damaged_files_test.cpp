// Damaged pictures and documents: each is read or refused with a word about it, nothing else.
#include <gtest/gtest.h>

#include <fstream>
#include <functional>
#include <random>

#include "core/carry/chart_file.h"
#include "core/files/metadata.h"
#include "core/files/picture_reader.h"
#include "core/files/raw_mosaic.h"
#include "core/series/history_file.h"
#include "core/series/series_folder.h"
#include "sim/dng_writer.h"
#include "sim/photo.h"
#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq {
namespace {

namespace fs = std::filesystem;
using testkit::bytesOf;

/// Cuts off, flips bits, overwrites, doubles or takes out a piece.
std::string damaged(std::string bytes, std::mt19937& dice) {
    const auto below = [&](size_t n) { return size_t(dice()) % std::max<size_t>(n, 1); };
    // Most harm is done in the head, where the structure is.
    const auto place = [&] {
        return below(dice() % 3 ? std::min<size_t>(bytes.size(), 600) : bytes.size());
    };
    switch (dice() % 5) {
        case 0:
            bytes.resize(below(bytes.size()));
            break;
        case 1:
            for (int i = 0; i < 8; ++i) bytes[place()] ^= char(1 << dice() % 8);
            break;
        case 2:
            bytes.replace(place(), 4, 4, char(dice()));
            break;
        case 3:
            bytes.insert(place(), bytes.substr(place(), below(200)));
            break;
        default:
            bytes.erase(place(), below(200));
    }
    return bytes;
}

class DamagedFiles : public testing::Test {
  protected:
    /// Reads `file` in `times` damaged states; `read` gives an error's words, or none.
    void harm(const fs::path& file, int times,
              const std::function<std::optional<Error>(const fs::path&)>& read) {
        const std::string whole = bytesOf(file);
        ASSERT_FALSE(read(file)) << file << " is readable at first";
        std::mt19937 dice(11);
        int refused = 0;
        for (int i = 0; i < times; ++i) {
            std::ofstream(file, std::ios::binary) << damaged(whole, dice);
            const auto error = read(file);
            if (!error) continue;
            ++refused;
            EXPECT_FALSE(error->what.empty());
            EXPECT_NE(error->message().find(file.filename().string()), std::string::npos)
                << "names the file: " << error->message();
        }
        EXPECT_GT(refused, times / 20) << "most of such harm is told";
        std::ofstream(file, std::ios::binary) << whole;
    }
    static std::optional<Error> readAsPicture(const fs::path& file) {
        const auto read = files::readPicture(file);
        if (!read) return read.error();
        EXPECT_FALSE(read->picture.empty());
        return std::nullopt;
    }
    const Image picture = testkit::sky({160, 120});
    testkit::Scratch dir;
};

TEST_F(DamagedFiles, JpegsAreReadOrRefused) {
    testkit::write(dir / "a.jpg", picture, 8);
    harm(dir / "a.jpg", 300, readAsPicture);
}

TEST_F(DamagedFiles, PngsAreReadOrRefused) {
    testkit::write(dir / "a.png", picture, 16);
    harm(dir / "a.png", 300, readAsPicture);
}

TEST_F(DamagedFiles, TiffsAreReadOrRefused) {
    testkit::write(dir / "a.tif", picture, 16);
    harm(dir / "a.tif", 300, readAsPicture);
}

TEST_F(DamagedFiles, RawMosaicsAreReadOrRefused) {
    const ImageF light(Size(128, 96), CV_32FC3, cv::Scalar::all(0.4));
    const ImageF gain(light.size(), CV_32F, cv::Scalar(1));
    for (const bool lossless : {false, true}) {
        ASSERT_TRUE(sim::writeDng(dir / "a.dng", sim::mosaic(light, gain, {}), "Make", "Model",
                                  Orientation::Upright, {.lossless = lossless}));
        harm(dir / "a.dng", 150, [&](const fs::path& file) -> std::optional<Error> {
            const ImageF share(Size(20, 20), CV_32F, cv::Scalar(-0.2));
            fs::remove(dir / "out.dng");
            const auto dim = [](Image& preview) {
                preview = preview * 0.5;
                return true;
            };
            const auto done = files::writeUnshadedDng(file, dir / "out.dng",
                                                      {{{30, 20, 20, 20}, share}}, false, dim);
            EXPECT_EQ(fs::exists(dir / "out.dng"), bool(done)) << "nothing is half written";
            return done ? std::nullopt : std::optional(done.error());
        });
    }
}

TEST_F(DamagedFiles, ChartsAreReadOrRefused) {
    carry::DustChart chart;
    chart.camera = "Sandpiper Test";
    chart.sensor = {600, 400};
    chart.frames = 5;
    for (int i = 0; i < 6; ++i) {
        carry::ChartSpot spot;
        spot.region = disc({100.0f + 60 * float(i), 200}, 9, chart.sensor);
        spot.depth = 0.2f;
        spot.frames = 4;
        spot.score = 8;
        chart.spots.push_back(spot);
    }
    std::ofstream(dir / "dust.json") << carry::chartText(chart);
    harm(dir / "dust.json", 400, [](const fs::path& file) -> std::optional<Error> {
        const auto read = carry::loadChart(file);
        if (!read) return read.error();
        for (const auto& s : read->spots) {
            EXPECT_EQ(s.region.mask.size(), s.region.box.size());
            EXPECT_EQ(s.region.box & Rect({0, 0}, read->sensor), s.region.box);
        }
        return std::nullopt;
    });
}

TEST_F(DamagedFiles, SeriesAreReadOrRefusedAndHistoriesLeftOut) {
    testkit::write(dir / "a.jpg", picture, 8);
    std::vector<Error> faults;
    series::History history(series::makeSeries({dir / "a.jpg"}, "s", faults));
    for (int i = 0; i < 5; ++i) {
        series::Series s = *history.now();
        series::Frame f = *s.frames[0];
        f.mends.push_back({s.nextId++, {disc({20.0f + 20 * float(i), 60}, 8, {160, 120})}});
        history.commit(s.with(f), "mend");
    }
    const auto folder = dir / "gentle-quill";
    ASSERT_TRUE(series::saveSeries(folder, *history.now()));
    ASSERT_TRUE(series::saveHistory(folder, history, 1));
    const auto read = [&](const fs::path&) -> std::optional<Error> {
        const auto loaded = series::loadSeries(folder);
        if (!loaded) return loaded.error();
        for (const auto& f : loaded->frames)
            for (const auto& m : f->mends) EXPECT_FALSE(m.mend.region.empty());
        return std::nullopt;
    };
    std::vector<fs::path> documents, steps;
    for (const auto& entry : fs::recursive_directory_iterator(folder))
        if (entry.path().extension() == ".json")
            (entry.path().parent_path().filename() == "history" ? steps : documents)
                .push_back(entry.path());
    ASSERT_GE(documents.size(), 2u);
    for (const auto& file : documents) harm(file, 200, read);
    ASSERT_FALSE(steps.empty());
    std::mt19937 dice(3);
    for (const auto& file : steps) {
        const std::string whole = bytesOf(file);
        for (int i = 0; i < 60; ++i) {
            std::ofstream(file, std::ios::binary) << damaged(whole, dice);
            const auto kept = series::loadHistory(folder, *history.now());
            EXPECT_EQ(kept.now()->frames[0]->mends.size(), 5u) << "the present is never lost";
        }
        std::ofstream(file, std::ios::binary) << whole;
    }
}

}  // namespace
}  // namespace gq
