#pragma once
#include <QImage>
#include <QObject>
#include <map>

#include "core/find/reference.h"
#include "desk/document/pictures.h"

namespace gq::desk {

/// Small pictures of places before and after their mend, for ledger and board, and thumbnails.
/// What is not there yet is asked for and announced when it is made.
class Crops : public QObject {
    Q_OBJECT
  public:
    struct Pair {
        /// As shown (upright), contrast raised alike in both so that a faint shadow can be judged;
        /// `after` is null where nothing mends the place.
        QImage before, after;
    };
    static constexpr int kSide = 56;  ///< px of a crop

    Crops(DeskDocument& document, Pictures& pictures, Jobs& jobs, QObject* parent = nullptr);

    /// Crops of a finding or mend of the shown frame.
    [[nodiscard]] const Pair* entry(series::Id id);
    /// Crops of what was carried to a frame from a mend.
    [[nodiscard]] const Pair* carried(const series::Frame& frame, series::Id fromMend);
    [[nodiscard]] QImage thumbnail(const series::Frame& frame);
    /// How well a frame shows dust, judged by its thumbnail; null until that is read.
    [[nodiscard]] const find::Suitability* suitability(const series::Frame& frame) const {
        const auto it = m_thumbnails.find(frame.hash);
        return it == m_thumbnails.end() ? nullptr : &it->second.suitability;
    }
    [[nodiscard]] bool settled() const { return m_running == 0; }

  signals:
    void made();

  private:
    void makeEntries();
    void makeCarried(const series::FramePtr& frame);
    void trimCarried();

    DeskDocument& m_document;
    Pictures& m_pictures;
    Jobs& m_jobs;
    std::map<std::uint64_t, Pair> m_entries;  ///< of the shown frame, by content
    /// Of the carry board, by frame; those looked at longest ago go first.
    struct OfFrame {
        std::map<std::uint64_t, Pair> pairs;  ///< by content
        quint64 used = 0;
    };
    std::map<std::string, OfFrame> m_carried;
    quint64 m_clock = 0;
    /// A frame's small picture, and what was made of it for the screen.
    struct Thumbnail {
        Image8 stored;
        find::Suitability suitability;
        std::optional<film::Inversion> inversion;  ///< that `shown` was made with
        QImage shown;
    };
    std::map<std::string, Thumbnail> m_thumbnails;    ///< by content hash
    std::map<std::string, series::FramePtr> m_asked;  ///< frames whose carried crops are on the way
    std::set<std::string> m_askedThumbnails;
    std::vector<series::Id> m_askedEntries;  ///< of the shown frame, the latest last
    bool m_makingEntries = false;
    int m_running = 0;
};

/// The box shown around a region: square, with room around it, inside the picture.
[[nodiscard]] Rect cropBox(const Region& region, const Size& picture);

}  // namespace gq::desk
