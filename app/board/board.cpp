#include "app/board/board.h"

#include <QContextMenuEvent>
#include <QHelpEvent>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <cmath>

#include "app/board/add_line.h"
#include "app/board/board_menu.h"
#include "core/graph/groups.h"
#include "core/graph/rework.h"
#include "core/graph/surface_reach.h"
#include "core/nodes/catalogue.h"

namespace loom::app {

Board::Board(QWidget* parent) : QWidget(parent), painter_(view_), commands_(*this), addLine_(new AddLine(this)) {
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumSize(300, 200);
  setAccessibleName(tr("Board"));
  setAttribute(Qt::WA_OpaquePaintEvent);
}

Board::~Board() = default;

// ---- what it shows

void Board::showMaterial(const Material& material) {
  view_.material = material;
  view_.slotsOnSurface =
      material.inside ? std::map<std::string, SurfaceUse>{} : slots_on_surface(material, catalogue());
  std::erase_if(view_.selected, [&](const std::string& id) { return !view_.material.node(id); });
  if (!view_.material.lane(view_.cell.lane))
    view_.cell = {view_.material.lanes.empty() ? "" : view_.material.lanes.front().id, 0, 0};
  relayout();
  Q_EMIT selectionChanged();
}

void Board::showPictures(Pictures pictures) {
  view_.pictures = std::move(pictures);
  update();
}

void Board::showHem(const std::map<std::string, QImage>& pictures) {
  if (pictures.empty()) return;
  view_.hemPictures = pictures;
  update();
}

void Board::showHemOf(const QString& part) {
  if (view_.hemOf == part) return;
  view_.hemOf = part;
  update();
}

void Board::showFaults(const std::map<std::string, Error>& faults) {
  view_.faults = faults;
  update();
}

void Board::showWeaving(const std::string& node) {
  if (view_.weaving == node) return;
  view_.weaving = node;
  update();
}

void Board::showFollowed(const std::map<std::string, QString>& values, const std::vector<std::string>& path) {
  view_.followed = values;
  view_.followedPath = path;
  update();
}

void Board::select(const std::vector<std::string>& nodes) {
  view_.selected = nodes;
  view_.slotFocus.clear();
  if (keys_ && keys_->endsWithSelection()) keys_.reset();
  if (!nodes.empty())
    if (const Node* n = view_.material.node(nodes.back())) view_.cell = {n->lane, n->column, n->row};
  update();
  Q_EMIT selectionChanged();
}

void Board::focusSlot(const std::string& slot) {
  view_.slotFocus = slot;
  if (slot.empty()) return;
  if (const auto it = view_.material.hem.find(slot); it != view_.material.hem.end())
    view_.selected = {split_output(it->second).first};
  update();
  Q_EMIT selectionChanged();
}

void Board::nextOutput() {
  if (keys_ && keys_->enter()) {  // Enter means this while a thread is in the hand
    keys_.reset();
    return update();
  }
  if (view_.selected.empty()) return;
  ++view_.lookedAt[view_.selected.back()];
  update();
  Q_EMIT selectionChanged();
}

void Board::showOutput(const std::string& output) {
  const auto [node, peg] = split_output(output);
  const TagPlace* t = view_.layout.tag(node);
  if (!t) return;
  for (std::size_t i = 0; i < t->outputs.size(); ++i)
    if (t->outputs[i].peg == peg) view_.lookedAt[node] = static_cast<int>(i);
  select({node});
  fly(node);
}

// ---- where it stands

void Board::stand(const Standpoint& at) {
  if (view_.zoom != at.zoom) {
    view_.zoom = at.zoom;
    rescale();
  }
  view_.scroll = at.scroll;
  scrolled();
  if (view_.selected != at.selection) select(at.selection);
}

void Board::relayout() {
  view_.layout.build(view_.material, catalogue(), view_.zoom, view_.width(), view_.height() + view_.scroll.y(),
                     view_.hemPegs());
  painter_.forget();
  scrolled();
}

// The same things, larger or smaller.
void Board::rescale() {
  view_.layout.scale(view_.material, view_.zoom, view_.width(), view_.height() + view_.scroll.y(), view_.hemPegs());
  painter_.forget();
  scrolled();
}

// Nothing but the view has moved.
void Board::scrolled() {
  clampScroll();
  view_.layout.routeHem(view_.material, view_.height() + view_.scroll.y(), view_.hemPegs());
  QWidget::update();
}

void Board::clampScroll() {
  const qreal most_x = std::max(0.0, view_.layout.size().width() - view_.width()),
              most_y = std::max(0.0, view_.layout.size().height() - view_.height());
  view_.scroll =
      QPointF(std::round(std::clamp(view_.scroll.x(), 0.0, most_x)),
              std::round(std::clamp(view_.scroll.y(), 0.0, most_y)));  // whole pixels: what is painted can move along
}

void Board::resizeEvent(QResizeEvent*) {
  view_.size = size();
  rescale();
}

void Board::scrollTo(QPointF at) {
  view_.scroll = at;
  scrolled();
}

void Board::setZoom(qreal zoom) {
  view_.zoom = std::clamp(zoom, 0.2, 1.6);
  rescale();
}

// As large as the width allows, but never so small that the names go: a tall board is scrolled.
void Board::fitAll() {
  for (const qreal z : {1.0, 0.9, 0.8, 0.75, 0.7, 0.65, 0.6, 0.55, 0.5, 0.46, 0.42}) {
    view_.zoom = z;
    view_.scroll = {};
    view_.layout.scale(view_.material, z, 0, 0, {});
    qreal lowest = 0;
    for (const TagPlace& t : view_.layout.tags()) lowest = std::max(lowest, t.rect.bottom());
    if (view_.layout.size().width() <= view_.width() && lowest + BoardView::kHemBand <= view_.height()) break;
  }
  rescale();
}

void Board::fitSelection() {
  if (!view_.selected.empty()) fly(view_.selected.back());
}

void Board::reveal(const std::string& node) {
  const TagPlace* t = view_.layout.tag(node);
  if (!t) return;
  const QRectF room(view_.scroll + QPointF(0, BoardLayout::kLaneHead),
                    QSizeF(view_.width(), view_.height() - BoardLayout::kLaneHead)),
      all = t->rect.adjusted(-16, -16, 16, 24);
  const auto by = [](qreal low, qreal high, qreal from, qreal to) {
    return high > to ? high - to : low < from ? low - from : 0;
  };
  view_.scroll += QPointF(by(all.left(), all.right(), room.left(), room.right()),
                          by(all.top(), all.bottom(), room.top(), room.bottom()));
  scrolled();
}

void Board::fly(const std::string& node) {
  const TagPlace* t = view_.layout.tag(node);
  if (!t) return;
  view_.scroll = t->rect.center() - QPointF(view_.width() / 2.0, view_.height() / 2.0);
  scrolled();
}

// ---- painting

void Board::update() {
  painter_.forget();
  QWidget::update();
}

void Board::paintEvent(QPaintEvent*) {
  InHand hand{.thread = gesture_ && gesture_->holdsThread()};
  if (keys_) keys_->show(hand);
  QPainter p(this);
  painter_.paint(p, hand, devicePixelRatioF(), gesture_.get());
}

// ---- pointer

void Board::mousePressEvent(QMouseEvent* e) {
  setFocus();
  gesture_ = beginGesture(*this, *e);
  update();
}

void Board::mouseMoveEvent(QMouseEvent* e) {
  if (gesture_) gesture_->move(e->position());
}

void Board::mouseReleaseEvent(QMouseEvent* e) {
  if (const auto gesture = std::exchange(gesture_, nullptr)) gesture->release(e->position());
  update();
}

void Board::mouseDoubleClickEvent(QMouseEvent* e) {
  const QPointF at = view_.boardPoint(e->position());
  if (e->position().y() < BoardLayout::kLaneHead) {
    for (const LanePlace& l : view_.layout.lanes())
      if (at.x() >= l.rect.left() && at.x() < l.rect.right()) {
        const Lane* lane = view_.material.lane(l.id);
        const std::string id = l.id;
        if (l.collapsed) return edit(tr("Open lane"), loom::edit::collapse_lane(view_.material, id, false));
        return write(QRectF(l.rect.x() + 10, view_.scroll.y() + 3, l.rect.width() - 20, 24), qs(lane->name),
                     [this, id](const QString& name) {
                       edit(tr("Rename lane"), loom::edit::rename_lane(view_.material, id, name.toStdString()));
                     });
      }
  } else if (const TagPlace* t = view_.tagAt(at)) {
    const Node* n = view_.material.node(t->node);
    if (n && n->is_group())
      commands_.lookInside();
    else
      commands_.renameSelected();
  } else if (!view_.slotAt(e->position()).empty()) {
    return;
  } else if (view_.guideNear(at)) {
    return;
  } else if (const ThreadPlace* th = view_.threadAt(at); th && !th->toHem && !th->alias) {
    commands_.addGuide(*th, at);
  } else {
    pointAt(at);
    addLine_->openAt(e->position().toPoint(), {});
  }
}

void Board::wheelEvent(QWheelEvent* e) {
  if (e->modifiers() & Qt::ControlModifier) {
    const QPointF under = view_.boardPoint(e->position()) / view_.zoom;
    setZoom(view_.zoom * std::pow(1.0015, e->angleDelta().y()));
    view_.scroll = under * view_.zoom - e->position();
    scrolled();
  } else {
    view_.scroll -= QPointF(e->angleDelta().x(), e->angleDelta().y()) * 0.5;
    if (e->modifiers() & Qt::ShiftModifier)
      view_.scroll -= QPointF(e->angleDelta().y() * 0.5, -e->angleDelta().y() * 0.5);
    scrolled();
  }
  e->accept();
}

void Board::contextMenuEvent(QContextMenuEvent* e) { BoardMenu(*this).showAt(e->pos(), e->globalPos()); }

void Board::showTip(const QHelpEvent& help) {
  const QPointF at = view_.boardPoint(help.pos());
  if (const PegPlace* g = view_.layout.pegNear(at, BoardView::kPegReach))
    return QToolTip::showText(help.globalPos(), qs(g->peg).replace(QLatin1Char('_'), QLatin1Char(' ')) +
                                                    QStringLiteral(", ") +
                                                    QString::fromUtf8(kind_name(g->kind).data()));
  const TagPlace* t = view_.tagAt(at);
  if (!t) return QToolTip::hideText();
  const auto type = type_of(view_.material, catalogue(), *view_.material.node(t->node));
  const auto note = view_.material.notes_on.find(t->node);
  QToolTip::showText(
      help.globalPos(),
      (type ? qs(type->help) : QString()) +
          (note == view_.material.notes_on.end() ? QString() : QStringLiteral("\n\n") + qs(note->second)));
}

bool Board::event(QEvent* e) {
  switch (e->type()) {  // Qt paints anew by itself after these
    case QEvent::PaletteChange:
    case QEvent::StyleChange:
    case QEvent::FontChange:
    case QEvent::FocusIn:
    case QEvent::FocusOut:
    case QEvent::EnabledChange:
      painter_.forget();
      break;
    default:
      break;
  }
  if (e->type() == QEvent::ShortcutOverride && keys_) {  // the key belongs to the mode, not to an action
    e->accept();
    return true;
  }
  if (e->type() == QEvent::ToolTip) {
    showTip(*static_cast<QHelpEvent*>(e));
    return true;
  }
  return QWidget::event(e);
}

// ---- keys

void Board::keyPressEvent(QKeyEvent* e) {
  const bool control = e->modifiers() & Qt::ControlModifier;
  if (const auto mode = keys_) {  // held: what it does may end it
    if (!mode->press(e) && keys_ == mode) keys_.reset();
    return update();
  }
  switch (e->key()) {
    case Qt::Key_Left:
      return control ? commands_.nudge(-1, 0) : commands_.moveFocus(-1, 0);
    case Qt::Key_Right:
      return control ? commands_.nudge(1, 0) : commands_.moveFocus(1, 0);
    case Qt::Key_Up:
      return control ? commands_.nudge(0, -1) : commands_.moveFocus(0, -1);
    case Qt::Key_Down:
      return control ? commands_.nudge(0, 1) : commands_.moveFocus(0, 1);
    case Qt::Key_Escape:
      if (cutting_) return cutThreads(false);
      if (!view_.followed.empty()) return Q_EMIT followEnded();
      return select({});
    default:
      break;
  }
  // A number is meant for the node at hand: nothing else on the board goes by figures.
  const QString typed = e->text();
  const bool begins =
      typed.size() == 1 && (typed[0].isDigit() || typed[0] == QLatin1Char('.') || typed[0] == QLatin1Char('-'));
  if (begins && !view_.selected.empty() && !(e->modifiers() & (Qt::ControlModifier | Qt::AltModifier)))
    return Q_EMIT numberTyped(typed);
  QWidget::keyPressEvent(e);
}

void Board::takeKeys(std::shared_ptr<KeyMode> mode) {
  keys_ = std::move(mode);
  update();
}

void Board::cutThreads(bool on) {
  cutting_ = on;
  if (on)
    setCursor(Qt::CrossCursor);
  else
    unsetCursor();
  Q_EMIT message(on ? tr("Cutting: stroke across the threads. Escape ends it") : QString());
}

void Board::write(QRectF rect, const QString& text, const std::function<void(const QString&)>& done) {
  auto* line = new QLineEdit(text, this);
  line->setGeometry(rect.translated(-view_.scroll).toRect());
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

}  // namespace loom::app

#include "moc_board.cpp"
