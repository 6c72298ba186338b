#include "desk/stages/chart_box.h"

#include <QFileDialog>
#include <QVBoxLayout>

#include "desk/look/convert.h"
#include "desk/stages/series_panel.h"

namespace gq::desk {

ChartBox::ChartBox(DeskDocument& document, Work& work, Jobs& jobs, QWidget* parent)
    : QWidget(parent), m_document(document), m_work(work), m_jobs(jobs) {
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(0, 0, 0, 0);
    all->setSpacing(8);
    all->addWidget(sectionTitle(tr("Dust chart")));
    auto* row = new QHBoxLayout;
    m_save = new QPushButton(tr("Save…"));
    m_save->setObjectName("chartSave");
    m_save->setToolTip(
        tr("Write the dust that this series shows, for later series of the camera. Places left "
           "alone on the reference frame are not in it, those mended there by hand are."));
    m_carry = new QPushButton(tr("Carry one…"));
    m_carry->setObjectName("chartCarry");
    m_carry->setToolTip(
        tr("Carry a chart of this camera to the ticked frames; what moved, went "
           "or came since is told"));
    row->addWidget(m_save);
    row->addWidget(m_carry);
    all->addLayout(row);
    connect(m_save, &QPushButton::clicked, this, &ChartBox::save);
    connect(m_carry, &QPushButton::clicked, this, &ChartBox::carry);
    connect(&document, &DeskDocument::changed, this, &ChartBox::refresh);
    connect(&jobs, &Jobs::changed, this, &ChartBox::refresh);
    refresh();
}

void ChartBox::save() {
    const QString file =
        QFileDialog::getSaveFileName(this, tr("Save the dust chart"),
                                     text(m_document.now()->name) + QStringLiteral(".chart.json"));
    if (!file.isEmpty()) m_work.saveChart(file.toStdString());
}

void ChartBox::carry() {
    const QString file = QFileDialog::getOpenFileName(this, tr("Carry a dust chart"), {},
                                                      tr("Dust charts (*.json)"));
    if (!file.isEmpty()) m_work.carryChart(file.toStdString(), m_document.tickedFrames());
}

void ChartBox::refresh() {
    const auto s = m_document.now();
    setVisible(s && s->plan.origin == find::Origin::Sensor);
    m_save->setEnabled(s && s->frames.size() >= 3 && !m_jobs.busy());
    m_carry->setEnabled(s && !m_jobs.busy());
}

}  // namespace gq::desk
