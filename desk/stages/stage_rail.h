#pragma once
#include <QWidget>

#include "desk/document/live_carry.h"
#include "desk/document/work.h"

namespace gq::desk {

enum class Stage { Gather, Find, Mend, Carry, Deliver };
inline constexpr int kStages = 5;

/// The path of stages in working order, each with where the series stands.
class StageRail : public QWidget {
    Q_OBJECT
  public:
    StageRail(DeskDocument& document, Work& work, LiveCarry& live, QWidget* parent = nullptr);
    void setStage(Stage stage);
    [[nodiscard]] Stage stage() const { return m_stage; }
    [[nodiscard]] QRect stop(Stage stage) const;  ///< where a stage is drawn
    [[nodiscard]] QString state(Stage stage) const;

  signals:
    void chosen(gq::desk::Stage stage);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* e) override;
    bool event(QEvent* e) override;

  private:
    void count();
    void paintKinds(QPainter& p) const;

    DeskDocument& m_document;
    Work& m_work;
    LiveCarry& m_live;
    Stage m_stage = Stage::Gather;
    /// Of the whole series as it is now.
    struct Counts {
        std::array<int, 7> open{};  ///< findings above the line, by kind
        int mends = 0, reached = 0;
    } m_counts;
};

}  // namespace gq::desk
