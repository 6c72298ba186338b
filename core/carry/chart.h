#pragma once
#include <stop_token>
#include <string>
#include <vector>

#include "core/carry/agreement.h"
#include "core/carry/carry.h"
#include "core/carry/scenes.h"
#include "core/find/hazes.h"
#include "core/find/residual.h"
#include "core/pixels/region.h"

namespace gq::carry {

/// One shadow on the sensor, seen by several frames.
struct ChartSpot {
    Region region;    ///< sensor coordinates
    float depth = 0;  ///< mean share of light held back, calm frames counting most
    int frames = 0;   ///< frames in which it shows
    float score = 0;  ///< agreement of the frames, in noise units
    Shadow shadow;    ///< how it dims the light; empty if the frames do not tell
};

/// Px that two outlines of one spot may be apart.
inline constexpr int kSlack = 4;

/// Where a camera's sensor is dusty.
struct DustChart {
    std::string camera;
    Size sensor;
    int frames = 0;
    std::string first, last;  ///< when the first and the last of them were taken; empty = not told
    double widest = 0, narrowest = 0;  ///< apertures of the frames, f-numbers; 0 = not told
    std::vector<ChartSpot> spots;      ///< the surest first
    std::vector<find::Finding> hazes;  ///< broad marks of lens or filter, sensor coordinates: tied
                                       ///< to frames' findings, but neither saved nor carried
    std::vector<ChartSpot> untold;     ///< known spots that the frames neither show nor refute; not
                                       ///< saved
    ImageF told;  ///< frames that show different things there, as `Scenes` tells it; not saved

    /// True if its camera took the frame, which lies on its sensor.
    [[nodiscard]] bool isOf(const series::Frame& frame) const;
    /// True if enough frames have a say about a box of the sensor, or nothing is known of that.
    [[nodiscard]] bool tellsOf(const Rect& box) const;
    /// How many frames have a say there.
    [[nodiscard]] float toldAt(const Rect& box) const;
    /// True if it shows that its frames are of one sensor, whose camera they do not tell: three
    /// spots of it at least are beyond chance.
    [[nodiscard]] bool showsOneSensor() const;
};

/// Adds up frames of one camera, one at a time, so that memory does not grow with their number. The
/// frames are laid on the sensor; where enough of them agree there is dust (`Agreement`).
class Consensus {
  public:
    /// What one frame says, in the first one's coordinates.
    struct Say {
        series::Frame frame;
        std::vector<find::HeldBack> held;  ///< by level
        find::BroadView broad;
        SceneView scene;
    };
    /// True if half of a frame's size tells all that is asked of it: large sensors.
    [[nodiscard]] static bool halfIsEnough(const series::Frame& first);
    /// Works a frame's say out. `first` is the first frame of the series; `pixels` are the frame's
    /// or, where that is enough, its pixels at half the size. Threads: re-entrant.
    /// Errors: Refused (another camera or shape than the first), Cancelled.
    [[nodiscard]] static Result<Say> listen(const Image& pixels, const series::Frame& first,
                                            const series::Frame& frame, std::stop_token stop = {});
    /// Adds it up.
    void add(const Say& say);
    /// Both in one. Errors: as `listen`.
    [[nodiscard]] Status add(const Image& pixels, const series::Frame& frame,
                             std::stop_token stop = {});
    /// True if the frames, three at least, show too little that is not the same.
    [[nodiscard]] bool isOfOneScene() const;
    /// The chart so far. Spots of a `known` chart need less to be believed. Errors: BadSetting when
    /// fewer than three frames were added, or they show fewer than three scenes.
    [[nodiscard]] Result<DustChart> chart(const DustChart* known = nullptr) const;

  private:
    void addKnown(const DustChart& known, DustChart& chart) const;

    std::vector<Agreement> m_levels;
    std::vector<find::BroadView> m_broad;  ///< of the first frames
    Scenes m_scenes;
    ImageF m_told;  ///< frames that have a say, as `Scenes` tells it
    series::Frame m_first;
    DustChart m_facts;  ///< what the frames tell of themselves
    int m_frames = 0;
};

/// Consensus of up to 24 of `frames`, evenly picked; those refused or unreadable are passed over.
/// `pixels` as `Consensus::listen` takes them, `known` as `Consensus::chart`.
/// Errors: BadSetting when fewer than three are left, Cancelled.
[[nodiscard]] Result<DustChart> chartOf(const series::Frame& reference,
                                        const std::vector<series::FramePtr>& frames,
                                        const PixelSource& pixels, const Progress& progress = {},
                                        std::stop_token stop = {},
                                        const DustChart* known = nullptr);

/// What `CarriedEntry::fromFrame` says of mends that came from a chart.
inline constexpr const char* kChartFrame = "chart";

/// What heals a place of dust on the sensor, the soft edge of its shadow with it.
[[nodiscard]] mend::Mend healedPlace(const Region& place, const Size& picture);
/// The chart as a reference frame's mends: one fitted mend per spot, on a frame of the sensor
/// itself, with ids from `firstId`.
[[nodiscard]] series::Frame asReference(const DustChart& chart, series::Id firstId = 1);
/// A frame of the chart's camera with a mend for each spot that none of its own mends meets: what
/// it hides but its series shows.
[[nodiscard]] series::Frame withChartMends(const series::Frame& frame, const DustChart& chart,
                                           series::Id& nextId);
/// The chart's shadows by the mends of `asReference`, where they are known.
[[nodiscard]] Shadows shadowsOf(const DustChart& chart, series::Id firstId = 1);

/// The chart with the shadows, of spots that have none yet, that a second look at up to 24 of its
/// frames, evenly picked, tells of. Frames that cannot be read tell nothing. Errors: Cancelled.
[[nodiscard]] Result<DustChart> withShadows(DustChart chart,
                                            const std::vector<series::FramePtr>& frames,
                                            const PixelSource& pixels,
                                            const Progress& progress = {},
                                            std::stop_token stop = {});

}  // namespace gq::carry
