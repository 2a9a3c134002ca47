// Colours between the document, where they are linear, and the screen.
#pragma once
#include <QColor>
#include <optional>

#include "core/graph/value.h"

namespace loom::app {

QColor screenColour(const Vector& linear);
Vector linearColour(const QColor& screen);

/// A typed colour, linear: "#8a6f55" as on screens, a name of the SVG standard such as "dark olive green",
/// "oklch(62% 0.12 230)", or three linear numbers such as "0.25, 0.16, 0.09". Nothing if it makes no sense.
std::optional<Vector> colourFromText(const QString& text);

}  // namespace loom::app
