#include "desk/look/theme.h"

#include <QApplication>
#include <QFile>
#include <QFontDatabase>
#include <QIconEngine>
#include <QPainter>
#include <QPalette>
#include <QStyleFactory>
#include <QSvgRenderer>
#include <cmath>

/// A static library's resources are only there once asked for; the macro needs the global scope.
static void loadResources() {
    Q_INIT_RESOURCE(look);
}

namespace gq::desk {
namespace {

Theme darkTheme() {
    return {.window = QColor("#1E2122"),
            .rail = QColor("#191C1D"),
            .panel = QColor("#202425"),
            .raised = QColor("#2B3031"),
            .separator = QColor("#121415"),
            .line = QColor("#2C3233"),
            .text = QColor("#DFE3E1"),
            .dim = QColor("#A9B1AE"),
            .faint = QColor("#8A938F"),
            .accent = QColor("#3FA796"),
            .onAccent = QColor("#0E1A18"),
            .accentText = QColor("#7FD0C3"),
            .selected = QColor("#2A3332"),
            .selectedText = QColor("#2F4A46"),
            .look = QColor("#D9A441"),
            .surround = {},
            .dark = true};
}

Theme lightTheme() {
    return {.window = QColor("#F3F4F2"),
            .rail = QColor("#E9EBE8"),
            .panel = QColor("#FBFBFA"),
            .raised = QColor("#E3E6E3"),
            .separator = QColor("#D3D7D3"),
            .line = QColor("#DDE1DD"),
            .text = QColor("#1D2221"),
            .dim = QColor("#4E5755"),
            .faint = QColor("#66706D"),
            .accent = QColor("#1F7F70"),
            .onAccent = QColor("#FFFFFF"),
            .accentText = QColor("#14584E"),
            .selected = QColor("#DCEDE9"),
            .selectedText = QColor("#C6E0DA"),
            .look = QColor("#8A5F07"),
            .surround = {},
            .dark = false};
}

/// The screen's grey of a reflectance, as sRGB has it (IEC 61966-2-1).
QColor greyOf(double reflectance) {
    const double v = reflectance <= 0.0031308 ? 12.92 * reflectance
                                              : 1.055 * std::pow(reflectance, 1 / 2.4) - 0.055;
    return QColor::fromRgbF(float(v), float(v), float(v));
}

Theme& current() {
    static Theme t = darkTheme();
    return t;
}

QString styleSheet(const Theme& t) {
    QString css = QStringLiteral(R"(
* { outline: 0; }
QWidget { color: @text; font-size: 13px; }
QMainWindow, QDialog { background: @window; }
QMenuBar { background: @rail; padding: 2px 6px; }
QMenuBar::item { padding: 4px 8px; background: transparent; color: @dim; border-radius: 4px; }
QMenuBar::item:selected { background: @raised; color: @text; }
QMenu { background: @panel; border: 1px solid @line; padding: 4px; }
QMenu::item { padding: 5px 22px 5px 12px; border-radius: 4px; }
QMenu::item:selected { background: @selectedText; }
QMenu::item:disabled { color: @faint; }
QMenu::separator { height: 1px; background: @line; margin: 4px 8px; }
QWidget#rail { background: @rail; border-right: 1px solid @separator; }
QWidget#column, QListView#frames { background: @panel; border: 0; }
QWidget#panel { background: @panel; border-left: 1px solid @separator; }
QWidget#tray { background: @panel; border-top: 1px solid @separator; }
QLabel#title { color: @dim; }
QLabel#dim, QLabel[dim="true"] { color: @dim; }
QLabel#look { color: @look; }
QListView, QTableView { background: @panel; border: 0; }
QTableWidget::item:selected { background: @selectedText; color: @text; }
QPushButton { background: @raised; border: 1px solid @line; border-radius: 4px; min-height: 26px; padding: 0 10px; }
QPushButton:hover { border-color: @faint; }
QPushButton:focus { border-color: @accent; }
QPushButton:disabled { color: @faint; }
QPushButton[primary="true"] { background: @accent; border-color: @accent; color: @onAccent; font-weight: 600; }
QPushButton[primary="true"]:disabled { background: @raised; border-color: @line; color: @faint; }
QPushButton[chip="true"] { border-radius: 10px; min-height: 20px; padding: 0 8px; color: @dim; font-size: 11px; border-color: @raised; }
QPushButton[chip="true"]:checked { background: @selectedText; border-color: @accent; color: @text; }
QPushButton[segment="true"] { border-radius: 0; border: 1px solid @line; margin-left: -1px; background: transparent; color: @dim; padding: 0 6px; }
QPushButton[segment="true"]:checked { background: @selectedText; color: @text; }
QPushButton[quiet="true"] { background: transparent; border-color: transparent; color: @dim; }
QPushButton[quiet="true"]:hover { color: @text; }
QComboBox, QLineEdit, QSpinBox { background: @raised; border: 1px solid @line; border-radius: 4px; min-height: 26px; padding: 0 8px; selection-background-color: @accent; }
QSpinBox#value { background: transparent; border: 0; padding: 0; min-height: 20px; }
QComboBox:focus, QLineEdit:focus, QSpinBox:focus { border-color: @accent; }
QComboBox::drop-down { border: 0; width: 18px; }
QComboBox::down-arrow { image: url(:/icons/choose.svg); width: 14px; height: 14px; }
QComboBox QAbstractItemView { background: @panel; border: 1px solid @line; selection-background-color: @selectedText; }
QCheckBox::indicator { width: 14px; height: 14px; border: 1px solid @faint; border-radius: 3px; background: @raised; }
QCheckBox::indicator:checked { background: @accent; border-color: @accent; }
QSlider::groove:horizontal { height: 3px; background: @raised; border-radius: 1px; }
QSlider::sub-page:horizontal { background: @accent; border-radius: 1px; }
QSlider::handle:horizontal { width: 5px; height: 13px; margin: -5px 0; background: @text; border-radius: 2px; }
QProgressBar { background: @raised; border: 0; border-radius: 2px; max-height: 4px; min-height: 4px; }
QProgressBar::chunk { background: @accent; border-radius: 2px; }
QScrollBar:vertical { background: transparent; width: 10px; }
QScrollBar:horizontal { background: transparent; height: 10px; }
QScrollBar::handle { background: @line; border-radius: 4px; min-height: 28px; min-width: 28px; margin: 1px; }
QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
QHeaderView { background: @panel; border: 0; }
QHeaderView::section { background: @panel; color: @dim; border: 0; padding: 4px; font-size: 11px; }
QListView#queue { padding: 8px; }
QTableCornerButton::section { background: @panel; border: 0; }
QSplitter::handle { background: @separator; }
QToolTip { background: @raised; color: @text; border: 1px solid @line; padding: 4px; }
)");
    const std::pair<const char*, QColor> names[] = {
        {"@onAccent", t.onAccent}, {"@window", t.window}, {"@rail", t.rail},
        {"@panel", t.panel},       {"@raised", t.raised}, {"@separator", t.separator},
        {"@line", t.line},         {"@text", t.text},     {"@dim", t.dim},
        {"@faint", t.faint},       {"@accent", t.accent}, {"@selectedText", t.selectedText},
        {"@look", t.look}};
    for (const auto& [name, colour] : names) css.replace(QLatin1String(name), colour.name());
    return css;
}

void loadFonts() {
    static bool done = false;
    if (std::exchange(done, true)) return;
    loadResources();
    for (const char* f : {"Regular", "Medium", "SemiBold"})
        QFontDatabase::addApplicationFont(
            QStringLiteral(":/fonts/Inter-%1.otf").arg(QLatin1String(f)));
}

/// A drawing of lines in a colour of the theme that holds when it is painted.
class LineIcon : public QIconEngine {
  public:
    LineIcon(QByteArray svg, QColor Theme::*colour) : m_svg(std::move(svg)), m_colour(colour) {}
    void paint(QPainter* painter, const QRect& rect, QIcon::Mode mode, QIcon::State) override {
        QByteArray svg = m_svg;
        const QColor& colour = mode == QIcon::Disabled ? theme().faint : theme().*m_colour;
        svg.replace("#DFE3E1", colour.name().toLatin1());
        QSvgRenderer(svg).render(painter, rect);
    }
    QPixmap pixmap(const QSize& size, QIcon::Mode mode, QIcon::State state) override {
        QPixmap out(size);
        out.fill(Qt::transparent);
        QPainter painter(&out);
        paint(&painter, QRect({}, size), mode, state);
        return out;
    }
    [[nodiscard]] QIconEngine* clone() const override { return new LineIcon(*this); }

  private:
    QByteArray m_svg;
    QColor Theme::*m_colour;
};

}  // namespace

const Theme& theme() {
    return current();
}

void applyTheme(bool dark, double surround) {
    loadFonts();
    current() = dark ? darkTheme() : lightTheme();
    current().surround = greyOf(surround);
    const Theme& t = current();
    QApplication::setStyle(QStyleFactory::create(QStringLiteral("Fusion")));
    QFont font(QStringLiteral("Inter"));
    font.setPixelSize(13);
    QApplication::setFont(font);
    QPalette p;
    p.setColor(QPalette::Window, t.window);
    p.setColor(QPalette::Base, t.panel);
    p.setColor(QPalette::AlternateBase, t.raised);
    p.setColor(QPalette::Button, t.raised);
    for (const auto role : {QPalette::Text, QPalette::WindowText, QPalette::ButtonText})
        p.setColor(role, t.text);
    p.setColor(QPalette::PlaceholderText, t.faint);
    p.setColor(QPalette::Highlight, t.accent);
    QApplication::setPalette(p);
    qApp->setStyleSheet(styleSheet(t));
}

QIcon icon(const QString& name, QColor Theme::*colour) {
    QFile file(QStringLiteral(":/icons/%1.svg").arg(name));
    if (!file.open(QIODevice::ReadOnly)) return {};
    return QIcon(new LineIcon(file.readAll(), colour));
}

QFont titleFont() {
    QFont f(QStringLiteral("Inter"));
    f.setPixelSize(11);
    f.setWeight(QFont::DemiBold);
    f.setCapitalization(QFont::AllUppercase);
    f.setLetterSpacing(QFont::PercentageSpacing, 108);
    return f;
}

QFont figureFont(double pixels) {
    QFont f(QStringLiteral("Inter"));
    f.setPixelSize(int(pixels));
    return f;
}

}  // namespace gq::desk
