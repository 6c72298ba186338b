#pragma once
#include <filesystem>
#include <memory>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/film/inversion.h"
#include "core/find/find_plan.h"
#include "core/find/guides.h"
#include "core/find/sight.h"
#include "core/mend/mend.h"
#include "core/pixels/frame_geometry.h"

namespace gq::series {

using Id = std::uint64_t;  ///< of a finding or mend, unique in its series; 0 = none

struct FindingEntry {
    Id id = 0;
    find::Finding finding;
    bool left = false;     ///< looked at and left alone
    bool charted = false;  ///< the series shows the same at this place of the sensor, film or glass
};

struct MendEntry {
    Id id = 0;
    mend::Mend mend;
    Id finding = 0;      ///< the finding it mends; 0 = made by hand
    bool muted = false;  ///< kept, but not applied
    std::string group;   ///< name shared by mends that are handled together; empty = none
};

enum class Verdict { Mended, NotVisible, NeedsLook };
[[nodiscard]] std::string word(Verdict verdict);
[[nodiscard]] std::optional<Verdict> verdictFromWord(const std::string& text);

/// What became of another frame's mend here.
struct CarriedEntry {
    std::string fromFrame;
    Id fromMend = 0;
    Id mend = 0;  ///< the mend it became; 0 = left alone
    Verdict verdict = Verdict::NotVisible;
    Region region;              ///< where it falls on this frame
    std::uint64_t fromKey = 0;  ///< `contentKey` of the other frame's mend as it was carried
};

/// Frames that are to be put together later.
enum class Purpose { Alone, Bracket, Stack, Panorama };
[[nodiscard]] std::string word(Purpose purpose);
[[nodiscard]] std::optional<Purpose> purposeFromWord(const std::string& text);

/// Painted areas of a frame; shared between versions, never written after they were made.
using GuidesPtr = std::shared_ptr<const find::Guides>;

/// Painted masks have one pixel for this many of the frame's, rounded up.
inline constexpr int kGuideScale = 4;
/// What was seen in rounds has one pixel for this many of the frame's.
inline constexpr int kSeenScale = 64;

struct Frame {
    std::string id;
    std::filesystem::path file;  ///< absolute
    /// The raw file that the camera wrote beside the picture: it shares the mends. Empty = none.
    std::filesystem::path companion;
    std::uintmax_t bytes = 0;
    std::string hash;
    FrameGeometry geometry;
    std::string camera, taken;
    double aperture = 0;
    Purpose purpose = Purpose::Alone;
    std::string set;         ///< name shared by the frames that are put together; empty = alone
    double pixelsPerMm = 0;  ///< of the original, as the scan tells; 0 = not told
    bool searched = false;   ///< Find was run
    std::optional<film::Inversion> inversion;  ///< the frame is a negative, shown inverted
    GuidesPtr guides;                          ///< null = nothing painted
    Mask seen;  ///< highest zoom each place was looked at in rounds, in 50ths; empty = none
    std::vector<FindingEntry> findings;
    std::vector<MendEntry> mends;
    std::vector<CarriedEntry> carried;
    std::shared_ptr<const nlohmann::json> unknown;  ///< fields of a file that this version ignores

    [[nodiscard]] std::string name() const { return file.stem().string(); }
    [[nodiscard]] const FindingEntry* finding(Id id) const;
    [[nodiscard]] const MendEntry* mend(Id id) const;
    [[nodiscard]] const MendEntry* mendOf(Id finding) const;
};
using FramePtr = std::shared_ptr<const Frame>;

enum class State { Open, Mended, Left };
/// Whether a finding is open, has a mend (`its`, null without), or was left.
[[nodiscard]] State stateOf(const FindingEntry& finding, const MendEntry* its);
[[nodiscard]] State stateOf(const Frame& frame, const FindingEntry& finding);
/// True if the finding is above the series' line.
[[nodiscard]] bool proposed(const FindingEntry& finding, float line);

struct Series {
    std::string name;
    find::FindPlan plan;     ///< origin, strength and line of the series
    find::Sight sight;       ///< the output that decides what can be seen
    bool skipUnseen = true;  ///< bulk mending leaves out what cannot be seen there
    std::string reference;   ///< id of the reference frame
    Id nextId = 1;
    std::vector<FramePtr> frames;
    std::shared_ptr<const nlohmann::json> unknown;

    [[nodiscard]] FramePtr frame(const std::string& id) const;
    [[nodiscard]] int indexOf(const std::string& id) const;
    /// A new version with one frame replaced.
    [[nodiscard]] Series with(Frame frame) const;
};
using SeriesPtr = std::shared_ptr<const Series>;

/// True if both frames are of one bracket or one focus stack: they are corrected alike.
[[nodiscard]] bool correctedAlike(const Frame& a, const Frame& b);
/// The frames of a frame's set, in the order of the series; that frame alone if it has none.
[[nodiscard]] std::vector<FramePtr> setOf(const Series& series, const Frame& frame);
/// A new version with these frames in one set, or alone. A set's name is its first frame's.
[[nodiscard]] Series withSet(const Series& series, const std::vector<std::string>& frames,
                             Purpose purpose);

/// True if the finding can be seen at the series' output; everything can when none is chosen.
[[nodiscard]] bool inSight(const Series& series, const Frame& frame, const FindingEntry& finding);

/// A frame for a picture file (header read, content hashed). Errors: those of `readInfo`.
/// `told`: takes what the frame leaves out of the file (Partial).
[[nodiscard]] Result<Frame> makeFrame(const std::filesystem::path& file, const std::string& id,
                                      std::vector<Error>* told = nullptr);

/// A series of pictures, in the order given; the first is the reference. Files that cannot be read
/// are left out; they, and files read in part, are named in `faults`.
[[nodiscard]] Series makeSeries(const std::vector<std::filesystem::path>& files,
                                const std::string& name, std::vector<Error>& faults);

/// Replaces a frame's findings by those of a new search; findings that were left alone or mended
/// stay as they are where the new ones meet them.
[[nodiscard]] Frame withFindings(const Frame& frame, std::vector<find::Finding> found, Id& nextId);

}  // namespace gq::series
