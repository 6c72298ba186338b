#include "core/series/plane_json.h"

#include <charconv>
#include <cmath>

namespace gq::series {
namespace {

constexpr float kUnit = 1e-4f;
constexpr int kLargest = 1 << 13;

}  // namespace

nlohmann::json planeToJson(const Rect& box, const ImageF& plane) {
    std::string text;
    for (int y = 0; y < plane.rows; ++y)
        for (int x = 0; x < plane.cols; ++x) {
            if (!text.empty()) text += ',';
            text += std::to_string(std::lround(plane.at<float>(y, x) / kUnit));
        }
    return {{"box", {box.x, box.y, box.width, box.height}}, {"values", text}};
}

Result<PlacedPlane> planeFromJson(const nlohmann::json& j) {
    const auto bad = [] {
        return fail(Error::Kind::Unreadable, "a plane's values do not fit its box");
    };
    const auto& b = j.at("box");
    PlacedPlane out{{b[0].get<int>(), b[1].get<int>(), b[2].get<int>(), b[3].get<int>()}, {}};
    if (out.box.width <= 0 || out.box.height <= 0 || out.box.width > kLargest ||
        out.box.height > kLargest)
        return bad();
    const auto text = j.at("values").get<std::string>();
    if (text.size() < size_t(out.box.area())) return bad();
    out.plane.create(out.box.size(), CV_32F);
    const char *p = text.data(), *end = p + text.size();
    for (size_t i = 0; i < out.plane.total(); ++i) {
        int value = 0;
        const auto [next, code] = std::from_chars(p, end, value);
        const bool last = i + 1 == out.plane.total();
        if (code != std::errc{} || (last ? next != end : next == end || *next != ',')) return bad();
        out.plane.ptr<float>()[i] = float(value) * kUnit;
        p = next + 1;
    }
    return out;
}

}  // namespace gq::series
