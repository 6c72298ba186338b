#include "core/files/folder_scan.h"

#include <algorithm>
#include <array>
#include <map>
#include <set>
#include <string>
#include <string_view>

namespace gq::files {
namespace fs = std::filesystem;
namespace {

std::string lowerSuffix(const fs::path& file) {
    std::string s = file.extension().string();
    std::transform(s.begin(), s.end(), s.begin(),
                   [](unsigned char c) { return char(std::tolower(c)); });
    return s;
}

template <size_t N>
bool oneOf(const std::string& suffix, const std::array<std::string_view, N>& list) {
    return std::find(list.begin(), list.end(), suffix) != list.end();
}

}  // namespace

bool looksRaw(const fs::path& file) {
    static constexpr std::array<std::string_view, 12> raw{".dng", ".arw", ".cr2", ".cr3",
                                                          ".nef", ".orf", ".raf", ".rw2",
                                                          ".pef", ".srw", ".raw", ".3fr"};
    return oneOf(lowerSuffix(file), raw);
}

fs::path rawBeside(const fs::path& file) {
    if (looksRaw(file)) return {};
    std::error_code code;
    for (const auto& entry : fs::directory_iterator(file.parent_path(), code))
        if (looksRaw(entry.path()) && entry.path().stem() == file.stem()) return entry.path();
    return {};
}

bool looksLikePicture(const fs::path& file) {
    static constexpr std::array<std::string_view, 5> raster{".jpg", ".jpeg", ".png", ".tif",
                                                            ".tiff"};
    return oneOf(lowerSuffix(file), raster) || looksRaw(file);
}

std::vector<size_t> firstOfSame(const std::vector<fs::path>& paths) {
    std::map<fs::path, size_t> firsts;
    std::vector<size_t> out;
    std::error_code code;
    for (size_t i = 0; i < paths.size(); ++i)
        out.push_back(firsts.try_emplace(fs::weakly_canonical(paths[i], code), i).first->second);
    return out;
}

std::vector<fs::path> pictureFiles(const std::vector<fs::path>& paths) {
    std::vector<fs::path> found;
    for (const auto& path : paths) {
        std::error_code code;
        if (!fs::is_directory(path, code)) {
            found.push_back(path);
            continue;
        }
        std::vector<fs::path> inside;
        for (const auto& entry : fs::directory_iterator(path, code))
            if (entry.is_regular_file(code) && looksLikePicture(entry.path()) &&
                entry.path().filename().string().front() != '.')
                inside.push_back(entry.path());
        std::sort(inside.begin(), inside.end());
        std::set<fs::path> developed;
        for (const auto& f : inside)
            if (!looksRaw(f)) developed.insert(fs::path(f).replace_extension());
        for (auto& f : inside)
            if (!looksRaw(f) || !developed.count(fs::path(f).replace_extension()))
                found.push_back(std::move(f));
    }
    const auto firsts = firstOfSame(found);
    std::vector<fs::path> out;
    for (size_t i = 0; i < found.size(); ++i)
        if (firsts[i] == i) out.push_back(std::move(found[i]));
    return out;
}

}  // namespace gq::files
