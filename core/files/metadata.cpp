#include "core/files/metadata.h"

#include <fmt/core.h>

#include <cmath>
#include <exiv2/exiv2.hpp>
#include <mutex>
#include <set>

#include "core/files/big_tiff.h"

namespace gq::files {
namespace fs = std::filesystem;
namespace {

void startExiv2() {
    static std::once_flag once;
    std::call_once(once, [] {
        Exiv2::LogMsg::setLevel(Exiv2::LogMsg::mute);
        Exiv2::XmpParser::initialize();
    });
}

/// The library's XMP part is not made for several threads.
std::mutex& oneAtATime() {
    static std::mutex lock;
    return lock;
}

Exiv2::Image::AutoPtr open(const fs::path& file) {
    startExiv2();
    auto image = Exiv2::ImageFactory::open(file.string());
    image->readMetadata();
    return image;
}

/// What a file tells of its picture.
Tags tagsOf(const fs::path& file) {
    if (startExiv2(); isBigTiff(file)) return bigTiffTags(file);
    const auto image = open(file);
    return {image->exifData(), image->iptcData(), image->xmpData()};
}

double rational(const Exiv2::ExifData& exif, const char* key) {
    const auto it = exif.findKey(Exiv2::ExifKey(key));
    return it == exif.end() ? 0.0 : double(it->toFloat());
}

std::string text(const Exiv2::ExifData& exif, const char* key) {
    const auto it = exif.findKey(Exiv2::ExifKey(key));
    std::string s = it == exif.end() ? std::string() : it->toString();
    while (!s.empty() && (s.back() == ' ' || s.back() == '\0')) s.pop_back();
    return s;
}

/// Tags of the main image directory that describe the picture, not its storage.
bool travels(const Exiv2::Exifdatum& tag) {
    static const std::set<std::string> image{
        "Make",         "Model",          "Orientation",      "DateTime",
        "Artist",       "Copyright",      "ImageDescription", "XResolution",
        "YResolution",  "ResolutionUnit", "XPTitle",          "XPComment",
        "XPAuthor",     "XPKeywords",     "XPSubject",        "Rating",
        "RatingPercent"};
    const std::string group = tag.groupName();
    if (group == "Image") return image.count(tag.tagName()) > 0;
    return group == "Photo" || group == "GPSInfo" || group == "Iop" ||
           (tag.tagName() != "MakerNote" && Exiv2::ExifTags::isMakerGroup(group));
}

}  // namespace

void addMetadata(const fs::path& file, FrameInfo& info) {
    const std::lock_guard guard(oneAtATime());
    try {
        const auto exif = tagsOf(file).exif;
        const std::string make = text(exif, "Exif.Image.Make"),
                          model = text(exif, "Exif.Image.Model");
        info.camera = make.empty() || model.starts_with(make) ? model : make + " " + model;
        info.taken = text(exif, "Exif.Photo.DateTimeOriginal");
        info.aperture = rational(exif, "Exif.Photo.FNumber");
        info.exposureTime = rational(exif, "Exif.Photo.ExposureTime");
        const auto turn = exif.findKey(Exiv2::ExifKey("Exif.Image.Orientation"));
        if (turn != exif.end()) info.orientation = orientationFromExif(int(turn->toLong()));
    } catch (const std::exception&) {
        // A picture without readable metadata is still a picture: everything stays "not told".
        return;
    }
}

Status copyMetadata(const fs::path& from, const fs::path& to) {
    const std::lock_guard guard(oneAtATime());
    try {
        const auto source = tagsOf(from);
        const auto target = open(to);
        Exiv2::ExifData exif;
        for (const auto& tag : source.exif)
            if (travels(tag)) exif.add(tag);
        for (const auto& tag : target->exifData())  // what the new file says of its own storage
            if (!travels(tag) && tag.groupName() == "Image") exif.add(tag);
        target->setExifData(exif);
        target->setIptcData(source.iptc);
        target->setXmpData(source.xmp);
        target->writeMetadata();
    } catch (const std::exception& e) {
        return fail(Error::Kind::Unreadable,
                    fmt::format("its metadata could not be carried over ({})", e.what()),
                    from.string(), "Export it to another format.");
    }
    return {};
}

Status writeCameraTags(const fs::path& file, const CameraTags& tags) {
    const std::lock_guard guard(oneAtATime());
    const auto ratio = [](double v, int den) {
        return Exiv2::URational(uint32_t(std::lround(v * den)), uint32_t(den));
    };
    try {
        const auto image = open(file);
        auto& exif = image->exifData();
        exif["Exif.Image.Make"] = tags.make;
        exif["Exif.Image.Model"] = tags.model;
        exif["Exif.Image.Orientation"] = uint16_t(tags.orientation);
        exif["Exif.Image.DateTime"] = tags.taken;
        exif["Exif.Photo.DateTimeOriginal"] = tags.taken;
        exif["Exif.Photo.FNumber"] = ratio(tags.aperture, 10);
        exif["Exif.Photo.ExposureTime"] =
            Exiv2::URational(1, uint32_t(std::lround(1 / tags.exposureTime)));
        exif["Exif.Photo.FocalLength"] = ratio(tags.focalLength, 10);
        exif["Exif.Photo.ISOSpeedRatings"] = uint16_t(tags.iso);
        image->writeMetadata();
    } catch (const std::exception& e) {
        return fail(Error::Kind::Unreadable,
                    fmt::format("its tags could not be written ({})", e.what()), file.string(),
                    "Check that the disk is not full.");
    }
    return {};
}

}  // namespace gq::files
