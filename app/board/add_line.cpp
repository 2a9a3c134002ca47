// Matching by label first, then by other words of the trade.
#include "app/board/add_line.h"

#include <QDir>
#include <QKeyEvent>
#include <QLineEdit>
#include <QListWidget>
#include <QStandardPaths>
#include <QThreadPool>
#include <QVBoxLayout>

#include "app/base/elsewhere.h"
#include "app/base/ranking.h"
#include "app/base/theme.h"
#include "app/board/board.h"
#include "core/bolt/bolt_node.h"
#include "core/graph/disc.h"
#include "core/graph/groups.h"
#include "core/graph/json.h"
#include "core/graph/rework.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"
#include "core/program/formula.h"

namespace loom::app {
namespace {

constexpr int kMostChoices = 4096;

// The templates that can be read; each is offered by its group's name.
Templates keptTemplates() {
  Templates all;
  for (const QFileInfo& file :
       QDir(templateFolder()).entryInfoList({QStringLiteral("*.loom")}, QDir::Files, QDir::Name)) {
    const auto text = read_file(file.filePath().toStdString(), std::size_t{1} << 24);
    auto part = text ? read_snippet(*text) : Result<Material>(text.error());
    if (part && !part->groups.empty() && !part->nodes.empty())
      all.emplace_back(file.lastModified(), std::make_shared<const Material>(std::move(*part)));
  }
  return all;
}

// The bolts that lie beside a document, by their covers.
std::vector<BoltOffer> boltsBeside(const QString& folder) {
  std::vector<BoltOffer> all;
  if (folder.isEmpty()) return all;
  for (const QFileInfo& file : QDir(folder).entryInfoList({QStringLiteral("*.bolt")}, QDir::Files, QDir::Name)) {
    const auto cover = read_cover(file.filePath().toStdString());
    if (!cover) continue;
    const Manifest& m = cover->manifest;
    BoltOffer offer{
        file.fileName().toStdString(),
        QString::fromStdString(m.name),
        QObject::tr("Bolt %1, tile of %2 m").arg(QString::fromStdString(m.imprint.version)).arg(m.tile_metres),
        {}};
    offer.picture.loadFromData(reinterpret_cast<const uchar*>(cover->picture.data()),
                               static_cast<int>(cover->picture.size()), "PNG");
    all.push_back(std::move(offer));
  }
  return all;
}

// The choice that is asked for when a node of this type is made; null: there is none.
const Parameter* askedOf(const NodeType& type) {
  const auto it =
      std::find_if(type.parameters.begin(), type.parameters.end(), [](const Parameter& p) { return p.asked; });
  return it == type.parameters.end() ? nullptr : &*it;
}

}  // namespace

QString templateFolder() {
  return QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + QStringLiteral("/templates");
}

AddLine::AddLine(Board* board)
    : QFrame(board), board_(board), text_(new QLineEdit(this)), list_(new QListWidget(this)) {
  setObjectName(QStringLiteral("addLine"));
  setFrameShape(QFrame::NoFrame);
  auto* box = new QVBoxLayout(this);
  box->setContentsMargins(8, 6, 8, 8);
  box->setSpacing(4);
  text_->setFont(monoFont(13));
  text_->setPlaceholderText(tr("node, number or formula"));
  text_->setAccessibleName(tr("Add line"));
  list_->setFrameShape(QFrame::NoFrame);
  list_->setAccessibleName(tr("Suggestions"));
  list_->setIconSize(QSize(34, 34));
  list_->setWordWrap(true);
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  box->addWidget(text_);
  box->addWidget(list_);
  text_->installEventFilter(this);
  connect(text_, &QLineEdit::textChanged, this, &AddLine::refill);
  connect(list_, &QListWidget::itemActivated, this, &AddLine::accept);
  connect(list_, &QListWidget::itemClicked, this, &AddLine::accept);
  connect(&pictures_, &PictureMaker::made, this, [this](int id, const QImage& picture) {
    const int i = id % kMostChoices;
    if (id / kMostChoices == generation_ && i < list_->count()) {
      const QPixmap small = QPixmap::fromImage(picture.scaled(34, 34, Qt::KeepAspectRatio, Qt::SmoothTransformation));
      QIcon icon(small);
      icon.addPixmap(small, QIcon::Selected);  // not tinted: it is a picture
      list_->item(i)->setIcon(icon);
    }
  });
  hide();
  readKept();
}

AddLine::~AddLine() { hearer_.leave(); }

// Elsewhere: the line opens at once, with what was read the time before.
void AddLine::readKept() {
  const auto& files = board_->view().material.files;
  const QString folder = files && !files->sealed ? QString::fromStdString(files->folder.string()) : QString();
  QThreadPool::globalInstance()->start([this, folder, hearer = hearer_] {
    auto read = std::make_shared<Templates>(keptTemplates());
    hearer.tell([this, read] { takeTemplates(std::move(*read)); });
    auto bolts = std::make_shared<std::vector<BoltOffer>>(boltsBeside(folder));
    hearer.tell([this, bolts] { takeBolts(std::move(*bolts)); });
  });
}

void AddLine::takeBolts(std::vector<BoltOffer> read) {
  const auto same = [](const BoltOffer& a, const Choice& b) { return a.file == b.bolt && a.help == b.help; };
  if (std::equal(read.begin(), read.end(), bolts_.begin(), bolts_.end(), same)) return;
  bolts_.clear();
  for (BoltOffer& offer : read)
    bolts_.push_back({nullptr, {}, {}, offer.label, offer.help, {}, {}, offer.file, std::move(offer.picture)});
  if (isVisible()) refillInPlace();
}

void AddLine::takeTemplates(Templates read) {
  const auto same = [](const auto& a, const auto& b) {
    return a.first == b.first && a.second->nodes.front()->group == b.second->nodes.front()->group;
  };
  if (std::equal(read.begin(), read.end(), read_.begin(), read_.end(), same)) return;
  read_ = std::move(read);
  if (!isVisible()) return;
  offerTemplates();
  refillInPlace();
}

void AddLine::refillInPlace() {
  const int row = list_->currentRow();
  const QString at = row < 0 ? QString() : list_->item(row)->text();
  refill();
  for (int i = 0; i < list_->count() && row > 0; ++i)  // where someone has gone down, there they stay
    if (list_->item(i)->text() == at) list_->setCurrentRow(i);
}

// Those that the material does not have already.
void AddLine::offerTemplates() {
  templates_.clear();
  if (way_ != Way::add) return;
  for (const auto& [when, part] : read_)
    if (const Group* g = part->group(part->nodes.front()->group); g && !board_->view().material.group(g->id))
      templates_.push_back({nullptr,
                            {},
                            part,
                            QString::fromStdString(g->name),
                            g->help.empty() ? tr("A template") : QString::fromStdString(g->help),
                            {}});
}

void AddLine::openAt(QPoint place, const std::string& output, int rack, Way way) {
  way_ = way;
  output_ = output;
  rack_ = rack;
  offerTemplates();
  readKept();
  text_->clear();
  text_->setPlaceholderText(way == Way::splice    ? tr("splice in: node")
                            : way == Way::replace ? tr("replace by: node")
                                                  : tr("node, number or formula"));
  refill();
  resize(320, 292);
  move(std::clamp(place.x(), 4, std::max(4, board_->width() - width() - 4)),
       std::clamp(place.y(), 4, std::max(4, board_->height() - height() - 4)));
  show();
  raise();
  text_->setFocus();
}

void AddLine::offerTypes(const QString& typed, std::vector<std::pair<int, Choice>>& found) const {
  const Kind kind = output_.empty() ? Kind::any
                                    : output_kind(board_->view().material, catalogue(), split_output(output_).first,
                                                  split_output(output_).second);
  const QString name = QString::fromUtf8(kind_name(kind).data());
  for (const NodeType* t : catalogue().all()) {
    if (rack_ >= 0 && static_cast<int>(t->rack) != rack_) continue;
    QString why;
    if (way_ == Way::splice && !edit::feeding_peg(*t, output_, kind)) why = tr("takes no %1").arg(name);
    if (way_ == Way::add && kind != Kind::any && !t->inputs.empty() && t->rack != Rack::make &&
        !edit::feeding_peg(*t, output_, kind))
      why = tr("needs another kind than %1").arg(name);
    const auto offer = [&](const QString& label, const std::string& word) {
      const int r = rank(label, QString::fromStdString(t->words), typed);
      if (r < 0) return;
      found.emplace_back(r + (why.isEmpty() ? 0 : 16),
                         Choice{t, {}, {}, label, QString::fromStdString(t->help), why, word});
    };
    const QString label = QString::fromStdString(t->label);
    const Parameter* asked = askedOf(*t);
    if (!asked) offer(label, {});
    for (const std::string& word : asked ? asked->options : std::vector<std::string>())
      offer(label + QStringLiteral(", ") + QString::fromStdString(word), word);
  }
}

void AddLine::offerGroups(const QString& typed, std::vector<std::pair<int, Choice>>& found) const {
  if (way_ != Way::add || (rack_ >= 0 && rack_ != kGroups)) return;
  const auto offer = [&](const Choice& c) {
    const QString words = c.bolt.empty() ? tr("group template") : tr("bolt package");
    if (const int r = rank(c.label, words, typed); r >= 0) found.emplace_back(r, c);
  };
  for (const auto& g : board_->view().material.groups)
    offer({nullptr,
           g->id,
           {},
           QString::fromStdString(g->name),
           g->help.empty() ? tr("A further use of this group") : QString::fromStdString(g->help),
           {}});
  for (const Choice& c : templates_) offer(c);
  for (const Choice& c : bolts_) offer(c);
}

void AddLine::refill() {
  choices_.clear();
  list_->clear();
  const QString typed = text_->text().trimmed();
  std::vector<std::pair<int, Choice>> found;
  offerTypes(typed, found);
  offerGroups(typed, found);
  const auto lately = [&](const Choice& c) {
    return std::find(recent_.begin(), recent_.end(), c.type ? c.type->id : c.group) - recent_.begin();
  };
  std::stable_sort(found.begin(), found.end(), [&](const auto& a, const auto& b) {
    return std::pair(a.first, lately(a.second)) < std::pair(b.first, lately(b.second));
  });
  for (const auto& [r, c] : found) {
    choices_.push_back(c);
    auto* item = new QListWidgetItem(c.label + QLatin1Char('\n') + (c.why.isEmpty() ? c.help : c.why), list_);
    item->setFont(textFont(11.5));
    if (!c.why.isEmpty()) item->setForeground(theme().mute);
    QPixmap blank(34, 34);
    blank.fill(theme().picture);
    item->setIcon(c.picture.isNull()
                      ? blank
                      : QPixmap::fromImage(c.picture.scaled(34, 34, Qt::KeepAspectRatio, Qt::SmoothTransformation)));
  }
  if (list_->count())
    list_->setCurrentRow(0);
  else if (rack_ == kGroups)
    list_->addItem(tr("No groups yet: Ctrl+G folds the selection into one"));
  orderPictures();
}

bool AddLine::eventFilter(QObject* watched, QEvent* event) {
  if (watched == text_ && event->type() == QEvent::KeyPress) {
    const auto* key = static_cast<QKeyEvent*>(event);
    switch (key->key()) {
      case Qt::Key_Escape:
        hide();
        board_->setFocus();
        return true;
      case Qt::Key_Return:
      case Qt::Key_Enter:
        accept();
        return true;
      case Qt::Key_Down:
        list_->setCurrentRow(std::min(list_->currentRow() + 1, list_->count() - 1));
        return true;
      case Qt::Key_Up:
        list_->setCurrentRow(std::max(list_->currentRow() - 1, 0));
        return true;
      default:
        break;
    }
  }
  if (watched == text_ && event->type() == QEvent::FocusOut && !list_->hasFocus()) hide();
  return QFrame::eventFilter(watched, event);
}

void AddLine::accept() {
  const QString typed = text_->text().trimmed();
  bool number = false;
  const double value = typed.toDouble(&number);
  const int row = list_->currentRow();
  const auto of = [](const char* type) {
    return Choice{catalogue().find(type), {}, {}, QString::fromStdString(catalogue().find(type)->label), {}, {}};
  };
  if (number && way_ == Way::add)
    place(of("value"), "value", value);
  else if (row >= 0 && row < static_cast<int>(choices_.size()))
    place(Choice(choices_[static_cast<std::size_t>(row)]), {}, 0.0);
  else if (const auto formula = way_ != Way::replace ? parse_formula(typed.toStdString())
                                                     : Result<Expression>(Error{"", "no node is called so", ""}))
    place(of("formula"), "formula", typed.toStdString());
  else
    Q_EMIT board_->message(tr("Nothing fits '%1'. %2").arg(typed, QString::fromStdString(formula.error().text())));
}

namespace {

// Where something stands already, a place beside it is nearer to what feeds the new node than the end of the column.
BoardLayout::Cell besideWhatStands(const Material& m, BoardLayout::Cell at) {
  const auto taken = [&](int column) {
    return std::any_of(m.nodes.begin(), m.nodes.end(),
                       [&](const NodePtr& n) { return n->lane == at.lane && n->column == column && n->row == at.row; });
  };
  for (int column = at.column; column <= at.column + 2; ++column)
    if (!taken(column)) return {at.lane, column, at.row};
  return at;
}

}  // namespace

Material AddLine::placed(const Choice& choice, const std::string& param, const ParamValue& value,
                         std::string& id) const {
  const auto asked = [&](Material m) {
    return choice.word.empty() ? m : edit::set_param(std::move(m), id, askedOf(*choice.type)->id, choice.word);
  };
  if (way_ == Way::replace) {
    id = split_output(output_).first;
    return asked(edit::replace_type(board_->view().material, catalogue(), id, choice.type->id));
  }
  const bool spliced = way_ == Way::splice;
  const BoardLayout::Cell at =
      spliced ? board_->view().focus() : besideWhatStands(board_->view().material, board_->view().focus());
  Material next = board_->view().material;
  if (choice.part) {
    std::vector<std::string> fresh;
    next = edit::paste(std::move(next), *choice.part, at.lane, at.column, at.row, &fresh);
    id = fresh.front();
    next = edit::place_nodes(std::move(next), {{id, at.lane, at.column, at.row}});
  } else if (!choice.bolt.empty()) {
    const auto reference = elsewhere([&] { return take_bolt(next, choice.bolt); });
    if (!reference) {
      board_->say(QString::fromStdString(reference.error().text()));
      return next;
    }
    next = edit::add_bolt(std::move(next), *reference, at.lane, at.column, at.row, &id);
  } else {
    next = choice.type ? edit::add_node(std::move(next), catalogue(), choice.type->id, at.lane, at.column, at.row, &id)
                       : edit::add_use(std::move(next), choice.group, at.lane, at.column, at.row, &id);
  }
  if (!param.empty()) next = edit::set_param(std::move(next), id, param, value);
  next = asked(std::move(next));
  if (spliced)
    next = edit::place_nodes(std::move(next),
                             {{id, at.lane, at.column, at.row}});  // between: what stands there makes room
  if (spliced) return edit::splice_after(std::move(next), catalogue(), output_, id);
  if (output_.empty()) return next;
  const auto type = type_of(next, catalogue(), *next.node(id));
  const auto [node, peg] = split_output(output_);
  const Kind kind = output_kind(next, catalogue(), node, peg);
  const Peg* in = kind == Kind::any ? nullptr : edit::feeding_peg(*type, output_, kind);
  if (in && (!choice.type || type->rack != Rack::make || in->kind == kind))
    next = edit::connect(std::move(next), {node, peg, id, in->id});
  return next;
}

// What each suggestion would give here, made from the selection.
void AddLine::orderPictures() {
  ++generation_;
  std::vector<PictureOrder> orders;
  for (std::size_t i = 0; i < choices_.size(); ++i) {
    if (!choices_[i].why.isEmpty() || !choices_[i].bolt.empty()) continue;
    std::string id;
    Material next = placed(choices_[i], {}, 0.0, id);
    if (next.inside) continue;  // what comes into a group is not known here
    const auto outputs = outputs_of(next, catalogue(), *next.node(id));
    if (!outputs.empty())
      orders.push_back(
          {generation_ * kMostChoices + static_cast<int>(i), std::move(next), id + "." + outputs.front().id});
  }
  pictures_.order(std::move(orders));
}

void AddLine::place(const Choice& choice, const std::string& param, const ParamValue& value) {
  hide();
  pictures_.order({});
  std::string id;
  const Material next = placed(choice, param, value, id);
  const std::string key = choice.type ? choice.type->id : choice.group;
  std::erase(recent_, key);
  recent_.insert(recent_.begin(), key);
  Q_EMIT board_->editWanted(way_ == Way::splice    ? tr("Splice in %1").arg(choice.label)
                            : way_ == Way::replace ? tr("Replace by %1").arg(choice.label)
                                                   : tr("Add %1").arg(choice.label),
                            next);
  board_->select({id});
  board_->reveal(id);
  board_->setFocus();
}

}  // namespace loom::app

#include "moc_add_line.cpp"
