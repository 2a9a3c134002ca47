// Paper and dye: the colours, fonts and style sheet of the application.
#pragma once
#include <QColor>
#include <QFont>
#include <QString>

class QWidget;

namespace loom::app {

struct Theme {
  QColor linen, board, paper, line, ink, mute, indigo, madder, weld, picture, caution;
  QColor edge;    ///< of controls
  QColor thread;  ///< that is not in focus
  QColor hem;     ///< its ground
  bool night = false;
};

/// Day is linen and walnut; night is for dark rooms. Pictures stand on the same grey in both.
const Theme& theme();
void setNight(bool night);

/// A lane's ground, from a small palette of weak tints.
constexpr int kLaneTints = 6;
QColor laneTint(int index);

/// Loads the fonts that ship with the application and sets the default one. Call once after QApplication.
void installTheme();
QFont textFont(qreal pixels, int weight = QFont::Normal);
QFont monoFont(qreal pixels);
/// What a widget is, for the style sheet: name, title, group, mute, caution, accent, fault, mono, bar, racks, rack,
/// preset.
void setRole(QWidget* widget, const char* role);
/// How wide a text is. Measured once: that takes longer than to draw it.
qreal advanceOf(const QFont& font, const QString& text);
/// The font, drawn narrower (to 86 %) if `text` would else not fit into `width`.
QFont fitted(QFont font, const QString& text, qreal width);
QString styleSheet();

}  // namespace loom::app
