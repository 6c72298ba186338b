#pragma once
#include <functional>
#include <map>
#include <stop_token>
#include <vector>

#include "core/carry/same_sensor.h"
#include "core/carry/shadow.h"
#include "core/mend/patch_store.h"
#include "core/pixels/image.h"
#include "core/pixels/parallel.h"
#include "core/series/series.h"

namespace gq::carry {

enum class SourceRule {
    Fresh,
    Same
};  ///< search anew in each frame, or keep each mend's own source
enum class Existing {
    Add,
    Replace
};  ///< keep what was carried from this frame before, or replace it

struct CarryPlan {
    std::string reference;             ///< frame whose mends are carried
    std::vector<series::Id> mends;     ///< which of them; empty = all that are not muted
    std::vector<std::string> targets;  ///< frames; the reference is skipped
    SourceRule source = SourceRule::Fresh;
    Existing existing = Existing::Replace;
    bool unshade = true;  ///< divide out the shadows that the series tells of, instead of healing;
                          ///< either way what it tells decides where they show
    bool mayHeal = true;  ///< where dividing leaves marks; false for raw samples, which cannot be
};

/// What the series tells of the shadows that mends of the reference correct, by mend.
using Shadows = std::map<series::Id, Shadow>;

/// The reference with the source that each searched mend uses made its own, so that other frames
/// can be given the very same correction. Threads: parallel inside. Errors: Cancelled.
[[nodiscard]] Result<series::Frame> pinned(const Image& pixels, const series::Frame& reference,
                                           float line, std::stop_token stop = {});

/// The mends of `reference` as they fall on `target`, each with its verdict: not visible where the
/// blemish does not show (left alone), mended where it shows and the surroundings serve, needs a
/// look where a mend would likely do more harm than the blemish, or cannot be made (its mend is
/// kept, but muted). A blemish that was found shows where its own outline or its mend's is as dark
/// or light as that, and clearly where no other frame tells of it (`charted`); one outlined by hand
/// may be either. A long scratch along the film is looked for within its sway (`lineIn`), unless
/// the source is to be the same. A mend whose shadow is known divides it out (Unshade) as deep as
/// this frame shows it, or heals where nothing shines through, the ground is blown out, or what
/// dividing leaves would stand out from it. In frames of the reference's own
/// bracket or focus stack all of them are mended, each at the same place from the same source,
/// since what is put together later must be corrected alike. The frame returned has them added;
/// `target` is not touched. Running it twice adds nothing twice. The patches made for the verdicts
/// are kept in `made`. Threads  re-entrant; parallel inside. Errors   Refused (another camera),
/// Cancelled.
[[nodiscard]] Result<series::Frame> carryTo(const Image& pixels, const series::Frame& reference,
                                            const series::Frame& target, const CarryPlan& plan,
                                            float line, series::Id& nextId,
                                            const Shadows& shadows = {}, std::stop_token stop = {},
                                            mend::PatchStore* made = nullptr);

/// Gives a frame's pixels when asked. May be called from several threads.
using PixelSource = std::function<Result<Image>(const series::Frame&, std::stop_token)>;

/// At most so many frames, evenly picked; 24 are enough to know a sensor by.
[[nodiscard]] std::vector<series::FramePtr> evenlyPicked(
    const std::vector<series::FramePtr>& frames, size_t most = 24);

/// Looks at up to 24 of `frames`, evenly picked, for the shadows behind the reference's mends.
/// Empty with fewer than four frames. Frames that cannot be read or are refused tell nothing.
/// Threads  parallel inside. Errors: Cancelled.
[[nodiscard]] Result<Shadows> learnShadows(const series::Frame& reference,
                                           const std::vector<series::FramePtr>& frames,
                                           const PixelSource& pixels, const Progress& progress = {},
                                           std::stop_token stop = {});

/// A frame whose own mends divide out the shadows that are known and that it shows.
[[nodiscard]] series::Frame unshaded(const series::Frame& frame, const Image& pixels,
                                     const Shadows& shadows);

/// Carries to all targets of the plan: the whole new version is worked out before anything changes.
/// With the same source everywhere, and for brackets and focus stacks, the reference is pinned.
/// Frames that fail or are refused stay as they were and are named in `faults`.
/// Errors   Cancelled (nothing is changed).
[[nodiscard]] Result<series::Series> carryAll(const series::Series& series, const CarryPlan& plan,
                                              const PixelSource& pixels, std::vector<Error>& faults,
                                              const Progress& progress = {},
                                              std::stop_token stop = {});

/// The same from a frame that need not be of the series (a chart's), with what is known of its
/// shadows.
[[nodiscard]] Result<series::Series> carryFrom(const series::Frame& reference,
                                               const Shadows& shadows, const series::Series& series,
                                               const CarryPlan& plan, const PixelSource& pixels,
                                               std::vector<Error>& faults,
                                               const Progress& progress = {},
                                               std::stop_token stop = {});

}  // namespace gq::carry
