#include "tools/accuracy/photographs.h"

#include <cmath>
#include <opencv2/imgproc.hpp>
#include <string_view>

#include "core/files/picture_reader.h"

namespace gq::accuracy {
namespace {

struct Group {
    const char *before, *after;
    std::vector<const char*> names, aside;
};

const std::vector<Group>& groups() {
    static const std::vector<Group> all{
        {"/usr/share/backgrounds/mate/nature/",
         ".jpg",
         {"Aqua", "Blinds", "Dune", "FreshFlower", "Garden", "RainDrops", "TwoWings", "Wood",
          "YellowFlower"},
         {"GreenMeadow", "LadyBird", "Storm"}},
        {"/usr/share/backgrounds/mate/abstract/", ".jpg", {"Elephants_3840x2160"}, {}},
        {"/usr/share/wallpapers/",
         "/contents/images/2560x1600.jpg",
         {"Autumn", "BytheWater", "ColorfulCups", "DarkestHour", "Grey", "OneStandsOut", "Path",
          "summer_1am"},
         {"ColdRipple", "EveningGlow", "FallenLeaf", "Kite"}},
        {"/usr/lib/python3/dist-packages/skimage/data/", ".jpg", {"retina", "rocket"}, {}},
        {"/usr/share/backgrounds/",
         ".jpg",
         {"2004default", "firstgeneration", "rhythm", "string"},
         {}},
        {"/usr/share/wallpapers/", "/contents/images/3840x2160.png", {"Canopee"}, {}},
        {"/usr/share/wallpapers/", "/contents/images/5120x2880.png", {"IceCold", "Patak"}, {}},
        {"/usr/share/wallpapers/", "/contents/images/5120x2880.jpg", {"SafeLanding"}, {}},
        {"/usr/lib/python3/dist-packages/skimage/data/",
         ".png",
         {"astronaut", "camera", "chelsea", "coins", "grass", "gravel", "ihc", "moon",
          "motorcycle_left", "motorcycle_right", "page"},
         {"brick", "coffee"}},
    };
    return all;
}

bool isFilmOnly(std::string_view name) {
    for (const char* one : {"firstgeneration", "Canopee", "IceCold", "Patak", "SafeLanding", "ihc",
                            "motorcycle_right", "page"})
        if (name == one) return true;
    return false;
}

}  // namespace

std::vector<Photograph> photographs() {
    std::vector<Photograph> out;
    for (const auto& g : groups())
        for (const bool aside : {false, true})
            for (const char* name : aside ? g.aside : g.names) {
                const std::filesystem::path file = std::string(g.before) + name + g.after;
                if (std::filesystem::exists(file))
                    out.push_back({name, file, aside, isFilmOnly(name)});
            }
    return out;
}

Result<Picture> load(const Photograph& photograph, double megapixels) {
    auto loaded = files::readPicture(photograph.file);
    if (!loaded) return tl::unexpected(loaded.error());
    Picture out = loaded->picture;
    const double scale = std::sqrt(megapixels / out.megapixels());
    if (scale < 1) {
        Image small;
        cv::resize(out.pixels, small, {}, scale, scale, cv::INTER_AREA);
        out.pixels = small;
    }
    return out;
}

Image monochrome(const Image& pixels) {
    if (pixels.channels() == 1) return pixels;
    Image out;
    cv::transform(pixels, out, cv::Matx13f(0.3333f, 0.3334f, 0.3333f));
    return out;
}

}  // namespace gq::accuracy
