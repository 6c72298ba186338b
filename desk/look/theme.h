#pragma once
#include <QColor>
#include <QFont>
#include <QIcon>
#include <QString>

namespace gq::desk {

/// Colours of the window, named by role.
struct Theme {
    QColor window, rail, panel, raised, separator, line, text, dim, faint, accent, onAccent,
        accentText, selected, selectedText, look, surround;
    bool dark = true;
};

/// The theme in use. Light and dark keep the picture's surround neutral.
[[nodiscard]] const Theme& theme();
/// Sets theme, fonts and style sheet of the whole application. `surround`: reflectance of the grey
/// around the picture, 0..1.
void applyTheme(bool dark, double surround = 0.18);
/// A line icon in one of the theme's colours, that of its text or of what lies on the accent.
[[nodiscard]] QIcon icon(const QString& name, QColor Theme::*colour = &Theme::text);
/// Small spaced capitals of a section title.
[[nodiscard]] QFont titleFont();
/// Figures of equal width.
[[nodiscard]] QFont figureFont(double pixels);

}  // namespace gq::desk
