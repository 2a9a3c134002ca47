// One of many, by typing.
#pragma once
#include <QStringList>
#include <functional>

class QWidget;

namespace loom::app {

/// A line to type in above a list that narrows; `chosen` gets the entry's place in `entries`, unless the dialogue is
/// left. `also`: text by which an entry is found beside its own; where that is what fits, it is shown.
void pick(QWidget* parent, const QString& title, const QStringList& entries, const std::function<void(int)>& chosen,
          const QStringList& also = {});

}  // namespace loom::app
