#pragma once
#include <QButtonGroup>
#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QSpinBox>
#include <array>

#include "desk/bench/tray.h"
#include "desk/document/work.h"

namespace gq::desk {

/// What Find looks for: kinds, light or dark, sizes, strength; and the sight line. A panel that
/// opens above the tray's button; each change is taken over at once and counts at the next search.
class FindSettings : public QWidget {
    Q_OBJECT
  public:
    FindSettings(DeskDocument& document, Work& work, QWidget* parent = nullptr);
    void openAt(const QPoint& lowerLeft);

  private:
    void build();
    void refresh();
    void take();
    [[nodiscard]] QString inMillimetres(double pixels) const;

    DeskDocument& m_document;
    Work& m_work;
    std::array<QCheckBox*, 7> m_kinds{};
    QComboBox *m_polarity, *m_sight;
    ValueSlider* m_strength;
    QSpinBox *m_smallest, *m_largest, *m_screen, *m_print, *m_distance;
    QLabel *m_sizes, *m_outputs;
    QCheckBox* m_skip;
    bool m_filling = false;
};

}  // namespace gq::desk
