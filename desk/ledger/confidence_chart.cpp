#include "desk/ledger/confidence_chart.h"

#include <QMouseEvent>
#include <QPainter>

#include "desk/look/theme.h"

namespace gq::desk {

namespace {
constexpr int kBars = 24;
}

ConfidenceChart::ConfidenceChart(DeskDocument& document, Work& work, QWidget* parent)
    : QWidget(parent), m_document(document), m_work(work) {
    setObjectName("line");
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::SplitHCursor);
    setFixedHeight(52);
    setToolTip(tr("The line: findings at or above it are proposed"));
    connect(&document, &DeskDocument::changed, this, qOverload<>(&QWidget::update));
    connect(&document, &DeskDocument::currentChanged, this, qOverload<>(&QWidget::update));
}

void ConfidenceChart::paintEvent(QPaintEvent*) {
    const auto frame = m_document.current();
    if (!frame) return;
    QPainter p(this);
    const Theme& t = theme();
    std::array<int, kBars> bars{};
    for (const auto& f : frame->findings)
        ++bars[size_t(std::clamp(int(f.finding.confidence * kBars), 0, kBars - 1))];
    const double most = std::sqrt(double(std::max(1, *std::max_element(bars.begin(), bars.end()))));
    const float line = m_document.line();
    const double w = double(width()) / kBars, base = height() - 4;
    for (int i = 0; i < kBars; ++i) {
        const double h =
            bars[size_t(i)] ? 2 + (base - 8) * std::sqrt(double(bars[size_t(i)])) / most : 1;
        p.fillRect(QRectF(i * w, base - h, w - 1, h), (float(i) + 0.5f) / kBars >= line
                                                          ? t.accent
                                                          : t.line.lighter(t.dark ? 150 : 92));
    }
    const double x = double(line) * width();
    p.fillRect(QRectF(x - 1, 0, 2, height()), hasFocus() ? t.accentText : t.text);
    p.fillRect(QRectF(x - 4, 0, 8, 5), hasFocus() ? t.accentText : t.text);
}

void ConfidenceChart::dragTo(double x) {
    if (!m_document.isOpen()) return;
    m_document.previewLine(
        std::clamp(std::round(float(x) / float(width()) * 100) / 100, 0.0f, 1.0f));
    update();
}

void ConfidenceChart::mousePressEvent(QMouseEvent* e) {
    dragTo(e->position().x());
}
void ConfidenceChart::mouseMoveEvent(QMouseEvent* e) {
    dragTo(e->position().x());
}

void ConfidenceChart::mouseReleaseEvent(QMouseEvent*) {
    if (!m_document.isOpen()) return;
    const float line = m_document.line();
    m_document.previewLine(std::nullopt);
    m_work.setLine(line);
}

void ConfidenceChart::keyPressEvent(QKeyEvent* e) {
    const int step = e->key() == Qt::Key_Left ? -1 : e->key() == Qt::Key_Right ? 1 : 0;
    if (!step || !m_document.isOpen()) return QWidget::keyPressEvent(e);
    m_work.setLine(std::clamp(m_document.now()->plan.line + 0.02f * float(step), 0.0f, 1.0f));
}

}  // namespace gq::desk
