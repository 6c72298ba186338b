#include "core/files/big_tiff.h"

#include <tiffio.h>

#include <array>
#include <cmath>
#include <fstream>
#include <memory>
#include <string>

namespace gq::files {
namespace {

using Tiff = std::unique_ptr<TIFF, decltype(&TIFFClose)>;

struct Known {
    uint32_t tag;
    const char* key;
};

constexpr std::array<Known, 6> kTexts{{{TIFFTAG_MAKE, "Exif.Image.Make"},
                                       {TIFFTAG_MODEL, "Exif.Image.Model"},
                                       {TIFFTAG_DATETIME, "Exif.Image.DateTime"},
                                       {TIFFTAG_ARTIST, "Exif.Image.Artist"},
                                       {TIFFTAG_COPYRIGHT, "Exif.Image.Copyright"},
                                       {TIFFTAG_IMAGEDESCRIPTION, "Exif.Image.ImageDescription"}}};
constexpr std::array<Known, 2> kNumbers{{{TIFFTAG_ORIENTATION, "Exif.Image.Orientation"},
                                         {TIFFTAG_RESOLUTIONUNIT, "Exif.Image.ResolutionUnit"}}};
constexpr std::array<Known, 2> kResolutions{{{TIFFTAG_XRESOLUTION, "Exif.Image.XResolution"},
                                             {TIFFTAG_YRESOLUTION, "Exif.Image.YResolution"}}};
constexpr std::array<Known, 3> kExposures{{{EXIFTAG_FNUMBER, "Exif.Photo.FNumber"},
                                           {EXIFTAG_EXPOSURETIME, "Exif.Photo.ExposureTime"},
                                           {EXIFTAG_FOCALLENGTH, "Exif.Photo.FocalLength"}}};

void addText(TIFF* t, const Known& known, Exiv2::ExifData& exif) {
    const char* text = nullptr;
    if (TIFFGetField(t, known.tag, &text) && text) exif[known.key] = std::string(text);
}

/// Keeps a number that a damaged file may have made anything of.
void addRatio(double value, const char* key, Exiv2::ExifData& exif) {
    constexpr uint32_t kPart = 10000;
    constexpr double kLeast = 1e-5, kMost = 1e5;
    if (!(value >= kLeast && value <= kMost)) return;
    // Exposures under a tenth of a second are told by their inverse.
    exif[key] = value < 0.1 ? Exiv2::URational(kPart, uint32_t(std::lround(kPart / value)))
                            : Exiv2::URational(uint32_t(std::lround(kPart * value)), kPart);
}

void addExposure(TIFF* t, Exiv2::ExifData& exif) {
    toff_t place = 0;
    if (!TIFFGetField(t, TIFFTAG_EXIFIFD, &place) || !TIFFReadEXIFDirectory(t, place)) return;
    addText(t, {EXIFTAG_DATETIMEORIGINAL, "Exif.Photo.DateTimeOriginal"}, exif);
    for (const auto& known : kExposures) {
        // The library keeps these as float or as double; it says which.
        const TIFFField* field = TIFFFindField(t, known.tag, TIFF_ANY);
        float single = 0;
        double full = 0;
        if (field && TIFFFieldSetGetSize(field) == int(sizeof(double))) {
            if (TIFFGetField(t, known.tag, &full)) addRatio(full, known.key, exif);
        } else if (TIFFGetField(t, known.tag, &single)) {
            addRatio(double(single), known.key, exif);
        }
    }
}

}  // namespace

bool isBigTiff(const std::filesystem::path& file) {
    std::array<char, 4> head{};
    std::ifstream(file, std::ios::binary).read(head.data(), head.size());
    const std::string start(head.data(), head.size());
    return start == std::string("II+\0", 4) || start == std::string("MM\0+", 4);
}

Tags bigTiffTags(const std::filesystem::path& file) {
    Tags out;
    const Tiff opened(TIFFOpen(file.c_str(), "r"), &TIFFClose);
    TIFF* t = opened.get();
    if (!t) return out;
    for (const auto& known : kTexts) addText(t, known, out.exif);
    for (const auto& known : kNumbers)
        if (uint16_t number = 0; TIFFGetField(t, known.tag, &number)) out.exif[known.key] = number;
    for (const auto& known : kResolutions)
        if (float number = 0; TIFFGetField(t, known.tag, &number))
            addRatio(double(number), known.key, out.exif);
    uint32_t size = 0;
    void* bytes = nullptr;
    if (TIFFGetField(t, TIFFTAG_XMLPACKET, &size, &bytes))
        Exiv2::XmpParser::decode(out.xmp, std::string(static_cast<char*>(bytes), size));
    addExposure(t, out.exif);
    return out;
}

}  // namespace gq::files
