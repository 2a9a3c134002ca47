#include "app/tray/screen_colour.h"

#include <algorithm>
#include <cmath>

#include <QRegularExpression>

#include "app/tray/parameter_row.h"
#include "core/nodes/oklab.h"
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

namespace {

// oklch(L C H) of CSS Color Module Level 4: L as a number or per cent, C, and H in degrees.
std::optional<Vector> colourFromOklch(const QString& text) {
  static const QRegularExpression kForm(
      QStringLiteral("^oklch\\(\\s*([0-9.]+)(%?)[\\s,]+([0-9.]+)[\\s,]+(-?[0-9.]+)(?:deg)?\\s*\\)$"));
  const auto parts = kForm.match(text);
  if (!parts.hasMatch()) return {};
  const double light = parts.captured(1).toDouble() / (parts.captured(2).isEmpty() ? 1 : 100),
               chroma = parts.captured(3).toDouble(), hue = parts.captured(4).toDouble() / 57.29577951308232;
  Vector v;
  for (const double x : linear_from_oklab(std::array{light, chroma * std::cos(hue), chroma * std::sin(hue)}))
    v.push_back(std::clamp(std::round(x * 1e5) / 1e5, 0.0, 1000.0));
  return v;
}

}  // namespace

std::optional<Vector> colourFromText(const QString& text) {
  const QString plain = text.trimmed().toLower();
  if (plain.startsWith(QLatin1String("oklch"))) return colourFromOklch(plain);
  if (!plain.isEmpty() && (plain[0] == QLatin1Char('#') || plain[0].isLetter())) {
    const QColor colour(QString(plain).remove(QLatin1Char(' ')));
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
