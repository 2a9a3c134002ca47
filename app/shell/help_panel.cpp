// Texts are escaped: a help may hold < and &.
#include "app/shell/help_panel.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QTextBrowser>

#include "app/base/theme.h"
#include "core/nodes/catalogue.h"
#include "core/nodes/example.h"

namespace loom::app {
namespace {

QString escaped(const std::string& s) { return QString::fromStdString(s).toHtmlEscaped(); }

QString pegs(const QString& head, const std::vector<Peg>& all) {
  if (all.empty()) return {};
  QStringList names;
  for (const Peg& p : all)
    names << escaped(p.label) + QStringLiteral(" <i>") +
                 QString::fromUtf8(kind_name(p.kind).data()).replace(QLatin1Char('_'), QLatin1Char(' ')) +
                 QStringLiteral("</i>");
  return QStringLiteral("<p><b>%1</b>  %2</p>").arg(head, names.join(QStringLiteral(", ")));
}

// One line a parameter, by columns as in the tray; what does not act says so.
QString parameters(const NodeType& type) {
  const QString mute = theme().mute.name();
  QString html = QStringLiteral("<table cellpadding='3' width='100%'>");
  std::string column;
  for (const Parameter& p : type.parameters) {
    if (type.item_of(p.id) > 1) continue;  // as the first one's
    if (p.column != column)
      html += QStringLiteral("<tr><td colspan='2' style='padding-top: 10px; color: %1'>%2</td></tr>")
                  .arg(mute, escaped(p.column));
    column = p.column;
    QString text = escaped(p.help);
    if (p.per_unit) text += QLatin1Char(' ') + QObject::tr("Takes a rule or a formula.");
    if (!p.acts.reason.empty())
      text += QStringLiteral(" <span style='color: %1'>%2</span>")
                  .arg(mute, QObject::tr("Without effect: %1").arg(escaped(p.acts.reason)));
    html += QStringLiteral("<tr><td width='28%'><b>%1</b></td><td>%2</td></tr>").arg(escaped(p.label), text);
  }
  return html + QStringLiteral("</table>");
}

}  // namespace

HelpPanel::HelpPanel(QWidget* parent) : QDialog(parent), picture_(new QLabel(this)), text_(new QTextBrowser(this)) {
  resize(760, 560);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(24, 20, 24, 20);
  row->setSpacing(20);
  picture_->setFixedSize(192, 192);
  picture_->setAccessibleName(tr("Example"));
  row->addWidget(picture_, 0, Qt::AlignTop);
  text_->setFrameShape(QFrame::NoFrame);
  text_->setAccessibleName(tr("Help"));
  row->addWidget(text_, 1);
  connect(&pictures_, &PictureMaker::made, this, [this](int id, const QImage& image) {
    if (id == shown_)
      picture_->setPixmap(
          QPixmap::fromImage(image.scaled(picture_->size(), Qt::KeepAspectRatio, Qt::SmoothTransformation)));
  });
}

void HelpPanel::showType(const NodeType& type) {
  setWindowTitle(tr("Help: %1").arg(QString::fromStdString(type.label)));
  QString html = QStringLiteral("<h3>%1</h3><p>%2</p>").arg(escaped(type.label), escaped(type.help));
  if (!type.more.empty()) html += QStringLiteral("<p>%1</p>").arg(escaped(type.more));
  if (type.follows_positions) html += QStringLiteral("<p>%1</p>").arg(tr("Periodic, but with a seam by nature."));
  html += pegs(tr("In"), type.inputs) + pegs(tr("Out"), type.outputs);
  if (!type.parameters.empty()) html += parameters(type);
  text_->setHtml(html);
  picture_->clear();
  pictures_.order({{++shown_, example_of(type, catalogue()), example_output(type)}});
}

}  // namespace loom::app

#include "moc_help_panel.cpp"
