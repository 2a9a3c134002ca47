// A small dialogue that narrows its list as one types.
#include "app/shell/pick.h"

#include <QDialog>
#include <QLineEdit>
#include <QListWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <numeric>
#include <vector>

namespace loom::app {

bool matches(const QString& text, const QString& typed) {
  if (text.contains(typed, Qt::CaseInsensitive)) return true;
  const auto begins = [&](const QString& word) {
    return text.startsWith(word, Qt::CaseInsensitive) || text.contains(QLatin1Char(' ') + word, Qt::CaseInsensitive);
  };
  const QStringList words = typed.split(QLatin1Char(' '), Qt::SkipEmptyParts);
  return std::all_of(words.begin(), words.end(), begins);
}

void pick(QWidget* parent, const QString& title, const QStringList& entries, const std::function<void(int)>& chosen,
          const QStringList& also) {
  QDialog dialog(parent);
  dialog.setWindowTitle(title);
  dialog.resize(440, 380);
  auto* box = new QVBoxLayout(&dialog);
  auto* line = new QLineEdit(&dialog);
  line->setAccessibleName(title);
  auto* list = new QListWidget(&dialog);
  list->setAccessibleName(title);
  box->addWidget(line);
  box->addWidget(list);
  const auto refill = [&](const QString& typed) {
    list->clear();
    // What begins so stands before what has a word that does, and that before the rest.
    std::vector<int> order(static_cast<std::size_t>(entries.size()));
    std::iota(order.begin(), order.end(), 0);
    const auto rank = [&](int i) {
      return typed.isEmpty() || entries[i].startsWith(typed, Qt::CaseInsensitive) ? 0
             : entries[i].contains(QLatin1Char(' ') + typed, Qt::CaseInsensitive) ? 1
                                                                                  : 2;
    };
    std::stable_sort(order.begin(), order.end(), [&](int a, int b) { return rank(a) < rank(b); });
    for (const int i : order)
      if (const qsizetype at = also.value(i).indexOf(typed, 0, Qt::CaseInsensitive);
          matches(entries[i], typed) || at >= 0) {
        const QString found =
            typed.isEmpty() || at < 0
                ? QString()
                : QStringLiteral("    … ") +
                      also[i]
                          .mid(std::max<qsizetype>(0, also[i].lastIndexOf(QLatin1Char('\n'), at) + 1), 60)
                          .section(QLatin1Char('\n'), 0, 0);
        auto* item = new QListWidgetItem(entries[i] + found, list);
        item->setData(Qt::UserRole, i);
      }
    list->setCurrentRow(0);
  };
  refill({});
  int result = -1;
  const auto accept = [&] {
    if (list->currentItem()) result = list->currentItem()->data(Qt::UserRole).toInt();
    dialog.accept();
  };
  QObject::connect(line, &QLineEdit::textChanged, &dialog, refill);
  QObject::connect(line, &QLineEdit::returnPressed, &dialog, accept);
  QObject::connect(list, &QListWidget::itemActivated, &dialog, accept);
  line->setFocus();
  dialog.exec();
  if (result >= 0) chosen(result);
}

}  // namespace loom::app
