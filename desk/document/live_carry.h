#pragma once
#include <QObject>
#include <map>
#include <set>

#include "core/carry/catch_up.h"
#include "desk/document/pictures.h"

namespace gq::desk {

/// Carry as I go: while it is on, every mend of the reference that is made, changed, muted or
/// deleted goes to the ticked frames, one frame after the other in the background. What a frame
/// lacks is read off the series itself, so undo and reopening need nothing more. Nothing of it is
/// a step of its own: it belongs to the edit it follows.
class LiveCarry : public QObject {
    Q_OBJECT
  public:
    LiveCarry(DeskDocument& document, Jobs& jobs, QObject* parent = nullptr);

    void setOn(bool on);
    /// Whether sensor shadows are divided out of what is carried from now on, or healed.
    void setUnshade(bool on) { m_unshade = on; }
    [[nodiscard]] bool on() const { return m_on; }
    [[nodiscard]] int frames() const { return m_frames; }     ///< that take part
    [[nodiscard]] int upToDate() const { return m_current; }  ///< of them, those that lack nothing

  signals:
    void changed();

  private:
    [[nodiscard]] bool takesPart(const series::Frame& reference, const series::Frame& frame) const;
    void follow();
    /// Does the frame have all that the reference has? Both stay as they are: asked once.
    [[nodiscard]] bool current(const series::FramePtr& reference, const series::FramePtr& frame);
    void next();
    void pin(const series::FramePtr& reference);
    /// Learns the shadows behind mends from the frames that take part; each mend is asked for once.
    void learn(const series::FramePtr& reference);
    [[nodiscard]] bool wantsLearning(const series::Series& s, const series::Frame& reference,
                                     const series::Frame& target) const;
    [[nodiscard]] carry::Shadows shadowsOf(const series::Frame& reference) const;
    void take(const series::FramePtr& reference, const series::FramePtr& target,
              Result<series::Frame> frame);

    DeskDocument& m_document;
    Jobs& m_jobs;
    bool m_on = false, m_running = false, m_unshade = true;
    int m_frames = 0, m_current = 0;
    series::FramePtr m_reference;
    std::unique_ptr<carry::KeyedReference> m_keyed;
    std::map<series::FramePtr, bool> m_known;         ///< answers of `current` for m_reference
    std::set<std::string> m_failed;                   ///< frames whose file cannot be read
    std::set<std::uint64_t> m_unpinnable;             ///< mends that have no single source
    std::map<std::uint64_t, carry::Shadow> m_learnt;  ///< by a mend's place; empty = not told
    std::stop_source m_stop;
};

}  // namespace gq::desk
