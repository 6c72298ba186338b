#pragma once
#include <QButtonGroup>
#include <QCheckBox>
#include <QLabel>
#include <QPushButton>

#include "desk/bench/tray.h"
#include "desk/document/work.h"

namespace gq::desk {

/// How the current frame's negative is shown: the film base found or picked, exposure and contrast
/// of all channels or one, monochrome. Part of the Gather panel; only for film negatives.
class NegativeBox : public QWidget {
    Q_OBJECT
  public:
    NegativeBox(DeskDocument& document, Work& work, QWidget* parent = nullptr);
    void refresh();

  signals:
    void pickBase();

  private:
    void preview();  ///< while a slider moves
    void take();     ///< when it is let go: one step
    [[nodiscard]] film::Inversion asSet(film::Inversion from) const;

    DeskDocument& m_document;
    Work& m_work;
    QPushButton *m_find, *m_findAll, *m_pick, *m_asScanned;
    QButtonGroup* m_channel;
    ValueSlider *m_exposure, *m_contrast;
    QCheckBox* m_monochrome;
    QWidget* m_values;
    std::optional<film::Inversion> m_before;  ///< while a slider moves: where it began
    bool m_filling = false;
};

}  // namespace gq::desk
