#pragma once
#include <QObject>
#include <list>
#include <map>
#include <memory>
#include <tuple>

#include "core/pixels/pyramid.h"
#include "core/render/compose.h"
#include "desk/document/desk_document.h"

namespace gq::desk {

/// The pixels of the frame being looked at: as it came, and with its mends. Decodes and composes in
/// the background; of several edits in a row only the latest is worked out.
class Pictures : public QObject {
    Q_OBJECT
  public:
    Pictures(DeskDocument& document, Jobs& jobs, QObject* parent = nullptr);

    /// The frame the pixels below belong to; null while the first one loads.
    [[nodiscard]] series::FramePtr frame() const { return m_frame; }
    /// Whether they are those of `frame`, in this version or another; another series names its
    /// frames alike, and a file may be taken as it is now.
    [[nodiscard]] bool areOf(const series::Frame& frame) const {
        return m_frame && keyOf(*m_frame) == keyOf(frame);
    }
    [[nodiscard]] const Pyramid& before() const { return m_before; }
    [[nodiscard]] const Pyramid& after() const { return m_after; }
    [[nodiscard]] const Image& original() const { return m_original.pixels; }
    [[nodiscard]] int bits() const { return m_original.bits; }  ///< a channel, in the file
    [[nodiscard]] const render::Composition& composed() const { return m_composed; }
    [[nodiscard]] const std::map<series::Id, render::PatchPtr>& patches() const {
        return m_patches;
    }
    [[nodiscard]] bool settled() const { return !m_loading && !m_composing && m_toShow.empty(); }

    /// Takes patches that were made of `original` before they are asked for: what is composed next
    /// need not make them again. Another one for each frame.
    [[nodiscard]] std::shared_ptr<mend::PatchStore> made() const { return m_made; }

    /// What makes the mends of this frame; another one for each.
    [[nodiscard]] std::shared_ptr<render::Composer> composer() const { return m_composer; }

    /// Shows a mend as it would be (while a source is dragged), without an edit. Null = back.
    void preview(std::shared_ptr<const series::Frame> frame);

  signals:
    void replaced();                                     ///< another frame's pixels are in place
    void touched(const std::vector<gq::Rect>& changed);  ///< `after` changed inside these boxes

  private:
    struct Loaded {
        Picture original;
        Pyramid before;
        std::shared_ptr<mend::PatchStore> made;
        std::shared_ptr<render::Composer> composer;  ///< reads `made`
    };
    using Key = std::tuple<std::string, std::filesystem::path, std::string>;
    static Key keyOf(const series::Frame& frame) { return {frame.id, frame.file, frame.hash}; }
    void follow();
    void load(const series::FramePtr& frame);
    void keep(Key key, Loaded loaded);
    void place(const series::FramePtr& frame, const Loaded& loaded);
    void compose();
    void tellStopped();
    void takeCopy(const Pyramid& copy);
    void show(render::Composer::Outcome out);
    void showSome();

    DeskDocument& m_document;
    Jobs& m_jobs;
    series::FramePtr m_frame, m_preview;
    Key m_loadingKey;
    Picture m_original;
    render::Composition m_composed;
    Pyramid m_before, m_after;
    std::map<series::Id, render::PatchPtr> m_patches;
    std::vector<Rect> m_toShow;  ///< where `m_after` is behind `m_composed`
    std::shared_ptr<mend::PatchStore> m_made;
    std::shared_ptr<render::Composer> m_composer;
    std::stop_source m_loadStop, m_composeStop;
    bool m_loading = false, m_composing = false, m_again = false;
    bool m_afterIsOwn = false;  ///< `m_after` shares nothing with `m_before`
    bool m_bare = false;        ///< no mend is in `m_after` yet
    bool m_glimpsed = false;    ///< an early view of what is being composed was shown
    std::list<std::pair<Key, Loaded>> m_recent;  ///< newest first, within a bound of memory
};

}  // namespace gq::desk
