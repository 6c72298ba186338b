#pragma once
#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QWidget>

#include "desk/document/crops.h"
#include "desk/document/gather_work.h"
#include "desk/document/work.h"
#include "desk/stages/negative_box.h"

namespace gq::desk {

/// Gather's panel: what the series is, its origin, and the frame that is looked at.
class SeriesPanel : public QWidget {
    Q_OBJECT
  public:
    SeriesPanel(DeskDocument& document, Work& work, GatherWork& gather, Crops& crops,
                QWidget* parent = nullptr);

  signals:
    void addFrames();
    void goFind();
    void locate();
    void pickBase();
    void bringIn(const QString& device);  ///< "card", "film" or "flatbed"

  private:
    void refresh();
    void tellAmiss();  ///< which files are not as they were gathered, and the ways out
    void suggest();    ///< the frame on which dust shows best, once all thumbnails are there
    DeskDocument& m_document;
    Work& m_work;
    GatherWork& m_gather;
    Crops& m_crops;
    NegativeBox* m_negative;
    QLabel *m_negativeTitle, *m_suggestion;
    QPushButton *m_takeSuggestion, *m_locate, *m_takeAsTheyAre;
    std::string m_suggested;
    QLabel *m_title, *m_facts, *m_amiss, *m_frameTitle, *m_frameFacts;
    QComboBox* m_origin;
    QPushButton* m_reference;
};

/// A title in the manner of all panels.
[[nodiscard]] QLabel* sectionTitle(const QString& text);

}  // namespace gq::desk
