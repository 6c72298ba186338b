#pragma once
#include <QAbstractListModel>

#include "desk/document/crops.h"

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
    FrameModel(DeskDocument& document, Crops& crops, QObject* parent = nullptr);
    [[nodiscard]] int rowCount(const QModelIndex& = {}) const override {
        return int(m_frames.size());
    }
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] const series::Frame& frame(int row) const { return *m_frames[size_t(row)]; }
    [[nodiscard]] int currentRow() const;

    [[nodiscard]] FrameCounts counts(int row) const;

  private:
    void rebuild();
    DeskDocument& m_document;
    std::vector<series::FramePtr> m_frames;
};

}  // namespace gq::desk
