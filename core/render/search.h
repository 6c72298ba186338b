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
    /// A negative may have been inverted before it came here, and not every one tells. Such a frame
    /// is searched for light dust and for dark; this is what the less likely of the two gave. Of
    /// other film, lines of the polarity that dust does not have: scratches that took emulsion off.
    std::vector<find::Finding> otherwise;
    bool guessed = false;  ///< the two were told apart by what was found alone
    find::Polarity dust = find::Polarity::Dark;  ///< of `findings`, unless both were asked for
};

/// Searches a frame by the plan: on the scan's own values (so dust on a negative that is shown
/// inverted is dark), within its painted guides, with the infrared plane where it is of use.
/// Errors: those of find::find.
[[nodiscard]] Result<Searched> search(const files::LoadedPicture& loaded,
                                      const series::Frame& frame, const find::FindPlan& plan,
                                      const Progress& progress = {}, std::stop_token stop = {});

/// Makes frames of one film agree on whether their dust is dark or light: the first that tells
/// speaks for those that do not, else what was found on all of them together.
void agreeOnDust(const std::vector<Searched*>& film);

/// Adds the sure scratches of the other polarity to what was found, once it is known which dust
/// has; less sure than they were, since pictures have more such lines. One that lies under a surer
/// finding stays out.
void takeScratches(Searched& frame);

}  // namespace gq::render
