#include "tools/train/boost.h"

#include <fmt/core.h>
#include <xgboost/c_api.h>

#include <memory>
#include <nlohmann/json.hpp>

namespace gq::train {
namespace {

using nlohmann::json;

struct Library {
    DMatrixHandle matrix = nullptr;
    BoosterHandle booster = nullptr;
    ~Library() {
        if (booster) XGBoosterFree(booster);
        if (matrix) XGDMatrixFree(matrix);
    }
};

/// Four digits are enough and keep the file small.
double brief(double v) {
    return std::stod(fmt::format("{:.4g}", v));
}

/// A dumped tree as a complete one: a leaf above the bottom fills all leaves below it.
void complete(const json& node, size_t at, int depthLeft, json& tree) {
    const size_t inner = tree["split"].size();
    if (depthLeft == 0) {
        tree["leaf"][at - inner] = brief(double(node.at("leaf")));
        return;
    }
    const bool leaf = node.contains("leaf");
    if (!leaf) {
        tree["split"][at] = std::stoi(node.at("split").get<std::string>().substr(1));
        tree["at"][at] = brief(double(node.at("split_condition")));
    }
    const auto child = [&](const char* way) -> const json& {
        if (leaf) return node;
        for (const auto& c : node.at("children"))
            if (c.at("nodeid") == node.at(way)) return c;
        return node;
    };
    complete(child("yes"), 2 * at + 1, depthLeft - 1, tree);
    complete(child("no"), 2 * at + 2, depthLeft - 1, tree);
}

json completed(const char* dumped, int depth) {
    const size_t leaves = size_t(1) << depth;
    json tree{{"split", std::vector<int>(leaves - 1, 0)},
              {"at", std::vector<double>(leaves - 1, 0)},
              {"leaf", std::vector<double>(leaves, 0)}};
    complete(json::parse(dumped), 0, depth, tree);
    return tree;
}

}  // namespace

Result<std::string> boost(const Samples& samples, const BoostSettings& s) {
    Library lib;
    bool fine = true;
    const auto check = [&](int code) { fine = fine && code == 0; };
    const auto rows = bst_ulong(samples.labels.size());
    check(
        XGDMatrixCreateFromMat(samples.features.data(), rows, samples.width, -1e30f, &lib.matrix));
    check(XGDMatrixSetFloatInfo(lib.matrix, "label", samples.labels.data(), rows));
    check(XGBoosterCreate(&lib.matrix, 1, &lib.booster));
    const std::pair<const char*, std::string> settings[]{{"objective", "binary:logistic"},
                                                         {"tree_method", "hist"},
                                                         {"max_depth", std::to_string(s.depth)},
                                                         {"eta", std::to_string(s.rate)},
                                                         {"subsample", "0.4"},
                                                         {"max_bin", "64"},
                                                         {"colsample_bytree", "0.5"},
                                                         {"lambda", "3"},
                                                         {"min_child_weight", "6"},
                                                         {"seed", std::to_string(s.seed)},
                                                         {"base_score", "0.5"}};
    for (const auto& [name, value] : settings)
        check(XGBoosterSetParam(lib.booster, name, value.c_str()));
    for (int i = 0; i < s.trees && fine; ++i)
        check(XGBoosterUpdateOneIter(lib.booster, i, lib.matrix));
    bst_ulong count = 0;
    const char** dumps = nullptr;
    if (fine) check(XGBoosterDumpModelEx(lib.booster, "", 0, "json", &count, &dumps));
    if (!fine) return fail(Error::Kind::BadSetting, XGBGetLastError());
    json out{{"features", samples.width}, {"depth", s.depth}, {"trees", json::array()}};
    for (bst_ulong i = 0; i < count; ++i) out["trees"].push_back(completed(dumps[i], s.depth));
    return out.dump();
}

}  // namespace gq::train
