#pragma once
#include <QAbstractListModel>
#include <optional>

#include "desk/document/desk_document.h"

namespace gq::desk {

/// Rows of the ledger: the current frame's findings and hand-made mends, sorted and filtered.
class LedgerModel : public QAbstractListModel {
    Q_OBJECT
  public:
    enum class Show { Open, Mended, Left };
    enum class Sort { Confidence, Size, Contrast, Kind };
    struct Row {
        series::Id id = 0;
        const series::FindingEntry* finding = nullptr;  ///< null for a hand-made mend
        const series::MendEntry* mend = nullptr;
        bool below = false;   ///< under the line
        bool unseen = false;  ///< cannot be seen at the chosen output
        bool fold = false;    ///< the row that tells how many lie below, and unfolds them
        int rollFrames = 0;   ///< of a line of the roll: the frames that show it
    };
    enum Role { RowRole = Qt::UserRole };

    explicit LedgerModel(DeskDocument& document, QObject* parent = nullptr);
    [[nodiscard]] int rowCount(const QModelIndex& = {}) const override {
        return int(m_rows.size());
    }
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] const Row& row(int i) const { return m_rows[size_t(i)]; }
    [[nodiscard]] int indexOf(series::Id id) const;
    [[nodiscard]] Size picture() const { return m_frame ? m_frame->geometry.stored : Size(); }

    void setShow(Show show);
    [[nodiscard]] Show show() const { return m_show; }
    void setSort(Sort sort);
    /// What of the frame is listed; `kind` nothing = all kinds, sizes in px.
    struct Filter {
        std::optional<find::Kind> kind;
        float leastSize = 0, leastConfidence = 0;
        bool onlySeen = false;  ///< only what the chosen output shows
        bool operator==(const Filter&) const = default;
    };
    void setFilter(const Filter& filter);
    [[nodiscard]] const Filter& filter() const { return m_filter; }
    /// Open findings above the line that the filter lets through.
    [[nodiscard]] std::vector<series::Id> listedOpen() const;
    [[nodiscard]] int unseen() const {
        return m_unseen;
    }  ///< above the line, not seen at the output
    void toggleFold();
    [[nodiscard]] bool unfolded() const { return m_unfolded; }
    [[nodiscard]] int below() const { return m_below; }
    [[nodiscard]] int count(Show show) const { return m_counts[size_t(show)]; }

  private:
    void rebuild();

    DeskDocument& m_document;
    series::FramePtr m_frame;  ///< keeps the entries that the rows point at
    std::vector<Row> m_rows;
    std::array<int, 3> m_counts{};
    Show m_show = Show::Open;
    Sort m_sort = Sort::Confidence;
    bool m_unfolded = false;
    Filter m_filter;
    int m_below = 0, m_unseen = 0;
};

/// "Shadow", "14 px · 0.31 · soft" and the like, for a row.
[[nodiscard]] QString titleOf(const LedgerModel::Row& row);
[[nodiscard]] QString detailOf(const LedgerModel::Row& row);

}  // namespace gq::desk
