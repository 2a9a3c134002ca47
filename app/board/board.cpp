// Painting and hands: the board asks for edits and shows what comes back.
#include "app/board/board.h"

#include "app/board/choose_parameters.h"

#include <QApplication>
#include <QClipboard>
#include <QContextMenuEvent>
#include <QHash>
#include <QHelpEvent>
#include <QLineEdit>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <cmath>

#include "app/board/add_line.h"
#include "app/shell/theme.h"
#include "core/graph/groups.h"
#include "core/graph/rework.h"
#include "core/graph/json.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"

namespace loom::app {
namespace {

constexpr qreal kPegReach = 10;

QString qs(const std::string& s) { return QString::fromStdString(s); }

// Cut with a mark only if a narrower font does not save it; draw with fitted() and the same width.
QString elided(const QFont& font, const QString& text, qreal width) { return QFontMetricsF(fitted(font, text, width)).elidedText(text, Qt::ElideRight, width + 1); }

// A label on up to two lines: whole words first; a word that is longer than a line is divided with a hyphen.
QStringList twoLinesOf(const QFont& font, const QString& label, qreal width) {
  const auto fits = [&](const QString& s) { return QFontMetricsF(fitted(font, s, width)).horizontalAdvance(s) <= width + 1; };
  if (fits(label)) return {label};
  const QStringList words = label.split(QLatin1Char(' '));
  QString first = words.front(), rest = words.mid(1).join(QLatin1Char(' '));
  if (!fits(first)) {
    int at = static_cast<int>(static_cast<double>(first.size()) * 0.64);  // parts of like length read best
    while (at > 3 && !fits(first.left(at) + QLatin1Char('-'))) --at;
    rest = first.mid(at) + (rest.isEmpty() ? QString() : QLatin1Char(' ') + rest);
    first = first.left(at) + QLatin1Char('-');
  } else {
    for (int i = 1; i < words.size(); ++i) {
      const QString longer = words.mid(0, i + 1).join(QLatin1Char(' '));
      if (!fits(longer)) break;
      first = longer;
      rest = words.mid(i + 1).join(QLatin1Char(' '));
    }
  }
  return rest.isEmpty() ? QStringList{first} : QStringList{first, elided(font, rest, width)};
}

// To measure a label takes longer than to draw it, and most stay as they are.
QStringList twoLines(const QFont& font, const QString& label, qreal width) {
  static QHash<QString, QStringList> known;
  if (known.size() > 4000) known.clear();
  const QString key = QStringLiteral("%1 %2 ").arg(font.pixelSize()).arg(qRound(width * 4)) + label;
  const auto at = known.constFind(key);
  return at != known.constEnd() ? *at : *known.insert(key, twoLinesOf(font, label, width));
}

}  // namespace

Board::Board(QWidget* parent) : QWidget(parent), addLine_(new AddLine(this)) {
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumSize(300, 200);
  setAccessibleName(tr("Board"));
  setAttribute(Qt::WA_OpaquePaintEvent);
}

void Board::showMaterial(const Material& material) {
  material_ = material;
  std::erase_if(selected_, [&](const std::string& id) { return !material_.node(id); });
  if (!material_.lane(cell_.lane)) cell_ = {material_.lanes.empty() ? "" : material_.lanes.front().id, 0, 0};
  relayout();
  Q_EMIT selectionChanged();
}

void Board::showPictures(Pictures pictures) {
  pictures_ = std::move(pictures);
  update();
}

void Board::showHem(const std::map<std::string, QImage>& pictures) {
  if (pictures.empty()) return;
  hemPictures_ = pictures;
  update();
}

void Board::showFaults(const std::map<std::string, Error>& faults) {
  faults_ = faults;
  update();
}

void Board::showWeaving(const std::string& node) {
  if (weaving_ == node) return;
  weaving_ = node;
  update();
}

void Board::showFollowed(const std::map<std::string, QString>& values, const std::vector<std::string>& path) {
  followed_ = values;
  followedPath_ = path;
  update();
}

void Board::select(const std::vector<std::string>& nodes) {
  selected_ = nodes;
  slotFocus_.clear();
  if (!nodes.empty())
    if (const Node* n = material_.node(nodes.back())) cell_ = {n->lane, n->column, n->row};
  update();
  Q_EMIT selectionChanged();
}

std::string Board::focusedOutput() const {
  if (!slotFocus_.empty()) {
    const auto it = material_.hem.find(slotFocus_);
    return it == material_.hem.end() ? "" : it->second;
  }
  if (selected_.empty()) return {};
  const TagPlace* t = layout_.tag(selected_.back());
  if (!t || t->outputs.empty()) return {};
  // The output that is connected says more than the first one.
  std::size_t index = 0;
  if (const auto it = outputOf_.find(selected_.back()); it != outputOf_.end()) index = static_cast<std::size_t>(it->second) % t->outputs.size();
  return t->node + "." + t->outputs[index].peg;
}

void Board::nextOutput() {
  if (keyThread_) return finishThread();  // Enter means this while a thread is in the hand
  if (selected_.empty()) return;
  ++outputOf_[selected_.back()];
  update();
  Q_EMIT selectionChanged();
}

BoardLayout::Cell Board::focus() const {
  BoardLayout::Cell c = cell_;
  if (!selected_.empty())
    if (const Node* n = material_.node(selected_.back())) c = {n->lane, n->column, n->row + 1};
  return c;
}

// ---- layout ----

// The fixed slots and the artist's own; inside a group its outputs, and room for another.
std::vector<Board::SlotView> Board::hemSlots() const {
  std::vector<SlotView> all;
  const auto known = [&](const std::string& id) { return std::any_of(all.begin(), all.end(), [&](const SlotView& s) { return s.id == id; }); };
  if (material_.inside) {
    for (const GroupPeg& out : material_.inside->outputs) if (material_.hem.count(out.id)) all.push_back({out.id, qs(out.label.empty() ? out.id : out.label)});
  } else {
    for (const Slot& s : hem_slots()) all.push_back({std::string(s.id), QString::fromUtf8(s.label.data())});
  }
  for (const auto& [id, from] : material_.hem) if (!known(id)) all.push_back({id, qs(id)});
  if (material_.inside) all.push_back({kNewSlot, tr("New output")});
  return all;
}

void Board::stand(const Standpoint& at) {
  if (zoom_ != at.zoom) {
    zoom_ = at.zoom;
    relayout();
  }
  scroll_ = at.scroll;
  scrolled();
  if (selected_ != at.selection) select(at.selection);
}

QRect Board::slotRect(const std::string& slot) const {
  const auto all = hemSlots();
  const auto it = std::find_if(all.begin(), all.end(), [&](const SlotView& s) { return s.id == slot; });
  if (it == all.end()) return {};
  const qreal wide = std::min(static_cast<qreal>(width()) / static_cast<qreal>(all.size()), material_.inside ? 180.0 : 1e4);
  const auto i = static_cast<qreal>(it - all.begin());
  return QRectF(i * wide, height() - kHemHeight, wide, kHemHeight).toRect();
}

std::map<std::string, qreal> Board::hemPegs() const {
  std::map<std::string, qreal> pegs;
  for (const auto& [slot, from] : material_.hem) pegs[slot] = slotRect(slot).x() + 26 + scroll_.x();
  return pegs;
}

void Board::relayout() {
  layout_.build(material_, catalogue(), zoom_, width(), height() - kHemHeight + scroll_.y(), hemPegs());
  stale_ = true;
  scrolled();
}

// Nothing but the view has moved.
void Board::scrolled() {
  clampScroll();
  layout_.routeHem(material_, height() - kHemHeight + scroll_.y(), hemPegs());
  QWidget::update();
}

void Board::clampScroll() {
  const qreal most_x = std::max(0.0, layout_.size().width() - width()), most_y = std::max(0.0, layout_.size().height() - (height() - kHemHeight));
  scroll_ = QPointF(std::round(std::clamp(scroll_.x(), 0.0, most_x)), std::round(std::clamp(scroll_.y(), 0.0, most_y)));  // whole pixels: what is painted can move along
}

void Board::resizeEvent(QResizeEvent*) { relayout(); }

void Board::setZoom(qreal zoom) {
  zoom_ = std::clamp(zoom, 0.2, 1.6);
  relayout();
}

// As large as the width allows, but never so small that the names go: a tall board is scrolled.
void Board::fitAll() {
  for (const qreal z : {1.0, 0.9, 0.8, 0.75, 0.7, 0.65, 0.6, 0.55, 0.5, 0.46, 0.42}) {
    zoom_ = z;
    scroll_ = {};
    layout_.build(material_, catalogue(), z, 0, 0, {});
    qreal lowest = 0;
    for (const TagPlace& t : layout_.tags()) lowest = std::max(lowest, t.rect.bottom());
    constexpr qreal kHemThreads = 30;  // they run in a band over the hem
    if (layout_.size().width() <= width() && lowest + kHemThreads <= height() - kHemHeight) break;
  }
  relayout();
}

void Board::fitSelection() {
  if (!selected_.empty()) fly(selected_.back());
}

void Board::reveal(const std::string& node) {
  const TagPlace* t = layout_.tag(node);
  if (!t) return;
  const QRectF room(scroll_ + QPointF(0, BoardLayout::kLaneHead), QSizeF(width(), height() - kHemHeight - BoardLayout::kLaneHead)), all = t->rect.adjusted(-16, -16, 16, 24);
  const auto by = [](qreal low, qreal high, qreal from, qreal to) { return high > to ? high - to : low < from ? low - from : 0; };
  scroll_ += QPointF(by(all.left(), all.right(), room.left(), room.right()), by(all.top(), all.bottom(), room.top(), room.bottom()));
  scrolled();
}

void Board::fly(const std::string& node) {
  const TagPlace* t = layout_.tag(node);
  if (!t) return;
  scroll_ = t->rect.center() - QPointF(width() / 2.0, (height() - kHemHeight) / 2.0);
  scrolled();
}

void Board::showOutput(const std::string& output) {
  const auto [node, peg] = split_output(output);
  const TagPlace* t = layout_.tag(node);
  if (!t) return;
  for (std::size_t i = 0; i < t->outputs.size(); ++i) if (t->outputs[i].peg == peg) outputOf_[node] = static_cast<int>(i);
  select({node});
  fly(node);
}

std::string Board::slotAt(QPointF at) const {
  if (at.y() < height() - kHemHeight) return {};
  for (const SlotView& s : hemSlots()) if (slotRect(s.id).contains(at.toPoint())) return s.id;
  return {};
}

const TagPlace* Board::tagAt(QPointF board) const {
  for (const TagPlace& t : layout_.tags()) if (!t.hidden && t.rect.contains(board)) return &t;
  return nullptr;
}

const ThreadPlace* Board::threadAt(QPointF board) const {
  QPainterPathStroker stroker;
  stroker.setWidth(9);
  for (const ThreadPlace& t : layout_.threads())
    if (t.path.boundingRect().adjusted(-6, -6, 6, 6).contains(board) && stroker.createStroke(t.path).contains(board)) return &t;
  return nullptr;
}

QImage Board::pictureFor(const std::string& output) const {
  if (!pictures_) return {};
  const auto it = pictures_->find(output);
  return it == pictures_->end() ? QImage() : it->second;
}

// ---- painting ----

void Board::update() {
  stale_ = true;
  QWidget::update();
}

// While nothing but the view moves, what is painted moves along and only the strips that come into sight are painted.
void Board::refreshScene() {
  const QSize view(width(), std::max(1, height() - kHemHeight)), pixels = view * devicePixelRatioF();
  if (scene_.size() != pixels || scene_.devicePixelRatio() != devicePixelRatioF()) {
    scene_ = QPixmap(pixels);
    scene_.setDevicePixelRatio(devicePixelRatioF());
    stale_ = true;
  }
  const QPoint by = (sceneScroll_ - scroll_).toPoint();
  std::vector<QRect> fresh;
  if (stale_ || std::abs(by.x()) >= view.width() || std::abs(by.y()) >= view.height()) {
    fresh.push_back(QRect({0, 0}, view));
  } else {
    const QPoint moved = QPointF(QPointF(by) * devicePixelRatioF()).toPoint();
    if (!by.isNull()) scene_.scroll(moved.x(), moved.y(), scene_.rect());
    if (by.x()) fresh.push_back(QRect(by.x() > 0 ? 0 : view.width() + by.x(), 0, std::abs(by.x()), view.height()));
    if (by.y()) fresh.push_back(QRect(0, by.y() > 0 ? 0 : view.height() + by.y(), view.width(), std::abs(by.y())));
  }
  sceneScroll_ = scroll_;
  stale_ = false;
  if (fresh.empty()) return;
  QPainter p(&scene_);
  p.setRenderHint(QPainter::Antialiasing);
  p.setRenderHint(QPainter::SmoothPixmapTransform);
  for (const QRect& r : fresh) {
    p.save();
    p.setClipRect(r);
    p.fillRect(r, theme().board);
    p.translate(-scroll_);
    paintScene(p, QRectF(r).translated(scroll_));
    p.restore();
  }
}

void Board::paintScene(QPainter& p, const QRectF& seen) {
  paintLanes(p);
  paintThreads(p, seen);
  const QRectF around = seen.adjusted(-48, -28, 48, 28);  // slips, badges and outlines stand out of their tags
  for (const TagPlace& t : layout_.tags()) if (t.rect.intersects(around)) paintTag(p, t);
  for (const TagPlace& t : layout_.tags()) if (!t.hidden && t.rect.intersects(around)) paintBadges(p, t);
}

void Board::paintEvent(QPaintEvent*) {
  const auto ends = keyThread_ ? threadEnds() : std::vector<ThreadEnd>{};
  const ThreadEnd end = ends.empty() ? ThreadEnd{} : ends[keyEnd_ % ends.size()];
  keyTarget_ = end.peg;
  keySlot_ = end.slot;
  refreshScene();
  QPainter p(this);
  p.fillRect(rect(), theme().board);
  p.drawPixmap(0, 0, scene_);
  p.setRenderHint(QPainter::Antialiasing);
  p.setRenderHint(QPainter::SmoothPixmapTransform);
  p.save();
  p.setClipRect(QRect(0, 0, width(), height() - kHemHeight));
  p.translate(-scroll_);
  paintHemThreads(p);
  paintStages(p);
  for (const TagPlace& t : layout_.tags())
    if (const auto it = faults_.find(t.node); it != faults_.end()) paintFault(p, t, it->second);
  paintLaneHeads(p);
  paintDrag(p);
  p.restore();
  paintMap(p);
  paintHem(p);
}

void Board::paintLanes(QPainter& p) {
  const qreal tall = std::max(layout_.size().height(), scroll_.y() + height());
  for (const LanePlace& l : layout_.lanes()) {
    const Lane* lane = material_.lane(l.id);
    p.fillRect(QRectF(l.rect.x(), 0, l.rect.width(), tall), laneTint(lane->tint));
    p.setPen(QPen(theme().line, 1));
    p.drawLine(QPointF(l.rect.right(), 0), QPointF(l.rect.right(), tall));
  }
}

// The line above a row, in the middle of the channel.
qreal Board::rowTop(int row) const {
  const QRectF first = layout_.cellRect({material_.lanes.empty() ? "" : material_.lanes.front().id, 0, 0}), second = layout_.cellRect({material_.lanes.empty() ? "" : material_.lanes.front().id, 0, 1});
  const qreal pitch = std::max(second.y() - first.y(), first.height() + 4);
  return row == 0 ? BoardLayout::kLaneHead : first.y() + row * pitch - (pitch - first.height()) / 2;
}

// A line across all lanes, the name on it at the right, where threads rarely run.
void Board::paintStages(QPainter& p) {
  p.setFont(textFont(11, QFont::DemiBold));
  for (const Stage& s : material_.stages) {
    const qreal y = rowTop(s.row);
    p.setPen(QPen(theme().mute, 1, Qt::DashLine));
    p.drawLine(QPointF(0, y), QPointF(layout_.size().width(), y));
    const qreal wide = QFontMetricsF(p.font()).horizontalAdvance(qs(s.name)) + 12;
    const QRectF label(scroll_.x() + width() - wide - 6, y + 1, wide, 16);
    p.fillRect(label, theme().board);
    p.setPen(theme().ink);
    p.drawText(label, Qt::AlignCenter, qs(s.name));
  }
}

// What is written beside a tag, and the letters of its marks.
void Board::paintBadges(QPainter& p, const TagPlace& t) {
  if (const auto note = material_.notes_on.find(t.node); note != material_.notes_on.end()) {
    p.setFont(textFont(11));
    const QRectF slip(t.rect.x() + 4, t.rect.bottom() + 6, t.rect.width() - 8, 17);
    p.fillRect(slip, theme().paper);
    p.fillRect(QRectF(slip.topLeft(), QSizeF(3, slip.height())), theme().weld);
    p.setPen(theme().ink);
    p.drawText(slip.adjusted(7, 0, -2, 0), Qt::AlignVCenter, QFontMetricsF(p.font()).elidedText(qs(note->second).section(QLatin1Char('\n'), 0, 0), Qt::ElideRight, slip.width() - 9));
  }
  paintFollowed(p, t);
  if (weaving_ == t.node) {  // at work
    p.setPen(QPen(theme().weld, 2, Qt::DashLine));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(t.rect.adjusted(-3, -3, 3, 3), 6, 6);
  }
  QString letters;
  for (const auto& [letter, at] : material_.marks) if (split_output(at).first == t.node) letters += qs(letter).toUpper();
  if (letters.isEmpty()) return;
  p.setFont(textFont(11, QFont::Bold));
  const qreal wide = std::max(16.0, QFontMetricsF(p.font()).horizontalAdvance(letters) + 8);
  const QRectF badge(t.rect.right() - wide + 5, t.rect.top() - 7, wide, 16);
  p.setPen(Qt::NoPen);
  p.setBrush(theme().indigo);
  p.drawRoundedRect(badge, 3, 3);
  p.setPen(theme().paper);
  p.drawText(badge, Qt::AlignCenter, letters);
}

// Its values stand on the tags while a place is followed; what it is not made from recedes.
void Board::paintFollowed(QPainter& p, const TagPlace& t) {
  if (followed_.empty()) return;
  QStringList lines;
  for (const PegPlace& out : t.outputs)
    if (const auto it = followed_.find(out.node + "." + out.peg); it != followed_.end()) lines << it->second;
  if (lines.isEmpty()) {
    QColor veil = theme().board;
    veil.setAlpha(170);
    return p.fillRect(t.rect.adjusted(-2, -4, 4, 4), veil);
  }
  p.setFont(monoFont(11));
  const QFontMetricsF metrics(p.font());
  const QString text = metrics.elidedText(lines.join(QStringLiteral(" | ")), Qt::ElideRight, std::max(t.rect.width() + 24, 120.0));
  const qreal wide = metrics.horizontalAdvance(text) + 10;
  const QRectF slip(t.rect.center().x() - wide / 2, t.rect.bottom() + 5, wide, 17);
  p.setPen(QPen(theme().madder, 1));
  p.setBrush(theme().paper);
  p.drawRoundedRect(slip, 3, 3);
  p.setPen(theme().ink);
  p.drawText(slip, Qt::AlignCenter, text);
}

// Heads stay in sight: they are painted over what scrolls below them.
void Board::paintLaneHeads(QPainter& p) {
  for (const LanePlace& l : layout_.lanes()) {
    const Lane* lane = material_.lane(l.id);
    if (!l.collapsed) p.fillRect(QRectF(l.rect.x(), scroll_.y(), l.rect.width() - 1, BoardLayout::kLaneHead - 2), laneTint(lane->tint));
    int count = 0;
    for (const NodePtr& n : material_.nodes) count += n->lane == l.id;
    p.setFont(textFont(13, QFont::Bold));
    p.setPen(cell_.lane == l.id ? theme().indigo : theme().ink);
    const QString number = count == 1 ? tr("1 node") : tr("%1 nodes").arg(count);
    if (l.collapsed) {
      p.save();
      p.translate(l.rect.center().x() + 5, BoardLayout::kLaneHead + 4 + scroll_.y());
      p.rotate(90);
      p.drawText(QPointF(0, 0), qs(lane->name) + QStringLiteral("  ") + number);
      p.restore();
    } else {
      const qreal y = scroll_.y();
      const qreal named = QFontMetricsF(p.font()).horizontalAdvance(qs(lane->name));
      const bool roomy = named + 90 < l.rect.width();  // a narrow lane keeps its name and leaves the count out
      p.drawText(QRectF(l.rect.x() + 14, y + 4, l.rect.width() - 20, 24), Qt::AlignVCenter, elided(p.font(), qs(lane->name), l.rect.width() - 20));
      p.setFont(textFont(11));
      p.setPen(theme().mute);
      if (roomy) p.drawText(QRectF(l.rect.x(), y + 4, l.rect.width() - 12, 24), Qt::AlignVCenter | Qt::AlignRight, number);
      if (cell_.lane == l.id) p.fillRect(QRectF(l.rect.x(), y, l.rect.width(), 2), theme().indigo);
    }
  }
}

void Board::paintThread(QPainter& p, const ThreadPlace& t, bool inked, const QRectF& seen) {
  const QColor ink = inked ? theme().ink : (theme().night ? theme().mute.darker(140) : QColor("#8d877b")), ground = theme().night ? QColor("#262421") : QColor("#dcdad3");
  const bool broken = t.kind == Kind::regions || t.kind == Kind::set;  // beads and dashes are counted from the beginning
  const QPainterPath path = broken || t.toHem ? t.path : seenPart(t, seen);
  const auto stroke = [&](const QColor& c, qreal width, Qt::PenStyle style = Qt::SolidLine) {
    QPen pen(c, width, style, Qt::FlatCap, Qt::RoundJoin);
    p.strokePath(path, pen);
  };
  const int strands = t.kind == Kind::regions ? 0 : t.kind == Kind::set ? 5 : std::max(strand_count(t.kind), 1);
  stroke(ground, 2.0 * std::max(strands, 1) + 2.5);  // a gap where threads cross
  const qreal k = inked ? 1.15 : 1;
  switch (strands) {
    case 0: {
      QPen beads(ink, 3.6, Qt::CustomDashLine, Qt::RoundCap);
      beads.setDashPattern({0.01, 1.7});
      p.strokePath(t.path, beads);
      break;
    }
    case 1: stroke(ink, 1.5 * k); break;
    case 2: stroke(ink, 4.4 * k); stroke(ground, 2.0 * k); break;
    case 3: stroke(ink, 7.0 * k); stroke(ground, 4.8 * k); stroke(ink, 1.2 * k); break;
    case 4: stroke(ink, 9.0 * k); stroke(ground, 7.0 * k); stroke(ink, 3.6 * k); stroke(ground, 1.6 * k); break;
    default: stroke(ink, 7); stroke(ground, 3, Qt::DashLine); break;
  }
  if (t.alias) {  // taken by its name: the name stands where the line would come from
    const auto [node, peg] = split_output(t.from);
    const Node* n = material_.node(node);
    p.setFont(textFont(11));
    const QString name = QFontMetricsF(p.font()).elidedText(n ? qs(label_of(material_, catalogue(), *n)) : qs(t.from), Qt::ElideRight, 110);
    const QRectF box(t.path.pointAtPercent(0) - QPointF(QFontMetricsF(p.font()).horizontalAdvance(name) / 2 + 4, 15), QSizeF(QFontMetricsF(p.font()).horizontalAdvance(name) + 8, 15));
    p.fillRect(box, theme().paper);
    p.setPen(inked ? theme().indigo : theme().ink);
    p.drawText(box, Qt::AlignCenter, name);
  }
  if (t.converted && inked) {  // the data changes its kind in this peg
    const QPointF end = t.path.pointAtPercent(1);
    p.setFont(textFont(11));
    p.setPen(theme().mute);
    p.drawText(end + QPointF(7, -8), QString::fromUtf8(kind_name(t.kind).data()) + tr(", converted"));
  }
}

bool Board::isTouched(const ThreadPlace& t) const {
  return isSelected(split_output(t.from).first) || (t.toHem ? t.to == slotFocus_ : isSelected(split_output(t.to).first));
}

void Board::paintThreads(QPainter& p, const QRectF& seen) {
  std::vector<const ThreadPlace*> inked, shown;
  for (const ThreadPlace& t : layout_.threads()) {
    if (t.toHem) continue;
    const qreal aside = t.alias || t.converted ? 130 : 8;  // with what is written beside it
    if (!t.path.boundingRect().adjusted(-aside, -aside, aside, aside).intersects(seen)) continue;
    shown.push_back(&t);
    if (isTouched(t)) inked.push_back(&t);
    else paintThread(p, t, false, seen);
  }
  for (const ThreadPlace* t : inked) paintThread(p, *t, true, seen);
  for (const ThreadPlace* t : shown)
    for (const QPointF& g : t->guides) {
      p.setPen(QPen(isTouched(*t) ? theme().indigo : theme().mute, 1.4));
      p.setBrush(theme().paper);
      p.drawRect(QRectF(g - QPointF(3.5, 3.5), QSizeF(7, 7)));
    }
  // The way back of a followed place, over all.
  for (const ThreadPlace* t : shown) {
    if (std::find(followedPath_.begin(), followedPath_.end(), t->to) == followedPath_.end()) continue;
    p.strokePath(t->path, QPen(theme().paper, 7, Qt::SolidLine, Qt::RoundCap));
    p.strokePath(t->path, QPen(theme().madder, 3.5, Qt::SolidLine, Qt::RoundCap));
  }
}

// They end in the hem, which stays while the board moves: their way is another after every step.
void Board::paintHemThreads(QPainter& p) {
  for (const bool inked : {false, true})
    for (const ThreadPlace& t : layout_.threads()) if (t.toHem && isTouched(t) == inked) paintThread(p, t, inked, QRectF());
}

// A picture at the size of its tag, scaled once.
const QPixmap& Board::smallPicture(const QImage& image, qreal side) {
  const int pixels = std::max(1, qRound(side * devicePixelRatioF()));
  if (smallPictures_.size() > 2000) smallPictures_.clear();
  QPixmap& small = smallPictures_[{image.cacheKey(), pixels}];
  if (small.isNull()) {
    small = QPixmap::fromImage(image.scaled(pixels, pixels, Qt::IgnoreAspectRatio, Qt::SmoothTransformation));
    small.setDevicePixelRatio(devicePixelRatioF());
  }
  return small;
}

QString Board::secondLine(const Node& n) const {
  if (n.bypass) return tr("bypassed");
  if (n.type == kComesIn) return tr("comes in");
  if (const Group* g = n.type == "group" ? material_.group(n.group) : nullptr) {
    const int uses = edit::uses_of(material_, g->id);
    return uses > 1 ? tr("%1 nodes, used %2 times").arg(g->nodes.size()).arg(uses) : tr("%n nodes", nullptr, static_cast<int>(g->nodes.size()));
  }
  const NodeType* type = catalogue().find(n.type);
  if (!type) return {};
  if (!n.name.empty()) return qs(type->label);
  for (const Parameter& p : type->parameters) {
    const auto it = n.params.find(p.id);
    const ParamValue& v = it == n.params.end() ? p.initial : it->second;
    if (p.kind == ParameterKind::choice) if (const auto* w = std::get_if<std::string>(&v)) return qs(*w).replace(QLatin1Char('_'), QLatin1Char(' '));
    if (p.kind == ParameterKind::formula) if (const auto* w = std::get_if<std::string>(&v)) return qs(*w);
    if (const auto* d = std::get_if<double>(&v); d && p.kind != ParameterKind::seed && p.acts.formula.empty()) return qs(p.label).toLower() + QLatin1Char(' ') + QString::number(*d, 'g', 3);
  }
  return {};
}

void Board::paintTag(QPainter& p, const TagPlace& t) {
  const Node* n = t.held.get();
  const bool selected = isSelected(t.node), fault = faults_.count(t.node) != 0;
  if (t.hidden) {
    p.setPen(Qt::NoPen);
    p.setBrush(selected ? theme().indigo : theme().line);
    p.drawRoundedRect(t.rect.adjusted(2, 2, -2, -2), 3, 3);
    return;
  }
  const TagForm form = layout_.form();
  p.setBrush(theme().paper);
  p.setPen(QPen(fault ? theme().madder : selected ? theme().indigo : theme().line, selected || fault ? 2 : 1));
  if (n->type == "group") p.drawRoundedRect(t.rect.translated(3, 3), 4, 4);
  p.drawRoundedRect(t.rect, 4, 4);
  const std::string shown = selected && !selected_.empty() && selected_.back() == t.node ? focusedOutput() : t.outputs.empty() ? std::string() : t.node + "." + t.outputs[0].peg;
  const qreal side = form == TagForm::picture ? t.rect.height() - 6 : t.rect.height() - (form == TagForm::whole ? 8 : 6);
  const QRectF picture(t.rect.x() + (form == TagForm::picture ? 3 : 4), t.rect.y() + (t.rect.height() - side) / 2, side, side);
  const QImage image = pictureFor(shown);
  if (image.isNull()) p.fillRect(picture, theme().picture);
  else p.drawPixmap(picture.topLeft(), smallPicture(image, side));
  if (n->bypass) {
    p.setPen(QPen(theme().mute, 2));
    p.drawLine(t.rect.topLeft() + QPointF(3, 3), t.rect.bottomRight() - QPointF(3, 3));
  }
  if (form != TagForm::picture) {
    const QRectF text(picture.right() + 6, t.rect.y(), t.rect.right() - picture.right() - 10, t.rect.height());
    const QString label = qs(label_of(material_, catalogue(), *n));
    p.setFont(textFont(form == TagForm::whole ? std::max(11.0, 12 * zoom_) : 11, QFont::DemiBold));
    p.setPen(fault ? theme().madder : n->bypass ? theme().mute : theme().ink);
    if (form == TagForm::whole) {
      const QString name = elided(p.font(), label, text.width());
      p.setFont(fitted(p.font(), label, text.width()));
      const QString second = secondLine(*n);
      if (second.isEmpty() && name != label) {  // its name has both lines
        const QStringList lines = twoLines(textFont(11, QFont::DemiBold), label, text.width() + 4);
        p.setFont(textFont(11, QFont::DemiBold));
        p.drawText(text.adjusted(0, 0, 6, 0), Qt::AlignVCenter | Qt::AlignLeft, lines.join(QLatin1Char('\n')));
      } else {
        p.drawText(QRectF(text.x(), text.y() + 4, text.width() + 2, text.height() / 2 - 4), Qt::AlignBottom | Qt::AlignLeft, name);
        p.setFont(textFont(11));
        p.setPen(theme().mute);
        p.drawText(QRectF(text.x(), text.center().y() + 2, text.width(), text.height() / 2 - 4), Qt::AlignTop | Qt::AlignLeft, elided(p.font(), second, text.width()));
      }
    } else {
      const QStringList lines = twoLines(p.font(), label, text.width() + 4);
      QString longest = lines.front();
      for (const QString& line : lines) if (QFontMetricsF(p.font()).horizontalAdvance(line) > QFontMetricsF(p.font()).horizontalAdvance(longest)) longest = line;
      p.setFont(fitted(p.font(), longest, text.width() + 4));
      p.drawText(text.adjusted(0, 0, 6, 0), Qt::AlignVCenter | Qt::AlignLeft, lines.join(QLatin1Char('\n')));
    }
  }
  const auto peg = [&](const PegPlace& g) {
    const qreal wide = std::max(5.0, 10 * std::min(zoom_, 1.0)), tall = 5;
    const QRectF r(g.at.x() - wide / 2, g.input ? g.at.y() - tall + 1 : g.at.y() - 1, wide, tall);
    const bool aim = keyTarget_ == &g;
    p.setPen(QPen(aim ? theme().indigo : theme().ink, aim ? 3 : 1));
    p.setBrush(g.connected || !g.input ? theme().ink : theme().paper);
    if (!g.input && shown == g.node + "." + g.peg && selected) p.setBrush(theme().indigo);
    p.drawRect(r);
  };
  for (const PegPlace& g : t.inputs)
    // Rarely used pegs stay quiet until their node is in hand.
    if (g.connected || selected || drag_ == Drag::thread || keyThread_ || t.inputs.size() <= 4) peg(g);
  for (const PegPlace& g : t.outputs)
    if (g.connected || selected || drag_ == Drag::thread || t.outputs.size() <= 2) peg(g);
}

void Board::paintFault(QPainter& p, const TagPlace& t, const Error& e) {
  const QString text = qs(e.where) + QStringLiteral(": ") + qs(e.what) + QStringLiteral("\n") + qs(e.mend) + tr(".\nThe last good result stays.");
  p.setFont(textFont(11));
  const QRectF box = QFontMetricsF(p.font()).boundingRect(QRectF(t.rect.x() + 8, t.rect.bottom() + 8, 220, 200), Qt::TextWordWrap, text).adjusted(-8, -6, 8, 6);
  p.fillRect(box, theme().paper);
  p.fillRect(QRectF(box.topLeft(), QSizeF(3, box.height())), theme().madder);
  p.setPen(theme().madder);
  p.drawText(box.adjusted(8, 6, -8, -6), Qt::TextWordWrap, text);
}

void Board::paintHem(QPainter& p) {
  const QRect bar(0, height() - kHemHeight, width(), kHemHeight);
  p.fillRect(bar, theme().night ? QColor("#2f2c28") : QColor("#cfc6b2"));
  p.fillRect(QRect(0, bar.top(), width(), 2), theme().ink);
  for (const auto& [id, label] : hemSlots()) {
    const QRect r = slotRect(id);
    const bool filled = material_.hem.count(id) != 0, focused = slotFocus_ == id || (keyThread_ && keySlot_ == id);
    const QRect picture(r.x() + 10, r.y() + 13, 32, 32);
    const QImage small = !filled ? QImage() : material_.inside ? pictureFor(material_.hem.at(id)) : hemPictures_.count(id) ? hemPictures_.at(id) : QImage();
    if (!small.isNull()) p.drawImage(picture, small);
    else {
      p.setPen(QPen(theme().mute, 1, Qt::DashLine));
      p.setBrush(Qt::NoBrush);
      p.drawRect(picture);
    }
    if (focused) {
      p.setPen(QPen(theme().indigo, 2));
      p.setBrush(Qt::NoBrush);
      p.drawRoundedRect(QRectF(r).adjusted(3, 6, -3, -4), 4, 4);
    }
    p.setPen(QPen(theme().ink, 1));
    p.setBrush(filled ? theme().ink : theme().paper);
    p.drawRect(QRectF(r.x() + 21, bar.top() - 2, 10, 5));
    p.setFont(textFont(11, QFont::DemiBold));
    p.setPen(theme().ink);
    const qreal room = r.width() - 50;
    const QString name = elided(p.font(), label, room);
    p.setFont(fitted(p.font(), label, room));
    p.drawText(QRectF(picture.right() + 6, r.y() + 13, room + 2, 16), Qt::AlignVCenter, name);
    p.setFont(textFont(11));
    p.setPen(theme().night ? theme().mute : QColor("#5a5549"));
    p.drawText(QRectF(picture.right() + 6, r.y() + 29, room, 16), Qt::AlignVCenter, elided(p.font(), filled ? qs(split_output(material_.hem.at(id)).second).replace(QLatin1Char('_'), QLatin1Char(' ')) : tr("empty"), room));
  }
}

void Board::paintDrag(QPainter& p) {
  if (drag_ == Drag::band) {
    p.setPen(QPen(theme().indigo, 1, Qt::DashLine));
    p.setBrush(Qt::NoBrush);
    p.drawRect(QRectF(dragFrom_, dragAt_).normalized());
  } else if (drag_ == Drag::cut) {
    p.setPen(QPen(theme().madder, 2));
    p.drawPolyline(stroke_);
  } else if (drag_ == Drag::thread && !dragOutput_.empty()) {
    const auto [node, peg] = split_output(dragOutput_);
    if (const TagPlace* t = layout_.tag(node))
      for (const PegPlace& g : t->outputs)
        if (g.peg == peg) {
          p.setPen(QPen(theme().indigo, 2));
          p.drawLine(g.at, dragAt_);
        }
  } else if (drag_ == Drag::tags && (dragAt_ - dragFrom_).manhattanLength() > 8) {
    const BoardLayout::Cell to = layout_.cellAt(dragAt_);
    p.setPen(QPen(theme().indigo, 2, Qt::DashLine));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(layout_.cellRect(to), 4, 4);
  } else if (drag_ == Drag::guide) {
    p.setPen(QPen(theme().indigo, 1.4));
    p.setBrush(theme().paper);
    p.drawRect(QRectF(dragAt_ - QPointF(4, 4), QSizeF(8, 8)));
  } else if (drag_ == Drag::lane && std::abs(dragAt_.x() - dragFrom_.x()) > 12) {  // where the lane will stand
    const LanePlace& l = layout_.lanes()[std::min(laneUnder(dragAt_.x()), layout_.lanes().size() - 1)];
    p.setPen(QPen(theme().indigo, 2, Qt::DashLine));
    p.setBrush(Qt::NoBrush);
    p.drawRect(QRectF(l.rect.x() + 1, scroll_.y() + 1, l.rect.width() - 2, height() - kHemHeight - 2));
  }
}

// The whole board in a corner, while it is larger than the view.
QRectF Board::mapArea() const {
  const QSizeF all = layout_.size();
  if (all.width() <= width() * 1.05 && all.height() <= (height() - kHemHeight) * 1.25) return {};
  const qreal k = std::min(150.0 / all.width(), 110.0 / all.height());
  return QRectF(width() - all.width() * k - 10, height() - kHemHeight - all.height() * k - 10, all.width() * k, all.height() * k);
}

void Board::paintMap(QPainter& p) {
  const QRectF area = mapArea();
  if (area.isEmpty()) return;
  const qreal k = area.width() / layout_.size().width();
  QColor ground = theme().paper;
  ground.setAlpha(225);
  p.setPen(QPen(theme().line, 1));
  p.setBrush(ground);
  p.drawRect(area.adjusted(-3, -3, 3, 3));
  p.setPen(Qt::NoPen);
  for (const TagPlace& t : layout_.tags()) {
    p.setBrush(isSelected(t.node) ? theme().indigo : faults_.count(t.node) ? theme().madder : theme().mute);
    p.drawRect(QRectF(area.topLeft() + t.rect.topLeft() * k, t.rect.size() * k));
  }
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(theme().indigo, 1.5));
  p.drawRect(QRectF(area.topLeft() + scroll_ * k, QSizeF(std::min<qreal>(width(), layout_.size().width()), std::min<qreal>(height() - kHemHeight, layout_.size().height())) * k));
}

// ---- hands ----

void Board::mousePressEvent(QMouseEvent* e) {
  setFocus();
  dragFrom_ = dragAt_ = boardPoint(e->position());
  if (e->button() == Qt::MiddleButton) {
    drag_ = Drag::pan;
    dragFrom_ = e->position();
    return;
  }
  if (e->button() != Qt::LeftButton) return;
  if (mapArea().contains(e->position())) {
    drag_ = Drag::map;
    return mouseMoveEvent(e);
  }
  if (const std::string slot = slotAt(e->position()); !slot.empty()) {
    slotFocus_ = slot;
    if (const auto it = material_.hem.find(slot); it != material_.hem.end()) {
      const auto [node, peg] = split_output(it->second);
      selected_ = {node};
    }
    update();
    Q_EMIT selectionChanged();
    return;
  }
  slotFocus_.clear();
  if (cutting_) {
    drag_ = Drag::cut;
    stroke_ = QPolygonF{dragFrom_};
    return;
  }
  if (const PegPlace* g = layout_.pegNear(dragFrom_, kPegReach)) {
    if (!g->input) {
      dragOutput_ = g->node + "." + g->peg;
      drag_ = Drag::thread;
    } else if (const Thread* t = material_.into(g->node, g->peg)) {  // the thread comes off, its end in the hand
      dragOutput_ = t->from_node + "." + t->from_peg;
      drag_ = Drag::thread;
      Q_EMIT editWanted(tr("Unplug %1").arg(qs(g->peg)), edit::disconnect(material_, g->node, g->peg));
    }
    update();
    return;
  }
  if (const auto guide = guideNear(dragFrom_)) {
    std::tie(dragPeg_, dragGuide_) = *guide;
    drag_ = Drag::guide;
    return;
  }
  if (e->position().y() < BoardLayout::kLaneHead && !layout_.lanes().empty()) {
    dragLane_ = layout_.lanes()[std::min(laneUnder(dragFrom_.x()), layout_.lanes().size() - 1)].id;
    drag_ = Drag::lane;
    cell_ = layout_.cellAt(dragFrom_);
    return update();
  }
  if (const TagPlace* t = tagAt(dragFrom_)) {
    const std::string id = t->node;
    if (e->modifiers() & (Qt::ShiftModifier | Qt::ControlModifier)) {
      auto all = selected_;
      if (isSelected(id)) std::erase(all, id); else all.push_back(id);
      select(all);
    } else if (!isSelected(id)) {
      select({id});
    } else {
      std::erase(selected_, id);
      selected_.push_back(id);
      select(selected_);
    }
    drag_ = Drag::tags;
    return;
  }
  cell_ = layout_.cellAt(dragFrom_);
  if (!(e->modifiers() & Qt::ShiftModifier)) select({});
  drag_ = Drag::band;
}

void Board::mouseMoveEvent(QMouseEvent* e) {
  if (drag_ == Drag::none) return;
  if (drag_ == Drag::pan) {
    scroll_ -= e->position() - dragFrom_;
    dragFrom_ = e->position();
    scrolled();
    return;
  }
  if (drag_ == Drag::map) {
    const QRectF area = mapArea();
    scroll_ = (e->position() - area.topLeft()) * (layout_.size().width() / std::max(area.width(), 1.0)) - QPointF(width() / 2.0, (height() - kHemHeight) / 2.0);
    return scrolled();
  }
  dragAt_ = boardPoint(e->position());
  if (drag_ == Drag::cut) stroke_ << dragAt_;
  QWidget::update();  // what is in the hand lies over the board, which stays as it is painted
}

void Board::mouseReleaseEvent(QMouseEvent* e) {
  const Drag was = drag_;
  drag_ = Drag::none;
  const QPointF at = boardPoint(e->position());
  if (was == Drag::cut) {
    cutAcross(std::exchange(stroke_, {}) << at);
  } else if (was == Drag::thread) {
    const std::string output = std::exchange(dragOutput_, {});
    connectPegs(output, e->position());
  } else if (was == Drag::band) {
    const QRectF band = QRectF(dragFrom_, at).normalized();
    if (band.width() > 4 || band.height() > 4) {
      std::vector<std::string> inside;
      for (const TagPlace& t : layout_.tags()) if (!t.hidden && t.rect.intersects(band)) inside.push_back(t.node);
      select(inside);
    }
  } else if (was == Drag::tags && (at - dragFrom_).manhattanLength() > 8) {
    const BoardLayout::Cell from = layout_.cellAt(dragFrom_), to = layout_.cellAt(at);
    std::vector<edit::Placing> places;
    for (const std::string& id : selected_)
      if (const Node* n = material_.node(id))
        places.push_back({id, n->lane == from.lane ? to.lane : n->lane, std::max(0, n->column + (n->lane == from.lane ? to.column - from.column : 0)), std::max(0, n->row + to.row - from.row)});
    Material next = edit::place_nodes(material_, places);
    // Dropped on a thread, a tag that nothing feeds yet goes into it.
    if (const ThreadPlace* th = selected_.size() == 1 ? threadAt(at) : nullptr; th && !th->toHem) {
      const auto [reader, peg] = split_output(th->to);
      const Thread* thread = material_.into(reader, peg);
      if (thread) next = edit::splice_into(std::move(next), catalogue(), *thread, selected_.front());
    }
    if (!places.empty()) Q_EMIT editWanted(tr("Move"), next);
  } else if (was == Drag::guide && (at - dragFrom_).manhattanLength() > 3) {
    moveGuide(at);
  } else if (was == Drag::lane && std::abs(at.x() - dragFrom_.x()) > 12) {
    dropLane(at);
  }
  update();
}

// ---- guides: places that a thread is led through ----

std::optional<std::pair<std::string, std::size_t>> Board::guideNear(QPointF at) const {
  for (const ThreadPlace& t : layout_.threads())
    for (std::size_t i = 0; i < t.guides.size(); ++i)
      if ((t.guides[i] - at).manhattanLength() < 9) return std::pair(t.to, i);
  return {};
}

// Between those that it lies between along the thread.
void Board::addGuide(const ThreadPlace& thread, QPointF at) {
  const auto along = [&](QPointF p) {
    int best = 0;
    for (int i = 1; i <= 200; ++i)
      if ((thread.path.pointAtPercent(i / 200.0) - p).manhattanLength() < (thread.path.pointAtPercent(best / 200.0) - p).manhattanLength()) best = i;
    return best;
  };
  std::size_t before = 0;
  while (before < thread.guides.size() && along(thread.guides[before]) < along(at)) ++before;
  const auto led = material_.guides.find(thread.to);
  auto through = led == material_.guides.end() ? std::vector<Guide>{} : led->second;
  through.insert(through.begin() + static_cast<std::ptrdiff_t>(std::min(before, through.size())), layout_.guideAt(at));
  Q_EMIT editWanted(tr("Lead a thread"), edit::set_guides(material_, thread.to, through));
}

void Board::moveGuide(QPointF to) {
  const auto led = material_.guides.find(dragPeg_);
  if (led == material_.guides.end() || dragGuide_ >= led->second.size()) return;
  auto through = led->second;
  through[dragGuide_] = layout_.guideAt(to);
  Q_EMIT editWanted(tr("Lead a thread"), edit::set_guides(material_, dragPeg_, through));
}

// The lane that x lies in; beyond all: their number.
std::size_t Board::laneUnder(qreal x) const {
  std::size_t i = 0;
  while (i < layout_.lanes().size() && x >= layout_.lanes()[i].rect.right()) ++i;
  return i;
}

void Board::dropLane(QPointF at) {
  const auto& lanes = layout_.lanes();
  const auto own = std::find_if(lanes.begin(), lanes.end(), [&](const LanePlace& l) { return l.id == dragLane_; });
  if (own == lanes.end()) return;
  const int by = static_cast<int>(std::min(laneUnder(at.x()), lanes.size() - 1)) - static_cast<int>(own - lanes.begin());
  if (by) Q_EMIT editWanted(tr("Move lane"), edit::move_lane(material_, dragLane_, by));
}

// Every thread that the stroke crosses is cut, in one step.
void Board::cutAcross(const QPolygonF& stroke) {
  QPainterPath line;
  line.addPolygon(stroke);
  QPainterPathStroker wide;
  wide.setWidth(1);
  const QPainterPath area = wide.createStroke(line);
  Material next = material_;
  int cut = 0;
  for (const ThreadPlace& t : layout_.threads()) {
    if (!wide.createStroke(t.path).intersects(area)) continue;
    const auto [node, peg] = split_output(t.to);
    next = t.toHem ? edit::set_hem(std::move(next), t.to, "") : edit::disconnect(std::move(next), node, peg);
    ++cut;
  }
  if (cut) Q_EMIT editWanted(tr("Cut %n threads", nullptr, cut), next);
}

void Board::connectPegs(const std::string& output, QPointF widget) {
  const auto [node, peg] = split_output(output);
  if (const std::string slot = slotAt(widget); !slot.empty()) return hemTo(output, slot);
  const PegPlace* g = layout_.pegNear(boardPoint(widget), 18);
  if (g && g->input) return connectTo(output, *g);
  if (const TagPlace* t = tagAt(boardPoint(widget))) {  // on the tag itself: its first free peg that fits
    for (const PegPlace& in : t->inputs)
      if (!in.connected && refusal(material_, catalogue(), {node, peg, in.node, in.peg}).empty()) return connectTo(output, in);
    return;
  }
  if ((boardPoint(widget) - dragFrom_).manhattanLength() < 12) return;
  cell_ = layout_.cellAt(boardPoint(widget));
  selected_.clear();
  addLine_->openAt(widget.toPoint(), output);
}

void Board::hemTo(const std::string& output, std::string slot) {
  const auto [node, peg] = split_output(output);
  if (slot == kNewSlot) {
    slot = peg;
    for (int k = 2; material_.hem.count(slot); ++k) slot = peg + "_" + std::to_string(k);
  }
  const Kind kind = output_kind(material_, catalogue(), node, peg);
  if (!material_.inside && slot_kind(slot) != Kind::any && !converts(kind, slot_kind(slot))) return Q_EMIT message(tr("%1 takes a %2, not a %3").arg(qs(slot), QString::fromUtf8(kind_name(slot_kind(slot)).data()), QString::fromUtf8(kind_name(kind).data())));
  Q_EMIT editWanted(tr("Hem %1").arg(qs(slot)), edit::set_hem(material_, slot, output));
}

void Board::connectTo(const std::string& from, const PegPlace& to) {
  const auto [node, peg] = split_output(from);
  const Thread thread{node, peg, to.node, to.peg};
  if (const std::string why = refusal(material_, catalogue(), thread); !why.empty()) return Q_EMIT message(tr("Not connected: %1").arg(qs(why)));
  Q_EMIT editWanted(tr("Connect %1").arg(qs(to.peg)), edit::connect(material_, thread));
}

void Board::mouseDoubleClickEvent(QMouseEvent* e) {
  const QPointF at = boardPoint(e->position());
  if (e->position().y() < BoardLayout::kLaneHead) {
    for (const LanePlace& l : layout_.lanes())
      if (at.x() >= l.rect.left() && at.x() < l.rect.right()) {
        const Lane* lane = material_.lane(l.id);
        const std::string id = l.id;
        if (l.collapsed) return Q_EMIT editWanted(tr("Open lane"), edit::collapse_lane(material_, id, false));
        return editText(QRectF(l.rect.x() + 10, scroll_.y() + 3, l.rect.width() - 20, 24), qs(lane->name), [this, id](const QString& name) {
          Q_EMIT editWanted(tr("Rename lane"), edit::rename_lane(material_, id, name.toStdString()));
        });
      }
  } else if (const TagPlace* t = tagAt(at)) {
    const Node* n = material_.node(t->node);
    if (n && n->type == "group") lookInside();
    else renameSelected();
  } else if (!slotAt(e->position()).empty()) {
    return;
  } else if (guideNear(at)) {
    return;
  } else if (const ThreadPlace* th = threadAt(at); th && !th->toHem && !th->alias) {
    addGuide(*th, at);
  } else {
    cell_ = layout_.cellAt(at);
    addLine_->openAt(e->position().toPoint(), {});
  }
}

void Board::editText(QRectF rect, const QString& text, const std::function<void(const QString&)>& done) {
  auto* line = new QLineEdit(text, this);
  line->setGeometry(rect.translated(-scroll_).toRect());
  line->setAutoFillBackground(true);
  line->setAccessibleName(tr("Name"));
  line->selectAll();
  line->show();
  line->setFocus();
  connect(line, &QLineEdit::editingFinished, this, [line, text, done, this] {
    if (!line->isVisible()) return;
    line->hide();
    line->deleteLater();
    if (line->text() != text) done(line->text());
    setFocus();
  });
}

void Board::renameSelected() {
  if (selected_.empty()) return;
  const TagPlace* t = layout_.tag(selected_.back());
  const Node* n = material_.node(selected_.back());
  if (!t || !n) return;
  const std::string id = n->id;
  editText(t->rect.adjusted(0, 4, 0, -4), qs(label_of(material_, catalogue(), *n)), [this, id](const QString& name) {
    const Node* now = material_.node(id);
    const Group* group = now && now->type == "group" ? material_.group(now->group) : nullptr;  // its name is the definition's
    Q_EMIT editWanted(tr("Rename"), group ? edit::describe_group(material_, group->id, name.trimmed().toStdString(), group->help) : edit::rename_node(material_, id, name.trimmed().toStdString()));
  });
}

void Board::wheelEvent(QWheelEvent* e) {
  if (e->modifiers() & Qt::ControlModifier) {
    const QPointF under = boardPoint(e->position()) / zoom_;
    setZoom(zoom_ * std::pow(1.0015, e->angleDelta().y()));
    scroll_ = under * zoom_ - e->position();
    scrolled();
  } else {
    scroll_ -= QPointF(e->angleDelta().x(), e->angleDelta().y()) * 0.5;
    if (e->modifiers() & Qt::ShiftModifier) scroll_ -= QPointF(e->angleDelta().y() * 0.5, -e->angleDelta().y() * 0.5);
    scrolled();
  }
  e->accept();
}

bool Board::event(QEvent* e) {
  switch (e->type()) {  // Qt paints anew by itself after these
    case QEvent::PaletteChange: case QEvent::StyleChange: case QEvent::FontChange: case QEvent::FocusIn: case QEvent::FocusOut: case QEvent::EnabledChange: stale_ = true; break;
    default: break;
  }
  if (e->type() == QEvent::ShortcutOverride && (awaited_ || keyThread_)) {  // the letter belongs to the mark or the thread, not to an action
    e->accept();
    return true;
  }
  if (e->type() == QEvent::ToolTip) {
    const auto* help = static_cast<QHelpEvent*>(e);
    const QPointF at = boardPoint(help->pos());
    if (const PegPlace* g = layout_.pegNear(at, kPegReach)) QToolTip::showText(help->globalPos(), qs(g->peg).replace(QLatin1Char('_'), QLatin1Char(' ')) + QStringLiteral(", ") + QString::fromUtf8(kind_name(g->kind).data()));
    else if (const TagPlace* t = tagAt(at)) {
      const auto type = type_of(material_, catalogue(), *material_.node(t->node));
      const auto note = material_.notes_on.find(t->node);
      QToolTip::showText(help->globalPos(), (type ? qs(type->help) : QString()) + (note == material_.notes_on.end() ? QString() : QStringLiteral("\n\n") + qs(note->second)));
    } else QToolTip::hideText();
    return true;
  }
  return QWidget::event(e);
}

void Board::contextMenuEvent(QContextMenuEvent* e) {
  const QPointF at = boardPoint(e->pos());
  QMenu menu(this);
  if (const std::string slot = slotAt(e->pos()); !slot.empty()) {
    if (material_.hem.count(slot)) menu.addAction(tr("Unplug"), this, [this, slot] { Q_EMIT editWanted(tr("Unplug %1").arg(qs(slot)), edit::set_hem(material_, slot, "")); });
  } else if (e->pos().y() < BoardLayout::kLaneHead) {
    for (const LanePlace& l : layout_.lanes())
      if (at.x() >= l.rect.left() && at.x() < l.rect.right()) menuOfLane(menu, l.id);
    menu.addAction(tr("Add a lane"), this, [this] { Q_EMIT editWanted(tr("Add lane"), edit::add_lane(material_, "New lane")); });
  } else if (const TagPlace* t = tagAt(at)) {
    if (!isSelected(t->node)) select({t->node});
    menuOfTag(menu, t->node);
  } else if (const ThreadPlace* th = threadAt(at)) {
    const std::string to = th->to;
    if (th->toHem) menu.addAction(tr("Unplug"), this, [this, to] { Q_EMIT editWanted(tr("Unplug %1").arg(qs(to)), edit::set_hem(material_, to, "")); });
    else {
      const auto [n, peg] = split_output(to);
      menu.addAction(tr("Cut this thread"), this, [this, n = n, peg = peg] { Q_EMIT editWanted(tr("Cut a thread"), edit::disconnect(material_, n, peg)); });
      menu.addAction(th->alias ? tr("Show it as a line") : tr("Show it by its name"), this, [this, n = n, peg = peg, now = th->alias] { Q_EMIT editWanted(tr("Alias"), edit::set_alias(material_, n, peg, !now)); });
      if (!th->alias) menu.addAction(tr("Lead it through here\tdouble click"), this, [this, led = *th, at] { addGuide(led, at); });
      if (const auto guide = guideNear(at)) menu.addAction(tr("Take this guide away"), this, [this, guide] {
        auto through = material_.guides.at(guide->first);
        through.erase(through.begin() + static_cast<std::ptrdiff_t>(guide->second));
        Q_EMIT editWanted(tr("Take a guide away"), edit::set_guides(material_, guide->first, through));
      });
      if (!th->guides.empty()) menu.addAction(tr("Let it find its way"), this, [this, to] { Q_EMIT editWanted(tr("Let a thread find its way"), edit::set_guides(material_, to, {})); });
    }
  } else {
    cell_ = layout_.cellAt(at);
    menu.addAction(tr("Add a node\t/"), this, [this, p = e->pos()] { addLine_->openAt(p, {}); });
    menu.addAction(tr("Paste\tCtrl+V"), this, &Board::pasteHere);
    menuOfStages(menu, cell_.row);
  }
  if (!menu.isEmpty()) menu.exec(e->globalPos());
}

void Board::menuOfLane(QMenu& menu, const std::string& lane) {
  const bool closed = material_.lane(lane)->collapsed;
  menu.addAction(closed ? tr("Open the lane") : tr("Collapse the lane"), this, [=, this] { Q_EMIT editWanted(closed ? tr("Open lane") : tr("Collapse lane"), edit::collapse_lane(material_, lane, !closed)); });
  menu.addAction(tr("Move it left"), this, [=, this] { Q_EMIT editWanted(tr("Move lane"), edit::move_lane(material_, lane, -1)); })->setEnabled(material_.lanes.front().id != lane);
  menu.addAction(tr("Move it right"), this, [=, this] { Q_EMIT editWanted(tr("Move lane"), edit::move_lane(material_, lane, 1)); })->setEnabled(material_.lanes.back().id != lane);
  QMenu* tints = menu.addMenu(tr("Tint"));
  for (int i = 0; i < kLaneTints; ++i) {
    QPixmap swatch(28, 14);
    swatch.fill(laneTint(i));
    tints->addAction(QIcon(swatch), tr("Tint %1").arg(i + 1), this, [=, this] { Q_EMIT editWanted(tr("Tint lane"), edit::tint_lane(material_, lane, i)); });
  }
}

void Board::menuOfTag(QMenu& menu, const std::string& node) {
  menu.addAction(tr("Rename\tF2"), this, &Board::renameSelected);
  menu.addAction(material_.notes_on.count(node) ? tr("Change the note\tShift+N") : tr("Write a note\tShift+N"), this, &Board::writeNote);
  menu.addAction(tr("Bypass\tB"), this, &Board::bypassSelected);
  menu.addAction(tr("Duplicate\tCtrl+D"), this, [this] { duplicateSelected(false); });
  menu.addAction(tr("Duplicate with inputs"), this, [this] { duplicateSelected(true); });
  menu.addAction(tr("Unplug its inputs"), this, &Board::disconnectSelected);
  menu.addAction(tr("Replace\tR"), this, &Board::replaceSelected);
  menu.addAction(tr("Splice in after it\tI"), this, &Board::spliceIn);
  menu.addAction(tr("Lift out\tCtrl+Del"), this, &Board::liftOutSelected);
  menu.addAction(tr("Swap inputs\tS"), this, &Board::swapInputs);
  menu.addSeparator();
  menu.addAction(tr("Fold into a group\tCtrl+G"), this, &Board::foldSelected);
  if (const Node* n = material_.node(node); n && n->type == "group") {
    menu.addAction(tr("Look inside\tAlt+Down"), this, &Board::lookInside);
    menu.addAction(tr("Take the group apart\tCtrl+Shift+G"), this, &Board::takeApartSelected);
    menu.addAction(tr("Make it a copy of its own"), this, &Board::copyOfItsOwn)->setEnabled(edit::uses_of(material_, n->group) > 1);
  }
  // Who reads it, aliases too: a choice flies there.
  QMenu* readers = menu.addMenu(tr("Read by"));
  for (const Thread& t : material_.threads)
    if (t.from_node == node)
      readers->addAction(qs(label_of(material_, catalogue(), *material_.node(t.to_node))) + QStringLiteral(", ") + qs(t.to_peg).replace(QLatin1Char('_'), QLatin1Char(' ')), this, [this, to = t.to_node] { select({to}); fly(to); });
  readers->setEnabled(!readers->isEmpty());
  menu.addSeparator();
  menu.addAction(tr("Delete\tDel"), this, &Board::removeSelected);
}

void Board::menuOfStages(QMenu& menu, int row) {
  const auto here = std::find_if(material_.stages.rbegin(), material_.stages.rend(), [&](const Stage& s) { return s.row <= row; });
  menu.addAction(tr("Begin a stage here …"), this, [this, row] { writeStage(row, {}); });
  if (here == material_.stages.rend()) return;
  menu.addAction(tr("Rename the stage %1 …").arg(qs(here->name)), this, [this, s = *here] { writeStage(s.row, qs(s.name)); });
  menu.addAction(tr("End the stage %1").arg(qs(here->name)), this, [this, at = here->row] { Q_EMIT editWanted(tr("End a stage"), edit::set_stage(material_, at, "")); });
}

void Board::writeStage(int row, const QString& text) {
  editText(QRectF(scroll_.x() + width() - 190, rowTop(row) - 11, 180, 22), text, [this, row](const QString& typed) { Q_EMIT editWanted(tr("Name a stage"), edit::set_stage(material_, row, typed.trimmed().toStdString())); });
}

// At the row of the node at hand: an emptied name ends the stage.
void Board::nameStage() {
  const Node* n = selected_.empty() ? nullptr : material_.node(selected_.back());
  const int row = n ? n->row : cell_.row;
  const auto at = std::find_if(material_.stages.begin(), material_.stages.end(), [&](const Stage& s) { return s.row == row; });
  writeStage(row, at == material_.stages.end() ? QString() : qs(at->name));
}

// ---- keys and actions ----

void Board::foldSelected() {
  std::string instance;
  const auto next = edit::fold(material_, catalogue(), selected_, "Group", &instance);
  if (!next) return Q_EMIT message(tr("Not folded: %1").arg(qs(next.error().text())));
  Q_EMIT editWanted(tr("Fold into a group"), *next);
  select({instance});
  renameSelected();
}

void Board::takeApartSelected() {
  const Node* n = selected_.empty() ? nullptr : material_.node(selected_.back());
  if (!n || n->type != "group") return Q_EMIT message(tr("Select a group to take apart"));
  std::vector<std::string> fresh;
  const Material next = edit::take_apart(material_, n->id, &fresh);
  Q_EMIT editWanted(tr("Take a group apart"), next);
  select(fresh);
}

void Board::copyOfItsOwn() {
  const Node* n = selected_.empty() ? nullptr : material_.node(selected_.back());
  if (!n || n->type != "group") return Q_EMIT message(tr("Select a group first"));
  Q_EMIT editWanted(tr("Make it a copy of its own"), edit::own_copy(material_, n->id));
}

void Board::lookInside() {
  const Node* n = selected_.empty() ? nullptr : material_.node(selected_.back());
  if (!n || n->type != "group") return Q_EMIT message(tr("Select a group to look into"));
  Q_EMIT insideWanted(n->id);
}

void Board::writeNote() {
  const TagPlace* t = selected_.empty() ? nullptr : layout_.tag(selected_.back());
  if (!t) return Q_EMIT message(tr("Select the node to write a note beside"));
  const auto note = material_.notes_on.find(t->node);
  editText(QRectF(t->rect.x(), t->rect.bottom() + 4, std::max(t->rect.width(), 220.0), 24), note == material_.notes_on.end() ? QString() : qs(note->second), [this, id = t->node](const QString& text) {
    Q_EMIT editWanted(tr("Write a note"), edit::set_note(material_, id, text.trimmed().toStdString()));
  });
}

void Board::toggleAliases() {
  Material next = material_;
  bool all = true, any = false;
  for (const Thread& t : material_.threads) if (isSelected(t.to_node)) all &= t.alias, any = true;
  if (!any) return Q_EMIT message(tr("Select a node with threads to show by their names"));
  for (const Thread& t : material_.threads) if (isSelected(t.to_node)) next = edit::set_alias(std::move(next), t.to_node, t.to_peg, !all);
  Q_EMIT editWanted(all ? tr("Show threads as lines") : tr("Show threads by name"), next);
}

void Board::awaitMark(bool set) {
  if (set && focusedOutput().empty()) return Q_EMIT message(tr("Select the node to mark first"));
  awaited_ = set;
  Q_EMIT message(set ? tr("Mark: type a letter") : tr("To which mark? Type its letter"));
}

void Board::keyPressEvent(QKeyEvent* e) {
  const bool control = e->modifiers() & Qt::ControlModifier;
  if (keyThread_) return keyOfThread(e);
  if (awaited_) {
    const QString letter = e->text().toLower();
    const bool set = *std::exchange(awaited_, std::nullopt);
    if (letter.size() == 1 && letter[0].isLetterOrNumber()) Q_EMIT markWanted(letter, set);
    else Q_EMIT message(QString());
    return;
  }
  switch (e->key()) {
    case Qt::Key_Left: return control ? nudge(-1, 0) : moveFocus(-1, 0);
    case Qt::Key_Right: return control ? nudge(1, 0) : moveFocus(1, 0);
    case Qt::Key_Up: return control ? nudge(0, -1) : moveFocus(0, -1);
    case Qt::Key_Down: return control ? nudge(0, 1) : moveFocus(0, 1);
    case Qt::Key_Escape:
      if (!followed_.empty()) return Q_EMIT followEnded();
      return select({});
    case Qt::Key_K:
      if (control) break;
      cutting_ = true;
      setCursor(Qt::CrossCursor);
      return Q_EMIT message(tr("Stroke across the threads to cut, with the button held"));
    default: break;
  }
  // A number is meant for the node at hand: nothing else on the board goes by figures.
  const QString typed = e->text();
  const bool begins = typed.size() == 1 && (typed[0].isDigit() || typed[0] == QLatin1Char('.') || typed[0] == QLatin1Char('-'));
  if (begins && !selected_.empty() && !(e->modifiers() & (Qt::ControlModifier | Qt::AltModifier))) return Q_EMIT numberTyped(typed);
  QWidget::keyPressEvent(e);
}

void Board::keyReleaseEvent(QKeyEvent* e) {
  if (e->key() == Qt::Key_K && !e->isAutoRepeat()) {
    cutting_ = false;
    unsetCursor();
  }
  QWidget::keyReleaseEvent(e);
}

void Board::moveFocus(int du, int dv) {
  const TagPlace* from = selected_.empty() ? nullptr : layout_.tag(selected_.back());
  const QPointF at = from ? from->rect.center() : layout_.cellRect(cell_).center();
  const TagPlace* best = nullptr;
  qreal least = 1e18;
  for (const TagPlace& t : layout_.tags()) {
    if (t.hidden || (from && t.node == from->node)) continue;
    const QPointF d = t.rect.center() - at;
    const qreal ahead = d.x() * du + d.y() * dv, aside = std::abs(d.x() * dv) + std::abs(d.y() * du);
    if (from && ahead < 4) continue;
    const qreal cost = ahead + 2.5 * aside;
    if (cost < least) least = cost, best = &t;
  }
  if (!best) return;
  const std::string id = best->node;
  const QRectF r = best->rect;
  select({id});
  if (!QRectF(scroll_, QSizeF(width(), height() - kHemHeight)).contains(r)) fly(id);
}

void Board::nudge(int du, int dv) {
  std::vector<edit::Placing> places;
  for (const std::string& id : selected_) {
    const Node* n = material_.node(id);
    if (!n) continue;
    edit::Placing p{id, n->lane, n->column + du, std::max(0, n->row + dv)};
    int lane = 0;
    for (std::size_t i = 0; i < material_.lanes.size(); ++i) if (material_.lanes[i].id == n->lane) lane = static_cast<int>(i);
    int columns = 1;
    for (const NodePtr& other : material_.nodes) if (other->lane == n->lane && !isSelected(other->id)) columns = std::max(columns, other->column + 1);
    if (p.column < 0 || p.column >= columns + (du > 0 ? 1 : 0)) {  // over the lane's border
      const int to = std::clamp(lane + du, 0, static_cast<int>(material_.lanes.size()) - 1);
      if (to != lane) p.lane = material_.lanes[static_cast<std::size_t>(to)].id, p.column = 0;
      else p.column = std::max(0, p.column);
    }
    places.push_back(p);
  }
  if (!places.empty()) Q_EMIT editWanted(tr("Move"), edit::place_nodes(material_, places));
}

void Board::openAddLine(int rack) {
  const QRectF r = layout_.cellRect(focus()).translated(-scroll_);
  addLine_->openAt(QPoint(static_cast<int>(r.x()), static_cast<int>(r.y()) + 4), focusedOutput(), rack);
}

void Board::spliceIn() {
  const std::string output = focusedOutput();
  if (output.empty()) return Q_EMIT message(tr("Select the node to splice in after"));
  const QRectF r = layout_.cellRect(focus()).translated(-scroll_);
  addLine_->openAt(QPoint(static_cast<int>(r.x()), static_cast<int>(r.y()) + 4), output, -1, AddLine::Way::splice);
}

void Board::replaceSelected() {
  if (selected_.empty()) return Q_EMIT message(tr("Select the node to replace"));
  const QRectF r = layout_.tag(selected_.back())->rect.translated(-scroll_);
  addLine_->openAt(QPoint(static_cast<int>(r.x()), static_cast<int>(r.bottom()) + 4), outputOf(selected_.back()), -1, AddLine::Way::replace);
}

void Board::liftOutSelected() {
  if (selected_.empty()) return;
  Material next = material_;
  for (const std::string& id : selected_) next = edit::lift_out(std::move(next), catalogue(), id);
  selected_.clear();
  Q_EMIT editWanted(tr("Lift out"), next);
}

void Board::swapInputs() {
  const auto next = selected_.empty() ? std::nullopt : edit::swap_inputs(material_, catalogue(), selected_.back());
  if (!next) return Q_EMIT message(tr("Select a node with two inputs of a kind"));
  Q_EMIT editWanted(tr("Swap inputs"), *next);
}

std::string Board::outputOf(const std::string& node) const {
  const TagPlace* t = layout_.tag(node);
  if (!t || t->outputs.empty()) return {};
  const std::size_t i = outputOf_.count(node) ? static_cast<std::size_t>(outputOf_.at(node)) : 0;
  return node + "." + t->outputs[i % t->outputs.size()].peg;
}

void Board::blendSelected() {
  if (selected_.size() < 2) return Q_EMIT message(tr("Select two nodes to blend"));
  const std::string lower = outputOf(selected_[selected_.size() - 2]), upper = outputOf(selected_.back());
  if (lower.empty() || upper.empty()) return;
  std::string blend;
  const Material next = edit::blend_two(material_, catalogue(), lower, upper, &blend);
  if (const auto faults = validate(next, catalogue()); !faults.empty()) return Q_EMIT message(tr("Not blended: %1").arg(qs(faults.front().text())));
  Q_EMIT editWanted(tr("Blend two"), next);
  select({blend});
}

void Board::stepMode(int by) {
  const Material next = edit::step_choice(material_, catalogue(), selected_, "mode", by);
  if (selected_.empty() || write_material(next) == write_material(material_)) return Q_EMIT message(tr("Select a node with a mode, such as Blend"));
  Q_EMIT editWanted(tr("Step the mode"), next);
  const auto& mode = next.node(selected_.back())->params;
  if (const auto it = mode.find("mode"); it != mode.end()) Q_EMIT message(tr("Mode: %1").arg(qs(std::get<std::string>(it->second)).replace(QLatin1Char('_'), QLatin1Char(' '))));
}

void Board::selectUpstream() {
  auto all = edit::upstream(material_, selected_);
  all.insert(all.end(), selected_.begin(), selected_.end());
  select(all);
}

void Board::selectDownstream() {
  auto all = edit::downstream(material_, selected_);
  all.insert(all.end(), selected_.begin(), selected_.end());
  select(all);
}

void Board::copyParameters() {
  const Node* n = selected_.empty() ? nullptr : material_.node(selected_.back());
  if (!n) return;
  copied_ = *n;
  Q_EMIT message(tr("Parameters of %1 copied").arg(qs(label_of(material_, catalogue(), *n))));
}

void Board::pasteChosenParameters() {
  const auto type = copied_ ? type_of(material_, catalogue(), *copied_) : nullptr;
  if (!type || selected_.empty() || copied_->params.empty()) return pasteParameters();
  ChooseParameters choice(*type, *copied_, this);
  if (choice.exec() != QDialog::Accepted) return;
  const auto only = choice.chosen();
  if (only.empty()) return Q_EMIT message(tr("No parameter was ticked"));
  Q_EMIT editWanted(tr("Paste parameters"), edit::paste_parameters(material_, catalogue(), *copied_, selected_, only));
}

void Board::pasteParameters() {
  if (!copied_ || selected_.empty()) return Q_EMIT message(tr("Copy the parameters of a node first, then select others"));
  Q_EMIT editWanted(tr("Paste parameters"), edit::paste_parameters(material_, catalogue(), *copied_, selected_));
}

std::vector<Board::ThreadEnd> Board::threadEnds() const {
  std::vector<ThreadEnd> ends;
  const auto [node, peg] = split_output(focusedOutput());
  const auto offer = [&](ThreadEnd end) { if (end.name.contains(keyTyped_, Qt::CaseInsensitive)) ends.push_back(std::move(end)); };
  std::vector<const PegPlace*> pegs;
  for (const TagPlace& t : layout_.tags())
    for (const PegPlace& g : t.inputs)
      if (!t.hidden && refusal(material_, catalogue(), {node, peg, g.node, g.peg}).empty()) pegs.push_back(&g);
  std::stable_sort(pegs.begin(), pegs.end(), [](const PegPlace* a, const PegPlace* b) { return std::pair(a->at.y(), a->at.x()) < std::pair(b->at.y(), b->at.x()); });
  for (const PegPlace* g : pegs) {
    const Node& n = *material_.node(g->node);
    QString label = qs(g->peg);
    for (const Peg& p : inputs_of(material_, catalogue(), n)) if (p.id == g->peg) label = qs(p.label);
    offer({g, {}, qs(label_of(material_, catalogue(), n)) + QStringLiteral(", ") + label});
  }
  const Kind kind = output_kind(material_, catalogue(), node, peg);
  for (const SlotView& s : hemSlots())
    if (material_.inside || slot_kind(s.id) == Kind::any || converts(kind, slot_kind(s.id))) offer({nullptr, s.id, tr("hem, ") + s.label});
  return ends;
}

void Board::chooseEnd(int by) {
  const auto ends = threadEnds();
  if (!ends.empty()) keyEnd_ = (keyEnd_ + ends.size() + static_cast<std::size_t>(by + static_cast<int>(ends.size()))) % ends.size();
  Q_EMIT message(ends.empty() ? tr("Nothing that fits is called '%1'").arg(keyTyped_) : tr("To %1 (%2 of %3); type to narrow, Enter connects").arg(ends[keyEnd_].name).arg(keyEnd_ + 1).arg(ends.size()));
  update();
}

void Board::startThread() {
  if (focusedOutput().empty()) return Q_EMIT message(tr("Select a node first"));
  keyThread_ = true;
  keyEnd_ = 0;
  keyTyped_.clear();
  chooseEnd(0);
}

// Arrows step through the ends, letters narrow them, Enter connects.
void Board::keyOfThread(QKeyEvent* e) {
  switch (e->key()) {
    case Qt::Key_Escape:
      keyThread_ = false;
      Q_EMIT message({});
      return update();
    case Qt::Key_Right: case Qt::Key_Down: return chooseEnd(1);
    case Qt::Key_Left: case Qt::Key_Up: return chooseEnd(-1);
    case Qt::Key_Return: case Qt::Key_Enter: return finishThread();
    case Qt::Key_Backspace: keyTyped_.chop(1); break;
    default:
      if (e->text().isEmpty() || !e->text()[0].isPrint()) return;
      keyTyped_ += e->text();
  }
  keyEnd_ = 0;
  chooseEnd(0);
}

void Board::finishThread() {
  const auto ends = threadEnds();
  keyThread_ = false;
  keyTyped_.clear();
  update();
  if (ends.empty()) return;
  const ThreadEnd& end = ends[keyEnd_ % ends.size()];
  Q_EMIT message(QString());  // what it asked for is answered
  if (end.peg) connectTo(focusedOutput(), *end.peg);
  else hemTo(focusedOutput(), end.slot);
}

void Board::weaveSelected() {
  std::vector<std::string> order = selected_;
  if (order.size() < 2) return Q_EMIT message(tr("Select two or more nodes to weave together"));
  std::stable_sort(order.begin(), order.end(), [&](const std::string& a, const std::string& b) { return layout_.tag(a)->rect.y() < layout_.tag(b)->rect.y(); });
  Material next = material_;
  int laid = 0;
  // Every upper node feeds the first free peg that takes it, from the next lower one on.
  for (std::size_t i = 0; i + 1 < order.size(); ++i) {
    const TagPlace* from = layout_.tag(order[i]);
    if (from->outputs.empty()) continue;
    const std::string peg = from->outputs[static_cast<std::size_t>(outputOf_.count(order[i]) ? outputOf_.at(order[i]) : 0) % from->outputs.size()].peg;
    bool done = false;
    for (std::size_t j = i + 1; j < order.size() && !done; ++j)
      for (const PegPlace& in : layout_.tag(order[j])->inputs) {
        const Thread t{order[i], peg, in.node, in.peg};
        if (!edit::feeds_data(in.peg) || next.into(in.node, in.peg) || !refusal(next, catalogue(), t).empty()) continue;
        next = edit::connect(std::move(next), t);
        ++laid;
        done = true;
        break;
      }
  }
  if (laid == 0) return Q_EMIT message(tr("No free peg takes what the upper nodes give"));
  Q_EMIT editWanted(tr("Weave together"), next);
}

void Board::removeSelected() {
  if (selected_.empty()) return;
  const auto gone = selected_;
  selected_.clear();
  Q_EMIT editWanted(gone.size() == 1 ? tr("Delete") : tr("Delete %1 nodes").arg(gone.size()), edit::remove_nodes(material_, gone));
}

void Board::disconnectSelected() {
  Material next = material_;
  for (const std::string& id : selected_)
    if (const Node* n = material_.node(id))
      for (const Peg& peg : inputs_of(material_, catalogue(), *n)) next = edit::disconnect(std::move(next), id, peg.id);
  Q_EMIT editWanted(tr("Unplug inputs"), next);
}

void Board::duplicateSelected(bool withInputs) {
  if (selected_.empty()) return;
  std::vector<std::string> fresh;
  const Material next = edit::duplicate(material_, selected_, withInputs, &fresh);
  Q_EMIT editWanted(tr("Duplicate"), next);
  select(fresh);
}

void Board::copySelected() {
  if (!selected_.empty()) QApplication::clipboard()->setText(qs(write_snippet(material_, selected_)));
}

void Board::pasteHere() {
  const auto snippet = read_snippet(QApplication::clipboard()->text().toStdString());
  if (!snippet) return Q_EMIT message(qs(snippet.error().text()));
  const auto at = focus();
  std::vector<std::string> fresh;
  const Material next = edit::paste(material_, *snippet, at.lane, at.column, at.row, &fresh);
  if (const auto faults = validate(next, catalogue()); !faults.empty()) return Q_EMIT message(tr("Not pasted: %1").arg(qs(faults.front().text())));
  Q_EMIT editWanted(tr("Paste"), next);
  select(fresh);
}

void Board::bypassSelected() {
  Material next = material_;
  for (const std::string& id : selected_)
    if (const Node* n = next.node(id); n && n->type != kComesIn) next = edit::set_bypass(std::move(next), id, !n->bypass);
  if (!selected_.empty()) Q_EMIT editWanted(tr("Bypass"), next);
}

}  // namespace loom::app
