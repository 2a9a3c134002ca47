#include "app/shell/bolt_nodes.h"

#include <QDialog>
#include <QDialogButtonBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QLabel>
#include <QPushButton>
#include <QTextBrowser>
#include <QVBoxLayout>

#include "app/base/elsewhere.h"
#include "app/base/labels.h"
#include "app/board/board.h"
#include "app/shell/navigation.h"
#include "core/bolt/compare.h"
#include "core/bolt/package.h"
#include "core/graph/allowed_files.h"
#include "core/graph/edit.h"
#include "core/graph/hem.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom::app {

BoltNodes::BoltNodes(Document& document, Navigation& navigation, Board& board, QWidget* window)
    : QObject(window), document_(document), navigation_(navigation), board_(board), window_(window) {}

void BoltNodes::add(const QString& path) {
  allow_files(path.toStdString());  // whoever chooses a file wants it read
  Material next = navigation_.shown();
  const auto reference = elsewhere(
      [&, name = document_.nameOf(std::filesystem::absolute(path.toStdString()))] { return take_bolt(next, name); });
  if (!reference) return Q_EMIT message(QString::fromStdString(reference.error().text()));
  const auto at = board_.view().focus();
  std::string id;
  next = edit::add_bolt(std::move(next), *reference, at.lane, at.column, at.row, &id);
  if (const auto faults = validate(next, catalogue()); !faults.empty())
    return Q_EMIT message(tr("Not added: %1").arg(QString::fromStdString(faults.front().text())));
  const auto type = type_of(next, catalogue(), *next.node(id));
  navigation_.edit(tr("Add a bolt"), next);
  board_.select({id});
  Q_EMIT message(QString::fromStdString(type->help));
}

void BoltNodes::chooseAndAdd() {
  const QString path =
      QFileDialog::getOpenFileName(window_, tr("Add a bolt"), QFileInfo(document_.path()).path(), tr("Bolts (*.bolt)"));
  if (!path.isEmpty()) add(path);
}

void BoltNodes::wear(const QString& path, const std::string& part) {
  if (navigation_.isInside()) return Q_EMIT message(tr("The hem is outside of the group: go out of it first"));
  allow_files(path.toStdString());
  std::vector<std::string> fresh;
  const auto next = worn(path, part, fresh);
  if (!next) return Q_EMIT message(QString::fromStdString(next.error().text()));
  if (const auto faults = validate(*next, catalogue()); !faults.empty())
    return Q_EMIT message(tr("Not worn: %1").arg(QString::fromStdString(faults.front().text())));
  const QString name = QFileInfo(path).completeBaseName();
  document_.edit(tr("Wear %1").arg(name), *next);
  board_.select(fresh);
  Q_EMIT message(part.empty() ? tr("All of it wears %1").arg(name)
                              : tr("%1 wears %2").arg(QString::fromStdString(part), name));
}

Result<Material> BoltNodes::worn(const QString& path, const std::string& part, std::vector<std::string>& fresh) {
  Material next = document_.material();
  const auto at = board_.view().focus();
  const std::filesystem::path file = std::filesystem::absolute(path.toStdString());
  if (file.extension() == ".loom") {
    auto other = elsewhere([&] { return open_material(file); });
    if (!other) return other.error();
    const Material named = edit::rename_files(*other, catalogue(), [&](const std::string& name) {
      const std::filesystem::path whole = file.parent_path() / name;
      if (!leads_outside(*other->files, name)) allow_files(whole);
      return document_.nameOf(whole);
    });
    next = edit::paste_onto(std::move(next), named, {part}, at.lane, at.column, at.row, &fresh);
    const auto missing = elsewhere([&] { return take_bolts(next); });
    return missing.empty() ? Result<Material>(std::move(next)) : missing.front();
  }
  const auto reference = elsewhere([&, name = document_.nameOf(file)] { return take_bolt(next, name); });
  if (!reference) return reference.error();
  std::string id;
  next = edit::add_bolt(std::move(next), *reference, at.lane, at.column, at.row, &id);
  fresh.push_back(id);
  if (!part.empty()) next = edit::exchange_hems(edit::give_own_hem(std::move(next), part), part);
  const auto type = type_of(next, catalogue(), *next.node(id));
  for (const Peg& out : type->outputs)
    if (known_slot(out.id)) next = edit::set_hem(std::move(next), out.id, id + "." + out.id);
  return part.empty() ? next : edit::exchange_hems(std::move(next), part);
}

void BoltNodes::open(const std::string& node) {
  const Node* n = navigation_.shown().node(node);
  if (!n || !n->bolt) return;
  const auto& root = document_.material().files;
  const auto path = find_path(root ? *root : FileRoot{}, n->bolt->file);
  if (!path) return Q_EMIT message(QString::fromStdString(path.error().text()));
  if (path->empty()) return Q_EMIT message(tr("It is packed within this bolt: save the material to have it as a file"));
  Q_EMIT fittingWanted(QString::fromStdString(path->string()));
}

void BoltNodes::exchange(const std::string& node, const QString& chosen) {
  const Node* n = navigation_.shown().node(node);
  if (!n || !n->bolt) return;
  const BoltReference was = *n->bolt;
  QString path = chosen;
  if (path.isEmpty())
    path = QFileDialog::getOpenFileName(window_, tr("Another version of %1").arg(QString::fromStdString(was.id)),
                                        QFileInfo(document_.path()).path(), tr("Bolts (*.bolt)"));
  if (path.isEmpty()) return;
  allow_files(path.toStdString());
  Material next = document_.material();
  const auto fresh = elsewhere(
      [&, name = document_.nameOf(std::filesystem::absolute(path.toStdString()))] { return take_bolt(next, name); });
  if (!fresh) return Q_EMIT message(QString::fromStdString(fresh.error().text()));
  if (fresh->sha256 == was.sha256) return Q_EMIT message(tr("It is the same version"));
  if (!agreed(was, *fresh, next)) return;
  next = edit::exchange_bolt(next, catalogue(), was.key(), *fresh);
  document_.edit(tr("Take another version of a bolt"), next);
  Q_EMIT message(
      tr("%1 %2 is used now").arg(QString::fromStdString(fresh->id), QString::fromStdString(fresh->version)));
}

namespace {

QString toldChange(const Change& c) {
  const auto text = [](const std::string& s) { return QString::fromStdString(s).toHtmlEscaped(); };
  const QString where = QStringLiteral("<b>%1</b> ").arg(text(c.where));
  if (c.before.empty()) return where + QObject::tr("is new: %1").arg(text(c.after));
  if (c.after.empty()) return where + QObject::tr("is gone: %1").arg(text(c.before));
  return where + QObject::tr("was %1, is %2").arg(text(c.before), text(c.after));
}

QString toldSlot(const SlotDifference& s) {
  const QString slot = QStringLiteral("<b>%1</b> ").arg(QString::fromStdString(s.slot));
  if (!s.before) return slot + QObject::tr("is given now");
  if (!s.after) return slot + QObject::tr("is given no more");
  return slot + QObject::tr("differs in %1 % of its texels, at most by %2")
                    .arg(100 * s.share, 0, 'f', 1)
                    .arg(s.greatest, 0, 'g', 3);
}

}  // namespace

// What differs is told by meaning and by result; without the old definition only what is new is known.
bool BoltNodes::agreed(const BoltReference& was, const BoltReference& fresh, const Material& with) {
  const Group *old = with.group(was.key()), *now = with.group(fresh.key());
  QStringList lines;
  if (!old) lines << tr("What was used is not there any more, so nothing can be compared.");
  if (old && now) {
    const auto compared = elsewhere([&]() -> Result<loom::Comparison> {
      Weaver weaver(std::size_t{64} << 20);
      auto both =
          compare(bolt_material(*old, with), bolt_material(*now, with), catalogue(), weaver, 256, false, Stop{});
      if (both) both->changes = bolt_changes(*old, *now, with);
      return both;
    });
    if (!compared) lines << QString::fromStdString(compared.error().text()).toHtmlEscaped();
    if (compared)
      for (const SlotDifference& s : compared->slots) lines << toldSlot(s);
    if (compared)
      for (const Change& c : compared->changes) lines << toldChange(c);
    if (lines.isEmpty()) lines << tr("Nothing that it gives differs.");
  }
  QDialog dialog(window_);
  dialog.setWindowTitle(tr("Another version"));
  dialog.resize(620, 460);
  auto* box = new QVBoxLayout(&dialog);
  box->setContentsMargins(24, 18, 24, 18);
  box->addWidget(titleLabel(tr("%1 %2 in place of %3")
                                .arg(QString::fromStdString(fresh.id), QString::fromStdString(fresh.version),
                                     QString::fromStdString(was.version)),
                            &dialog));
  auto* list = new QTextBrowser(&dialog);
  list->setHtml(QStringLiteral("<p>") + lines.join(QStringLiteral("</p><p>")) + QStringLiteral("</p>"));
  list->setAccessibleName(tr("What changes"));
  box->addWidget(list, 1);
  auto* note =
      new QLabel(tr("All nodes that stand for it take the new version. Dials and threads that it has under the "
                    "same names stay."),
                 &dialog);
  note->setWordWrap(true);
  setRole(note, "mute");
  box->addWidget(note);
  auto* buttons = new QDialogButtonBox(&dialog);
  buttons->addButton(tr("Take it"), QDialogButtonBox::AcceptRole);
  buttons->addButton(tr("Leave it"), QDialogButtonBox::RejectRole);
  connect(buttons, &QDialogButtonBox::accepted, &dialog, &QDialog::accept);
  connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
  box->addWidget(buttons);
  return dialog.exec() == QDialog::Accepted;
}

}  // namespace loom::app

#include "moc_bolt_nodes.cpp"
