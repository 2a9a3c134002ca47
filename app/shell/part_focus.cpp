#include "app/shell/part_focus.h"

#include <QApplication>
#include <QClipboard>
#include <QMenu>
#include <algorithm>

#include "app/base/tick_list.h"
#include "app/board/board.h"
#include "app/drape/drape_panel.h"
#include "app/shell/navigation.h"
#include "core/bolt/worn_material.h"
#include "core/graph/edit.h"
#include "core/graph/hem.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom::app {

PartFocus::PartFocus(Document& document, Navigation& navigation, Board& board, DrapePanel& drape, QObject* parent)
    : QObject(parent), document_(document), navigation_(navigation), board_(board), drape_(drape) {
  connect(&drape_, &DrapePanel::partPressed, this, &PartFocus::focus);
  connect(&drape_, &DrapePanel::stood, this, [this] {
    const auto gone = parts_not_there(document_.material(), drape_.view().parts());
    if (!gone.empty() && drape_.view().mesh)
      Q_EMIT message(tr("This mesh has no part %1; its hem is kept").arg(QString::fromStdString(gone.front())));
    renew();
  });
  connect(&board_, &Board::hemHeadPressed, this, &PartFocus::menuAt);
}

bool PartFocus::isOnMesh(const std::string& part) const {
  const auto on = drape_.view().parts();
  return std::find(on.begin(), on.end(), part) != on.end();
}

std::vector<std::string> PartFocus::parts() const {
  const auto on = drape_.view().parts();
  std::vector<std::string> all(on.begin(), on.end());
  for (const auto& [part, own] : document_.material().part_hems)
    if (!isOnMesh(part)) all.push_back(part);
  return all;
}

QString PartFocus::titleOf(const std::string& part) const {
  QString title = part.empty() ? tr("All parts") : QString::fromStdString(part);
  if (document_.material().part_hems.count(part)) title += tr(", hem of its own");
  if (!part.empty() && !isOnMesh(part)) title += tr(", not on this mesh");
  return title;
}

void PartFocus::focus(const std::string& part) {
  if (part == part_) return;
  part_ = part;
  Q_EMIT moved();
  if (!part_.empty() && !hasOwnHem())
    Q_EMIT message(tr("%1 wears the hem of all; Ctrl+J gives it its own").arg(QString::fromStdString(part_)));
}

void PartFocus::next(int by) {
  const auto all = parts();
  if (all.size() < 2) return Q_EMIT message(tr("What is shown has no parts: take a mesh that has some"));
  const auto count = static_cast<int>(all.size()) + 1;  // the last place stands for all
  const auto at = static_cast<int>(std::find(all.begin(), all.end(), part_) - all.begin());
  const int to = (at + by + count) % count;
  focus(to + 1 == count ? std::string() : all[static_cast<std::size_t>(to)]);
}

void PartFocus::toggleOwnHem() {
  if (part_.empty()) return Q_EMIT message(tr("Choose a part first: on the drape, or with J"));
  const bool own = hasOwnHem();
  const Material& m = document_.material();
  document_.edit(own ? tr("Hem of all for %1").arg(QString::fromStdString(part_))
                     : tr("Own hem for %1").arg(QString::fromStdString(part_)),
                 own ? edit::take_own_hem(m, part_) : edit::give_own_hem(m, part_));
}

void PartFocus::pasteOnto() {
  const auto all = parts();
  if (all.empty()) return Q_EMIT message(tr("What is shown has no parts: take a mesh that has some"));
  std::vector<TickList::Entry> entries;
  for (const std::string& part : all) entries.push_back({titleOf(part), part == part_});
  TickList list(tr("Paste onto parts"), tr("paste"), entries, board_.window());
  if (list.exec() != QDialog::Accepted) return;
  std::vector<std::string> chosen;
  for (const std::size_t i : list.ticked()) chosen.push_back(all[i]);
  pasteOnto(chosen);
}

void PartFocus::pasteOnto(const std::vector<std::string>& parts) {
  if (parts.empty()) return;
  if (navigation_.isInside()) return Q_EMIT message(tr("A part's hem is outside of the group"));
  const auto snippet = read_snippet(QApplication::clipboard()->text().toStdString());
  if (!snippet) return Q_EMIT message(QString::fromStdString(snippet.error().text()));
  if (snippet->hem.empty())
    return Q_EMIT message(tr("None of what was copied feeds the hem: copy the nodes that do, too"));
  const auto at = board_.view().focus();
  std::vector<std::string> fresh;
  const Material next = edit::paste_onto(document_.material(), *snippet, parts, at.lane, at.column, at.row, &fresh);
  if (const auto faults = validate(next, catalogue()); !faults.empty())
    return Q_EMIT message(tr("Not pasted: %1").arg(QString::fromStdString(faults.front().text())));
  part_ = parts.back();
  document_.edit(tr("Paste onto %n parts", nullptr, static_cast<int>(parts.size())), next);
  board_.select(fresh);
}

void PartFocus::renew() {
  if (!part_.empty() && !hasOwnHem() && !isOnMesh(part_)) part_.clear();
  navigation_.setPart(part_);
  board_.showHemOf(part_.empty() || navigation_.isInside() ? QString()
                   : hasOwnHem()                           ? QString::fromStdString(part_)
                                                           : tr("all parts"));
  drape_.showPart(part_.empty() ? QString() : titleOf(part_));
}

void PartFocus::menuAt(QPoint screen) {
  if (navigation_.isInside()) return;
  QMenu menu(&board_);
  const auto choice = [&](const std::string& part) {
    QAction* action = menu.addAction(titleOf(part), this, [this, part] { focus(part); });
    action->setCheckable(true);
    action->setChecked(part == part_);
  };
  choice({});
  for (const std::string& part : parts()) choice(part);
  menu.addSeparator();
  QAction* own = menu.addAction(hasOwnHem() ? tr("Wear the hem of all\tCtrl+J") : tr("A hem of its own\tCtrl+J"), this,
                                &PartFocus::toggleOwnHem);
  own->setEnabled(!part_.empty());
  menu.addAction(tr("Paste onto parts …\tCtrl+Shift+J"), this, [this] { pasteOnto(); });
  menu.exec(screen);
}

}  // namespace loom::app

#include "moc_part_focus.cpp"
