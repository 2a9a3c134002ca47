// What is on either side of the line between two pictures.
#pragma once
#include <QRectF>
#include <QString>

class QPainter;

namespace loom::app {

/// Each name on its own side at the foot of the picture, beside the line and never under it; one that has no room on
/// its side is left out.
void paintSides(QPainter& p, const QRectF& picture, qreal line, const QString& left, const QString& right);

}  // namespace loom::app
