// The two buttons under a small dialogue.
#pragma once
#include <QDialog>
#include <QDialogButtonBox>
#include <QPushButton>

namespace loom::app {

/// One that accepts the dialogue, called so, and one that leaves all as it was.
inline QDialogButtonBox* takeOrLeave(const QString& take, QDialog* dialog) {
  auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel, dialog);
  buttons->button(QDialogButtonBox::Ok)->setText(take);
  buttons->button(QDialogButtonBox::Cancel)->setText(QDialog::tr("leave"));
  QObject::connect(buttons, &QDialogButtonBox::accepted, dialog, &QDialog::accept);
  QObject::connect(buttons, &QDialogButtonBox::rejected, dialog, &QDialog::reject);
  return buttons;
}

}  // namespace loom::app
