#include "app/deliver/report_view.h"

#include <QDesktopServices>
#include <QLabel>
#include <QMimeData>
#include <QTime>
#include <QUrl>
#include <QVBoxLayout>

#include "app/base/theme.h"

namespace loom::app {
namespace {

constexpr int kMostRows = 7, kRow = 18;

QString lineOf(const DeliveredFile& f) {
  const QString encoding = f.srgb ? ReportView::tr("sRGB") : ReportView::tr("linear");
  return QString::fromStdString(f.path.filename().string()) +
         (f.bits ? ReportView::tr("  %1 %2 bit").arg(encoding).arg(f.bits) : QString()) +  // no picture
         (f.unchanged ? ReportView::tr("  unchanged") : QString());
}

QString headOf(const DeliveryReport& report) {
  return ReportView::tr("%1 files delivered in %2 s at %3:")
      .arg(report.files.size())
      .arg(report.total_milliseconds / 1000, 0, 'f', 1)
      .arg(QTime::currentTime().toString(QStringLiteral("HH:mm")));
}

QString notesOf(const DeliveryReport& report) {
  QStringList lines;
  for (const std::string& warning : report.warnings)
    lines << ReportView::tr("Note: %1.").arg(QString::fromStdString(warning));
  return lines.join(QLatin1Char('\n'));
}

}  // namespace

ReportFiles::ReportFiles(QWidget* parent) : QListWidget(parent) {
  setAccessibleName(tr("Delivered files"));
  setRole(this, "plain");
  setFrameShape(QFrame::NoFrame);
  setSelectionMode(QAbstractItemView::ExtendedSelection);
  setDragDropMode(QAbstractItemView::DragOnly);
  setUniformItemSizes(true);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setToolTip(tr("Drag files from here into another program; a double click opens one"));
  connect(this, &QListWidget::itemActivated, this, [](const QListWidgetItem* item) {
    QDesktopServices::openUrl(QUrl::fromLocalFile(item->data(Qt::UserRole).toString()));
  });
}

void ReportFiles::show(const DeliveryReport& report) {
  clear();
  for (const DeliveredFile& f : report.files) {
    auto* item = new QListWidgetItem(lineOf(f), this);
    item->setData(Qt::UserRole, QString::fromStdString(std::filesystem::absolute(f.path).string()));
    item->setSizeHint(QSize(0, kRow));
  }
  setFixedHeight(kRow * std::min(count(), kMostRows) + 4);
}

QStringList ReportFiles::mimeTypes() const { return {QStringLiteral("text/uri-list")}; }

QMimeData* ReportFiles::mimeData(const QList<QListWidgetItem*>& items) const {
  QList<QUrl> urls;
  for (const QListWidgetItem* item : items) urls << QUrl::fromLocalFile(item->data(Qt::UserRole).toString());
  auto* dragged = new QMimeData;
  dragged->setUrls(urls);
  return dragged;
}

ReportView::ReportView(QWidget* parent)
    : QWidget(parent), head_(new QLabel(this)), notes_(new QLabel(this)), files_(new ReportFiles(this)) {
  auto* box = new QVBoxLayout(this);
  box->setContentsMargins(0, 0, 0, 0);
  box->setSpacing(2);
  for (auto* label : {head_, notes_}) {
    label->setWordWrap(true);
    label->setTextInteractionFlags(Qt::TextSelectableByMouse);
  }
  head_->setAccessibleName(tr("Report"));
  for (QWidget* part : std::initializer_list<QWidget*>{head_, files_, notes_}) box->addWidget(part), part->hide();
}

void ReportView::showReport(const DeliveryReport& report) {
  setRole(head_, "");
  head_->setText(headOf(report));
  files_->show(report);
  notes_->setText(notesOf(report));
  head_->show();
  files_->setVisible(!report.files.empty());
  notes_->setVisible(!notes_->text().isEmpty());
}

void ReportView::showFault(const QString& text) {
  setRole(head_, "fault");
  head_->setText(text);
  head_->show();
  files_->hide();
  notes_->hide();
}

QString ReportView::textOf(const DeliveryReport& report) {
  QStringList lines{headOf(report)};
  for (const DeliveredFile& f : report.files) lines << lineOf(f);
  if (const QString notes = notesOf(report); !notes.isEmpty()) lines << notes;
  return lines.join(QLatin1Char('\n'));
}

}  // namespace loom::app

#include "moc_report_view.cpp"
