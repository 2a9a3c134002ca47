#include "app/tray/screen_colour.h"

#include <algorithm>
#include <cmath>

#include "app/tray/parameter_row.h"
#include "core/plane/colour.h"

namespace loom::app {

QColor screenColour(const Vector& linear) {
  const auto code = [&](std::size_t i) {
    return std::clamp(srgb_from_linear(static_cast<float>(i < linear.size() ? linear[i] : 0)), 0.0f, 1.0f);
  };
  return QColor::fromRgbF(code(0), code(1), code(2));
}

Vector linearColour(const QColor& screen) {
  const auto linear = [](float x) { return std::round(static_cast<double>(linear_from_srgb(x)) * 1e5) / 1e5; };
  return {linear(static_cast<float>(screen.redF())), linear(static_cast<float>(screen.greenF())),
          linear(static_cast<float>(screen.blueF()))};
}

std::optional<Vector> colourFromText(const QString& text) {
  if (text.trimmed().startsWith(QLatin1Char('#'))) {
    const QColor colour(text.trimmed());
    return colour.isValid() ? std::optional(linearColour(colour)) : std::nullopt;
  }
  Vector v;
  for (const QString& part : text.split(QLatin1Char(','))) {
    double x = 0;
    if (!numberFromText(part, x)) return {};
    v.push_back(std::clamp(x, 0.0, 1000.0));
  }
  return v.size() == 3 ? std::optional(v) : std::nullopt;
}

}  // namespace loom::app
