// A small dialogue that narrows its list as one types.
#include "app/shell/pick.h"

#include <QDialog>
#include <QLineEdit>
#include <QListWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <vector>

#include "app/base/ranking.h"

namespace loom::app {

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
  list->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  box->addWidget(line);
  box->addWidget(list);
  const auto refill = [&](const QString& typed) {
    list->clear();
    std::vector<std::pair<int, int>> found;
    for (int i = 0; i < entries.size(); ++i)
      if (const int r = rank(entries[i], also.value(i), typed); r >= 0)
        found.emplace_back(r, i);
      else if (also.value(i).contains(typed, Qt::CaseInsensitive))  // within a value or a note, last of all
        found.emplace_back(100, i);
    std::stable_sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    for (const auto& [r, i] : found) {
      const qsizetype at = also.value(i).indexOf(typed, 0, Qt::CaseInsensitive);
      const QString why = typed.isEmpty() || at < 0 || entries[i].contains(typed, Qt::CaseInsensitive)
                              ? QString()
                              : QStringLiteral("    … ") +
                                    also[i]
                                        .mid(std::max<qsizetype>(0, also[i].lastIndexOf(QLatin1Char('\n'), at) + 1), 60)
                                        .section(QLatin1Char('\n'), 0, 0);
      auto* item = new QListWidgetItem(entries[i] + why, list);
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
