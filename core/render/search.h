#pragma once
#include <stop_token>
#include <string>
#include <vector>

#include "core/files/picture_reader.h"
#include "core/pixels/parallel.h"
#include "core/series/series.h"

namespace gq::render {

/// A frame's search, with what the person should know about it.
struct Searched {
    std::vector<find::Finding> findings;
    std::vector<std::string> notes;  ///< e.g. why the infrared plane was not used
};

/// Searches a frame by the plan: on the scan's own values (so dust on a negative that is shown
/// inverted is dark), within its painted guides, with the infrared plane where it is of use.
/// Errors: those of find::find.
[[nodiscard]] Result<Searched> search(const files::LoadedPicture& loaded,
                                      const series::Frame& frame, const find::FindPlan& plan,
                                      const Progress& progress = {}, std::stop_token stop = {});

}  // namespace gq::render
