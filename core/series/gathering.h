#pragma once
#include <set>
#include <stop_token>

#include "core/pixels/parallel.h"
#include "core/series/series.h"

namespace gq::series {

enum class FileState { There, Missing, Changed };
/// How a frame's picture file stands, by its name and size alone; reads no content.
[[nodiscard]] FileState fileState(const Frame& frame);

/// A new version without these frames. If the reference is among them, the next one that stays
/// takes its place. At least one frame has to stay.
[[nodiscard]] Series without(const Series& series, const std::set<std::string>& frames);

enum class Order { Name, Taken };
/// A new version in another order; frames that are alike in it keep theirs, and those that do not
/// tell when they were taken come last.
[[nodiscard]] Series ordered(const Series& series, Order order);

/// A new version whose missing files are those below `folder` of the same content, whatever their
/// names are. Frames that are found nowhere stay as they are; so do all if it is stopped.
[[nodiscard]] Series located(const Series& series, const std::filesystem::path& folder,
                             const Progress& progress, std::stop_token stop);

/// A frame with the file of another: where it is, its content, and how it is turned.
[[nodiscard]] Frame withFileOf(Frame frame, const Frame& other);

/// The frame with its file as it is now: what was found and mended stays at its place. Errors:
/// Changed if the picture has another size now; those of `makeFrame`.
[[nodiscard]] Result<Frame> withFileAsItIs(const Frame& frame);

}  // namespace gq::series
