#pragma once
#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QPushButton>
#include <QSpinBox>
#include <optional>

#include "core/carry/same_sensor.h"

namespace gq::desk {

/// Asks how pictures were cut out of what the sensor showed, and turned for good.
class CutDialog : public QDialog {
    Q_OBJECT
  public:
    /// `frame` is one of them; its place is shown, or the whole of `sensor`.
    CutDialog(const series::Frame& frame, const Size& sensor, QWidget* parent = nullptr);
    /// What was told; nothing when the pictures are as the camera wrote them.
    [[nodiscard]] std::optional<carry::Cut> cut() const;

  private:
    void refresh();
    series::Frame m_frame;
    QSpinBox *m_width, *m_height, *m_left, *m_top;
    QComboBox* m_turn;
    QLabel* m_note;
    QPushButton* m_take;
    bool m_asTaken = false;
};

}  // namespace gq::desk
