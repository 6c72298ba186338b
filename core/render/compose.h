#pragma once
#include <functional>
#include <map>
#include <mutex>
#include <stop_token>
#include <vector>

#include "core/mend/patch_store.h"
#include "core/pixels/parallel.h"
#include "core/render/composition.h"
#include "core/series/series.h"

namespace gq::render {

/// Lays a frame's mends on its pixels, in order, each reading the earlier ones. Patches are kept
/// by a key of all they depend on (the mend, what it avoids, the patches it reads), so a changed
/// mend makes anew only what its footprint or source feeds. Some are kept that are not laid just
/// now, so that an edit taken back, or a result looked at before, is there at once.
///
/// Threads  `compose` one call at a time, parallel inside; `trial` and `dropSpare` beside it.
class Composer {
  public:
    /// What changed between two compositions.
    struct Outcome {
        Composition picture;        ///< the frame with its mends
        std::vector<Rect> changed;  ///< boxes that differ from the composition before
        std::map<series::Id, PatchPtr> patches;
        std::vector<Error> faults;  ///< mends that could not be made, which were left out
    };
    using Early = std::function<void(Outcome)>;

    /// Patches that another has made for the same original need not be made again.
    explicit Composer(const mend::PatchStore* made = nullptr);

    /// `original` must stay the same between calls. Where one mend was edited and others have to be
    /// made anew on its account, or it is a large Rebuild, `early` is given a first view: that mend
    /// (of a Rebuild a draft) on what lay there before. Errors: Cancelled; what was made till then
    /// is made no second time.
    [[nodiscard]] Result<Outcome> compose(const Image& original, const series::Frame& frame,
                                          float line, const Progress& progress = {},
                                          std::stop_token stop = {}, const Early& early = {});

    /// What the patch of mend `id` would be, were `frame` composed.
    /// Errors: Cancelled; BadSetting if the frame lays no such mend; those of `makePatch`.
    [[nodiscard]] Result<PatchPtr> trial(const Image& original, const series::Frame& frame,
                                         float line, series::Id id, std::stop_token stop = {});
    /// Lets go of patches that are not laid just now.
    void dropSpare() { m_spare.clear(); }

  private:
    struct Kept {
        std::uint64_t key;      ///< of all it depends on; 0 = an early view
        std::uint64_t content;  ///< of the mend alone
        PatchPtr patch;
    };
    struct Step;
    static std::vector<Step> stepsOf(const series::Frame& frame, float line, const Size& size);
    static bool reads(const Step& step, const Step& earlier, const Size& size);
    static Excerpt seenBy(const std::vector<Step>& steps, size_t i, const Image& original);
    void giveEarly(std::vector<Step> steps, const Image& original, const Early& early,
                   std::stop_token stop);
    [[nodiscard]] Outcome outcomeOf(const std::vector<Step>& steps, const Image& original);
    [[nodiscard]] PatchPtr had(const Step& step) const;
    [[nodiscard]] Result<PatchPtr> patchOf(const std::vector<Step>& steps, size_t i,
                                           const Image& original, std::stop_token stop) const;
    const mend::PatchStore* m_made;
    std::map<series::Id, Kept> m_kept;  ///< of the last outcome
    mutable std::mutex m_guard;         ///< of `m_kept`, which `trial` reads
    mend::PatchStore m_spare;
};

/// Lays a frame's mends on its pixels for good, in place. Errors: Cancelled, or the first fault of
/// a mend; nothing is laid then. `made` as of Composer.
[[nodiscard]] Status mendInPlace(Image& pixels, const series::Frame& frame, float line,
                                 std::stop_token stop = {}, const mend::PatchStore* made = nullptr);
/// The same on a copy.
[[nodiscard]] Result<Image> composed(const Image& original, const series::Frame& frame, float line,
                                     std::stop_token stop = {});

}  // namespace gq::render
