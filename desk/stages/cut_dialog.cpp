#include "desk/stages/cut_dialog.h"

#include <QDialogButtonBox>
#include <QFormLayout>
#include <QHBoxLayout>

#include "desk/look/convert.h"

namespace gq::desk {
namespace {

constexpr std::array kTurns{Orientation::Upright,   Orientation::Turn90,    Orientation::Turn180,
                            Orientation::Turn270,   Orientation::MirrorX,   Orientation::MirrorY,
                            Orientation::Transpose, Orientation::Transverse};

QSpinBox* pixels(int value, const char* name) {
    auto* box = new QSpinBox;
    box->setRange(0, 200000);
    box->setSuffix(QObject::tr(" px"));
    box->setObjectName(name);
    box->setValue(value);
    return box;
}

QWidget* pair(QWidget* a, QWidget* b) {
    auto* both = new QWidget;
    auto* row = new QHBoxLayout(both);
    row->setContentsMargins(0, 0, 0, 0);
    row->addWidget(a);
    row->addWidget(b);
    return both;
}

}  // namespace

CutDialog::CutDialog(const series::Frame& frame, const Size& sensor, QWidget* parent)
    : QDialog(parent), m_frame(frame) {
    setObjectName("cutDialog");
    setWindowTitle(tr("Cut or turned"));
    const auto& g = frame.geometry;
    const Size whole = g.sensor.empty() ? sensor : g.sensor;
    auto* form = new QFormLayout(this);
    form->setSpacing(10);
    auto* what = new QLabel(
        tr("Where %1, and the other ticked frames of its size, lie on the camera's sensor, so that "
           "mends and charts land where the dust is.")
            .arg(text(frame.name())));
    what->setWordWrap(true);
    what->setMinimumWidth(420);
    form->addRow(what);
    m_width = pixels(whole.width, "sensorWidth");
    m_height = pixels(whole.height, "sensorHeight");
    form->addRow(tr("The whole picture was"), pair(m_width, m_height));
    m_turn = new QComboBox;
    m_turn->setObjectName("turn");
    m_turn->addItems({tr("not turned"), tr("turned a quarter to the right"),
                      tr("turned upside down"), tr("turned a quarter to the left"),
                      tr("mirrored left to right"), tr("mirrored top to bottom"),
                      tr("mirrored, turned a quarter to the left"),
                      tr("mirrored, turned a quarter to the right")});
    for (size_t i = 0; i < kTurns.size(); ++i)
        if (kTurns[i] == g.storedTurn) m_turn->setCurrentIndex(int(i));
    form->addRow(tr("Then it was"), m_turn);
    m_left = pixels(int(g.cropOffset.x), "cutLeft");
    m_top = pixels(int(g.cropOffset.y), "cutTop");
    form->addRow(tr("And cut from left, top"), pair(m_left, m_top));
    m_note = new QLabel;
    m_note->setObjectName("dim");
    m_note->setWordWrap(true);
    form->addRow(m_note);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    m_take = buttons->button(QDialogButtonBox::Ok);
    auto* asTaken = buttons->addButton(tr("As the camera wrote it"), QDialogButtonBox::ResetRole);
    asTaken->setObjectName("asTaken");
    form->addRow(buttons);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(asTaken, &QPushButton::clicked, this, [this] {
        m_asTaken = true;
        accept();
    });
    for (auto* box : {m_width, m_height, m_left, m_top})
        connect(box, &QSpinBox::valueChanged, this, &CutDialog::refresh);
    connect(m_turn, &QComboBox::currentIndexChanged, this, &CutDialog::refresh);
    refresh();
}

std::optional<carry::Cut> CutDialog::cut() const {
    if (m_asTaken) return std::nullopt;
    return carry::Cut{{m_width->value(), m_height->value()},
                      kTurns[size_t(m_turn->currentIndex())],
                      {m_left->value(), m_top->value()}};
}

void CutDialog::refresh() {
    const auto placed = carry::asCut(m_frame, cut());
    m_take->setEnabled(placed.has_value());
    m_note->setText(placed ? tr("%1 x %2 px of it are in the picture.")
                                 .arg(m_frame.geometry.stored.width)
                                 .arg(m_frame.geometry.stored.height)
                           : text(placed.error().message()));
}

}  // namespace gq::desk
