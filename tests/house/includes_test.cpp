// The include rule: who may include whom (docs/architecture.md).
#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>
#include <map>
#include <regex>
#include <set>

namespace {
namespace fs = std::filesystem;

const std::map<std::string, std::set<std::string>> kMay{
    {"core/pixels", {}},
    {"core/files", {"core/pixels"}},
    {"core/film", {"core/pixels"}},
    {"core/find", {"core/pixels"}},
    {"core/mend", {"core/pixels"}},
    {"core/series", {"core/pixels", "core/files", "core/film", "core/find", "core/mend"}},
    {"core/carry", {"core/series", "core/find", "core/mend", "core/pixels"}},
    {"core/merge", {"core/pixels"}},
    {"core/render",
     {"core/merge", "core/pixels", "core/files", "core/find", "core/mend", "core/series",
      "core/carry", "core/film"}},
    {"sim", {"core/pixels", "core/files"}},
    {"tools", {"core/pixels", "core/files", "core/find", "sim"}},
    {"cli",
     {"core/pixels", "core/files", "core/find", "core/mend", "core/series", "core/carry",
      "core/render", "core/film", "core/merge"}},
    {"desk",
     {"core/pixels", "core/files", "core/find", "core/mend", "core/series", "core/carry",
      "core/render", "core/film", "core/merge"}}};

std::string partOf(const std::string& path) {
    for (const auto& [part, may] : kMay)
        if (path.starts_with(part + "/")) return part;
    return {};
}

struct Include {
    std::string file, target;
    bool system;
};

std::vector<Include> includes() {
    std::vector<Include> out;
    const std::regex line(R"(^\s*#include\s*([<"])([^>"]+)[>"])");
    for (const char* top : {"core", "sim", "tools", "cli", "desk"})
        for (const auto& e : fs::recursive_directory_iterator(fs::path(GQ_SOURCE_DIR) / top)) {
            if (e.path().extension() != ".h" && e.path().extension() != ".cpp") continue;
            std::ifstream in(e.path());
            for (std::string text; std::getline(in, text);)
                if (std::smatch m; std::regex_search(text, m, line))
                    out.push_back(
                        {e.path().lexically_relative(GQ_SOURCE_DIR).string(), m[2], m[1] == "<"});
        }
    return out;
}

TEST(Includes, FollowTheArrowsBetweenParts) {
    int seen = 0;
    for (const auto& i : includes()) {
        const std::string from = partOf(i.file), to = partOf(i.target);
        if (to.empty() || i.system) continue;
        ++seen;
        EXPECT_TRUE(from == to || kMay.at(from).count(to)) << i.file << " includes " << i.target;
    }
    EXPECT_GT(seen, 200);
}

TEST(Includes, KeepQtOutOfTheCore) {
    for (const auto& i : includes()) {
        if (i.file.starts_with("desk/")) continue;
        EXPECT_FALSE(std::regex_search(i.target, std::regex("^Q[A-Z]|^Qt")))
            << i.file << " includes " << i.target;
    }
}

TEST(Includes, KeepFileLibrariesInOnePart) {
    const std::regex libraries("vips|libraw|exiv2");
    for (const auto& i : includes()) {
        if (!i.system || i.file.starts_with("core/files/")) continue;
        EXPECT_FALSE(std::regex_search(i.target, libraries)) << i.file << " includes " << i.target;
    }
}

}  // namespace
