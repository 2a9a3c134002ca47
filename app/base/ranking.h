// How well a name fits what is typed.
#pragma once
#include <QString>

namespace loom::app {

/// The lower the better; -1: not at all. A whole word of the name comes before the beginning of a longer one, the
/// name's first word before others, the name before the other words that it is found by.
int rank(const QString& name, const QString& words, const QString& typed);

}  // namespace loom::app
