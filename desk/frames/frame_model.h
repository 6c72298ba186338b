#pragma once
#include <QAbstractListModel>

#include "desk/document/crops.h"
#include "desk/document/gather_work.h"

namespace gq::desk {

struct FrameCounts {
    int open = 0, mended = 0, looks = 0;
};
/// Findings above the line that are open, mends, and those that wait for a look.
[[nodiscard]] FrameCounts countsOf(const series::Frame& frame, float line);

/// The frames of the series, for the frame column and the contact sheet.
class FrameModel : public QAbstractListModel {
    Q_OBJECT
  public:
    FrameModel(DeskDocument& document, Crops& crops, const GatherWork& gather,
               QObject* parent = nullptr);
    [[nodiscard]] int rowCount(const QModelIndex& = {}) const override {
        return int(m_frames.size());
    }
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] const series::Frame& frame(int row) const { return *m_frames[size_t(row)]; }
    [[nodiscard]] int currentRow() const;

    [[nodiscard]] FrameCounts counts(int row) const;
    /// In a word or two what is amiss with the frame's file; empty if nothing is.
    [[nodiscard]] QString amiss(int row) const;

  private:
    void rebuild();
    DeskDocument& m_document;
    const GatherWork& m_gather;
    std::vector<series::FramePtr> m_frames;
};

}  // namespace gq::desk
