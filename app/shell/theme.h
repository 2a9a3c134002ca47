// Paper and dye: the colours, fonts and style sheet of the application.
#pragma once
#include <QColor>
#include <QFont>
#include <QString>

namespace loom::app {

struct Theme {
  QColor linen, board, paper, line, ink, mute, indigo, madder, weld, picture, caution;
  bool night = false;
};

/// Day is linen and walnut; night is for dark rooms. Pictures stand on the same grey in both.
const Theme& theme();
void setNight(bool night);

/// A lane's ground, from a small palette of weak tints.
QColor laneTint(int index);

/// Loads the fonts that ship with the application and sets the default one. Call once after QApplication.
void installTheme();
QFont textFont(qreal pixels, int weight = QFont::Normal);
QFont monoFont(qreal pixels);
QString styleSheet();

}  // namespace loom::app
