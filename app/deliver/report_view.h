// What was delivered, file by file: to be read, opened and dragged into another program.
#pragma once
#include <QListWidget>

#include "core/bolt/delivery.h"

class QLabel;

namespace loom::app {

/// The files of a report; a drag takes those that are selected along, a double click opens one.
class ReportFiles : public QListWidget {
  Q_OBJECT
 public:
  explicit ReportFiles(QWidget* parent = nullptr);
  void show(const DeliveryReport& report);

 protected:
  QStringList mimeTypes() const override;
  QMimeData* mimeData(const QList<QListWidgetItem*>& items) const override;
};

class ReportView : public QWidget {
  Q_OBJECT
 public:
  explicit ReportView(QWidget* parent = nullptr);
  void showReport(const DeliveryReport& report);
  void showFault(const QString& text);
  ReportFiles* files() const { return files_; }
  /// All of it as text.
  static QString textOf(const DeliveryReport& report);

 private:
  QLabel *head_, *notes_;
  ReportFiles* files_;
};

}  // namespace loom::app
