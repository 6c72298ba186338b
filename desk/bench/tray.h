#pragma once
#include <QButtonGroup>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QSlider>
#include <QSpinBox>
#include <QStackedWidget>

#include "desk/bench/bench_view.h"
#include "desk/jobs/jobs.h"
#include "desk/stages/stage_rail.h"

namespace gq::desk {

/// A thin slider with its value as an editable number beside it.
class ValueSlider : public QWidget {
    Q_OBJECT
  public:
    ValueSlider(const QString& name, int least, int most, QWidget* parent = nullptr);
    void setValue(int value);
    [[nodiscard]] int value() const { return m_number->value(); }
    /// Takes the width there is instead of the tray's narrow one, after a name of so many px.
    void stretch(int nameWidth = 64);

  signals:
    void moved(int value);    ///< while it moves
    void settled(int value);  ///< when it is let go, or a number was typed

  private:
    QSlider* m_slider;
    QSpinBox* m_number;
};

/// The row under the bench: what the stage and the held tool need, the viewing light, the zoom; or
/// the running job with its progress and Stop.
class Tray : public QWidget {
    Q_OBJECT
  public:
    Tray(DeskDocument& document, GuideWork& guides, BenchView& bench, Jobs& jobs,
         QWidget* parent = nullptr);
    void setStage(Stage stage);

  signals:
    void findHere();
    void findSeries();
    void lookFor(const QPoint& lowerLeft);  ///< the settings of the search are wanted there
    void guideMenu(const QPoint& lowerLeft);

  private:
    void refresh();
    void refreshJob();
    DeskDocument& m_document;
    GuideWork& m_guides;
    BenchView& m_bench;
    Jobs& m_jobs;
    Stage m_stage = Stage::Gather;
    QStackedWidget* m_pages;
    QWidget* makeGuideBox();
    QPushButton *m_findHere, *m_findSeries, *m_lookFor, *m_guideButton;
    QPushButton *m_lasso, *m_erase, *m_alone;
    QWidget *m_guideBox, *m_toolBox;
    QButtonGroup* m_tools;
    QWidget* makeToolBox();
    QLabel* m_guideName;
    ValueSlider *m_size, *m_softness, *m_reach, *m_gain;
    QButtonGroup* m_lights;
    QWidget* m_lightBox;
    QLabel *m_zoom, *m_hint, *m_jobName, *m_jobLeft;
    QProgressBar* m_jobBar;
};

}  // namespace gq::desk
