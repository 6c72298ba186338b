#include "core/series/told_origin.h"

#include <algorithm>
#include <array>
#include <opencv2/imgproc.hpp>

#include "core/files/folder_scan.h"
#include "core/files/picture_reader.h"
#include "core/files/picture_writer.h"
#include "core/film/film_base.h"

namespace gq::series {

using find::Origin;

namespace {

constexpr double kPerMm = 1 / 25.4;  // of pixels per inch
constexpr double kFilmPixels = 1000 * kPerMm;
constexpr double kFilmSide = 75;  ///< mm, the long side of roll film at most
constexpr double kSheetPixels = 2000 * kPerMm;
constexpr double kSheetSide = 130;  ///< mm, sheet film of 4 x 5 inches
constexpr double kPrintPixels = 200 * kPerMm;
constexpr double kPrintSide = 460;  ///< mm, a flatbed of A3
/// What programs write into exported JPEGs of any camera.
constexpr double kExportPixels = 350 * kPerMm;
constexpr double kColour = 3;  ///< of 255, mean difference of channels
constexpr int kSide = 512;
constexpr size_t kLooked = 3;  ///< frames of a series that do not tell of film
/// Red to blue light of a masked base; a warm slide reaches 2, colour negatives 3.6.
constexpr float kMasked = 2.7f;

enum class Source { Untold, Camera, Film, Print };

Source sourceOf(const Frame& frame) {
    if (frame.aperture > 0 || files::looksRaw(frame.file)) return Source::Camera;
    const double pixels = frame.pixelsPerMm;
    if (pixels <= 0) return Source::Untold;
    const Size s = frame.geometry.stored;
    const double side = std::max(s.width, s.height) / pixels;
    if ((pixels >= kFilmPixels && side <= kFilmSide) ||
        (pixels >= kSheetPixels && side <= kSheetSide))
        return Source::Film;
    const bool jpeg = files::formatForName(frame.file, 8) == files::Format::Jpeg;
    const double least = jpeg ? kExportPixels : kPrintPixels;
    return pixels >= least && side <= kPrintSide ? Source::Print : Source::Untold;
}

std::optional<film::FilmBase> maskedBase(const Image8& small) {
    Image scan;
    small.convertTo(scan, CV_16U, 257);
    const auto base = film::findBase(scan);
    return base && base->light[0] > kMasked * base->light[2] ? base : std::nullopt;
}

/// A frame that is known to be film.
bool isNegative(const Frame& frame) {
    const auto small = files::readThumbnail(frame.file, kSide);
    if (!small) return true;
    std::array<cv::Mat, 3> channels;
    cv::split(*small, channels.data());
    cv::Mat apart;
    cv::absdiff(channels[0], channels[2], apart);
    return cv::mean(apart)[0] < kColour || maskedBase(*small);
}

/// Whether bare orange film lies around the pictures of most of some frames.
bool showMaskedFilm(const std::vector<FramePtr>& frames) {
    const size_t looked = std::min(frames.size(), kLooked);
    size_t masked = 0;
    for (size_t i = 0; i < looked; ++i) {
        const auto small = files::readThumbnail(frames[i * frames.size() / looked]->file, kSide);
        if (!small) continue;
        const auto base = maskedBase(*small);
        masked += base && base->tellsNegative() ? 1 : 0;
    }
    return 2 * masked > looked;
}

}  // namespace

std::optional<Origin> toldOrigin(const std::vector<FramePtr>& frames) {
    std::array<int, 4> count{};
    for (const auto& f : frames) ++count[size_t(sourceOf(*f))];
    const auto most = std::max_element(count.begin(), count.end());
    const auto source = Source(most - count.begin());
    if (frames.empty()) return std::nullopt;
    // Film is photographed by cameras too.
    if ((source == Source::Untold || source == Source::Camera) && showMaskedFilm(frames))
        return Origin::Negative;
    if (source == Source::Untold) return std::nullopt;
    if (source == Source::Camera) return Origin::Sensor;
    if (source == Source::Print) return Origin::Print;
    const auto film = std::ranges::find_if(
        frames, [](const FramePtr& f) { return sourceOf(*f) == Source::Film; });
    return isNegative(**film) ? Origin::Negative : Origin::Positive;
}

}  // namespace gq::series
