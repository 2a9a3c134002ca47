#include "app/base/ranking.h"

#include <QStringList>
#include <algorithm>

namespace loom::app {

int rank(const QString& name, const QString& words, const QString& typed) {
  const QString label = name.toLower(), wanted = typed.simplified().toLower(), others = words.simplified().toLower();
  if (wanted.isEmpty()) return 0;
  // Several words typed: as they stand, at the beginning of words.
  const auto whole = [&](const QString& text) {
    return QString(QLatin1Char(' ') + text + QLatin1Char(' ')).contains(QLatin1Char(' ') + wanted + QLatin1Char(' '));
  };
  const auto begins = [&](const QString& text) {
    return QString(QLatin1Char(' ') + text).contains(QLatin1Char(' ') + wanted);
  };
  if (label == wanted) return 0;
  if (label.startsWith(wanted + QLatin1Char(' '))) return 1;
  if (whole(label)) return 2;
  if (label.startsWith(wanted)) return 3;
  if (begins(label)) return 4;
  if (whole(others)) return 5;
  if (label.contains(wanted)) return 6;
  if (begins(others)) return 7;
  const QStringList each = wanted.split(QLatin1Char(' '), Qt::SkipEmptyParts);
  const QString all = QLatin1Char(' ') + label + QLatin1Char(' ') + others;
  const bool every =
      std::all_of(each.begin(), each.end(), [&](const QString& word) { return all.contains(QLatin1Char(' ') + word); });
  return each.size() > 1 && every ? 8 : -1;
}

}  // namespace loom::app
