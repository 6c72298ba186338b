#pragma once
#include <QLabel>
#include <QMainWindow>
#include <QSplitter>
#include <QStackedWidget>

#include "desk/app/actions.h"
#include "desk/app/notice.h"
#include "desk/bench/bench_view.h"
#include "desk/bench/tray.h"
#include "desk/document/crops.h"
#include "desk/frames/frame_column.h"
#include "desk/ledger/ledger_panel.h"
#include "desk/stages/carry_board.h"
#include "desk/stages/carry_panel.h"
#include "desk/stages/contact_sheet.h"
#include "desk/stages/deliver_panel.h"
#include "desk/stages/delivery_queue.h"
#include "desk/stages/find_settings.h"
#include "desk/stages/series_panel.h"
#include "desk/stages/stage_rail.h"

namespace gq::desk {

/// The one window: rail, frame column, bench or the stage's own view, tray, ledger or panel.
class MainWindow : public QMainWindow {
    Q_OBJECT
  public:
    explicit MainWindow(QWidget* parent = nullptr);
    ~MainWindow() override;

    void open(const std::vector<std::filesystem::path>& paths);
    void setStage(Stage stage);
    /// Has the simulated device write into `folder` and opens what it wrote.
    void bringInto(const QString& device, const QString& folder);

    // The parts, for tests and pictures.
    [[nodiscard]] DeskDocument& document() { return *m_document; }
    [[nodiscard]] Pictures& pictures() { return *m_pictures; }
    [[nodiscard]] Crops& crops() { return *m_crops; }
    [[nodiscard]] Work& work() { return *m_work; }
    [[nodiscard]] LiveCarry& liveCarry() { return *m_live; }
    [[nodiscard]] MendWork& mendWork() { return *m_mends; }
    [[nodiscard]] Jobs& jobs() { return *m_jobs; }
    [[nodiscard]] BenchView& bench() { return *m_bench; }
    [[nodiscard]] LedgerPanel& ledger() { return *m_ledger; }
    [[nodiscard]] CarryBoard& board() { return *m_board; }
    [[nodiscard]] StageRail& rail() { return *m_rail; }
    /// Nothing is loading, composing, saving or being made.
    [[nodiscard]] bool settled() const;
    [[nodiscard]] QString notice() const {
        return m_notice->isVisible() ? m_notice->text() : QString();
    }

  protected:
    void keyPressEvent(QKeyEvent* e) override;
    void keyReleaseEvent(QKeyEvent* e) override;
    void closeEvent(QCloseEvent* e) override;

  private:
    void build();
    void connectParts();
    void addCommands();  ///< commands.cpp
    void addEditCommands();
    void addGuideCommands();
    void addViewCommands();
    void addSeriesCommands();
    void askFolder();
    void askLocation();
    void frameMenu(const QPoint& at);
    void note(const QString& words);
    void applyLook();  ///< as the preferences say
    void askPreferences(bool keys);
    void bringIn(const QString& device);
    void tell(const Error& error);
    void refresh();
    void find(bool wholeSeries);

    Preferences m_preferences;
    Jobs* m_jobs;
    DeskDocument* m_document;
    Pictures* m_pictures;
    Crops* m_crops;
    Work* m_work;
    GatherWork* m_gather;
    LiveCarry* m_live;
    MendWork* m_mends;
    GuideWork* m_guides;
    FrameModel* m_frames;
    Actions* m_actions;
    StageRail* m_rail;
    FrameColumn* m_column;
    QStackedWidget *m_centre, *m_side;
    BenchView* m_bench;
    Tray* m_tray;
    LedgerPanel* m_ledger;
    CarryBoard* m_board;
    CarryPanel* m_carry;
    DeliverPanel* m_deliver;
    DeliveryQueue* m_queue;
    SeriesPanel* m_series;
    FindSettings* m_findSettings;
    ContactSheet* m_sheet;
    Notice* m_notice;
    QLabel* m_saveState;
    int m_held = 0;  ///< the key that shows the picture as it was; 0 = none
};

}  // namespace gq::desk
