#pragma once
#include <string>
#include <vector>

#include "core/carry/chart.h"
#include "core/render/search.h"

namespace gq::render {

/// Frames of one size that do not tell their camera are of one, or only if the dust that they share
/// shows it.
enum class Untold { OneCamera, IfShown };

/// Frames of one sensor or film that can say something together.
inline constexpr size_t kTogether = 3;

/// Ids of frames that can say together what one cannot: those of one camera's sensor, or of one
/// size where they do not tell it, those of a film in one folder, scans of prints of one size in
/// one folder. In the order of the first of each.
[[nodiscard]] std::vector<std::vector<std::string>> searchedTogether(
    const series::Series& series, const std::vector<std::string>& frames);

/// What came of searching several frames.
struct SearchedSeries {
    series::Series series;                 ///< with the findings of the frames that were searched
    std::vector<std::string> searched;     ///< their ids
    std::vector<std::string> notes;        ///< as `Searched::notes`, and why frames could not tell
                                           ///< together, each with the frames' names
    std::vector<Error> faults;             ///< why the others were not
    std::vector<carry::DustChart> charts;  ///< of sensors that frames told of, with shadows
};

/// Searches `frames` of a series by its plan. Three or more of one camera tell shadows of its
/// sensor from what is in the picture (`carry::confirmed`), three or more of a film the lines of
/// its roll (`carry::withRollLines`), three or more scans of prints the dust of their flatbed's
/// glass (`carry::withGlassDust`).
/// Fewer frames of a camera than a `known` chart is of are searched in its light, one or two of a
/// roll or a flatbed beside those that were searched before, which stay as they are.
/// Cost: where frames say something together each may be read twice, up to 24 of a sensor three
/// times. Memory: one decoded frame and the sums over a sensor. Threads: parallel inside; equal
/// bits for any number. Errors: Cancelled.
[[nodiscard]] Result<SearchedSeries> searchSeries(const series::Series& series,
                                                  const std::vector<std::string>& frames,
                                                  Untold untold, const Progress& progress = {},
                                                  std::stop_token stop = {},
                                                  const std::vector<carry::DustChart>& known = {});

/// These frames of a series, in their order; those that never were are searched first, so that it
/// is known where each is clean. The series stays as it is. Otherwise as above, but the first frame
/// that cannot be searched fails all.
[[nodiscard]] Result<std::vector<series::FramePtr>> searchedFrames(
    const series::Series& series, std::vector<series::FramePtr> frames, Untold untold,
    const Progress& progress = {}, std::stop_token stop = {});

}  // namespace gq::render
