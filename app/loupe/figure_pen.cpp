// Shapes are edited in a copy, told after each change, and come back from the document.
#include "app/loupe/figure_pen.h"

#include <QKeyEvent>
#include <QLineF>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/base/figure_tools.h"
#include "app/base/theme.h"

namespace loom::app {
namespace {

using Form = FigureShape::Form;
using Tool = FigureTools::Tool;

QPointF point(Spot p) { return {p.x, p.y}; }
Spot spot(QPointF p) { return {p.x(), p.y()}; }
bool hasOutline(const FigureShape& s) { return s.form == Form::polygon || s.form == Form::curve; }

void moveKnot(Knot& k, QPointF by) {
  for (Spot* s : {&k.at, &k.in, &k.out}) s->x += by.x(), s->y += by.y();
}

Form formOf(Tool tool) {
  return tool == Tool::ellipse   ? Form::ellipse
         : tool == Tool::polygon ? Form::polygon
         : tool == Tool::curve   ? Form::curve
                                 : Form::rectangle;
}

QRectF boxOf(const FigureShape& s) {
  QPolygonF all;
  for (const Knot& k : s.knots) all << point(k.at);
  return all.boundingRect();
}

// De Casteljau: the piece from a to b parted at t.
Knot parted(Knot& a, Knot& b, double t) {
  const auto mix = [t](Spot p, Spot q) { return Spot{p.x + (q.x - p.x) * t, p.y + (q.y - p.y) * t}; };
  const Spot p = mix(a.at, a.out), q = mix(a.out, b.in), r = mix(b.in, b.at), pq = mix(p, q), qr = mix(q, r);
  a.out = p, b.in = r;
  return {mix(pq, qr), pq, qr};
}

QPointF along(const Knot& a, const Knot& b, double t) {
  Knot from = a, to = b;
  return point(parted(from, to, t).at);
}

}  // namespace

QPainterPath painterPath(const FigureShape& shape) {
  QPainterPath path;
  for (const Path::Piece& piece : outline_of(shape).pieces) {
    if (piece.kind == Path::Piece::Kind::move) path.moveTo(point(piece.at[0]));
    if (piece.kind == Path::Piece::Kind::line) path.lineTo(point(piece.at[0]));
    if (piece.kind == Path::Piece::Kind::cubic)
      path.cubicTo(point(piece.at[0]), point(piece.at[1]), point(piece.at[2]));
    if (piece.kind == Path::Piece::Kind::close) path.closeSubpath();
  }
  return path;
}

FigurePen::FigurePen(QObject* parent) : QObject(parent) {
  connect(&figureTools(), &FigureTools::changed, this, [this] {
    growing_.reset();
    Q_EMIT renewed();
  });
}

void FigurePen::show(std::optional<FigureShapes> shapes) {
  on_ = shapes.has_value();
  if (!on_) growing_.reset(), chosen_ = -1, dragging_ = false;
  shapes_ = std::move(shapes).value_or(FigureShapes{});
  if (chosen_ >= static_cast<int>(shapes_.size())) chosen_ = -1;
  Q_EMIT renewed();
}

FigureShape* FigurePen::shape() { return chosen_ >= 0 ? &shapes_[static_cast<std::size_t>(chosen_)] : nullptr; }

// ---- what is where ----

std::vector<std::pair<FigurePen::Grip, QPointF>> FigurePen::grips() const {
  std::vector<std::pair<Grip, QPointF>> all;
  const FigureShape* s = shape();
  if (!s) return all;
  const auto add = [&](Grip::Part part, int i, QPointF at) { all.push_back({{part, i}, at}); };
  if (!hasOutline(*s)) {
    for (int i = 0; i < 4; ++i)
      add(Grip::Part::corner, i, {s->knots[i % 2 ? 1 : 0].at.x, s->knots[i / 2 ? 1 : 0].at.y});
    const QRectF box = boxOf(*s);
    if (s->form == Form::rectangle) add(Grip::Part::rounding, 0, {box.left() + s->rounding, box.top()});
    return all;
  }
  for (int i = 0; i < static_cast<int>(s->knots.size()); ++i) {
    const Knot& k = s->knots[static_cast<std::size_t>(i)];
    add(Grip::Part::knot, i, point(k.at));
    if (s->form != Form::curve) continue;
    if (point(k.in) != point(k.at)) add(Grip::Part::in, i, point(k.in));
    if (point(k.out) != point(k.at)) add(Grip::Part::out, i, point(k.out));
  }
  return all;
}

// The nearest; a corner before the rounding that lies on it.
FigurePen::Grip FigurePen::gripAt(QPointF at, double reach) const {
  Grip nearest;
  double least = reach;
  for (const auto& [grip, place] : grips())
    if (const double d = QLineF(place, at).length(); d < least) least = d, nearest = grip;
  return nearest;
}

int FigurePen::shapeAt(QPointF at) const {
  for (int i = static_cast<int>(shapes_.size()) - 1; i >= 0; --i)
    if (painterPath(shapes_[static_cast<std::size_t>(i)]).contains(at)) return i;
  return -1;
}

// To the grid, and to the middle lines, about which a figure may be mirrored.
QPointF FigurePen::snapped(QPointF at, bool fine) const {
  const int grid = figureTools().grid();
  if (fine || grid <= 0) return at;
  const auto along_one = [grid](double x) {
    const double on_grid = std::round(x * grid) / grid, whole = std::floor(x);
    return std::abs(x - whole - 0.5) < std::abs(x - on_grid) ? whole + 0.5 : on_grid;
  };
  return {along_one(at.x()), along_one(at.y())};
}

// ---- the mouse ----

bool FigurePen::press(QPointF at, double reach, bool fine) {
  if (!on_) return false;
  const QPointF place = snapped(at, fine);
  begun_ = false;
  switch (figureTools().tool()) {
    case Tool::choose: {
      held_ = gripAt(at, reach);
      if (held_.part == Grip::Part::none) {
        const int hit = shapeAt(at);
        choose(hit);
        if (hit < 0) return false;
        held_.part = Grip::Part::whole;
      }
      from_ = held_.part == Grip::Part::whole ? place : at;
      dragging_ = true;
      return true;
    }
    case Tool::rectangle:
    case Tool::ellipse:
      begin(place);
      return true;
    default:
      if (closes(at, reach))
        finish();
      else
        addKnot(place);
      return true;
  }
}

void FigurePen::begin(QPointF at) {
  shapes_.push_back({.form = formOf(figureTools().tool()),
                     .cut = figureTools().cuts(),
                     .knots = {knot_at(spot(at)), knot_at(spot(at))}});
  chosen_ = static_cast<int>(shapes_.size()) - 1;
  held_ = {Grip::Part::corner, 3};
  dragging_ = begun_ = true;
  told_ = false;
}

void FigurePen::addKnot(QPointF at) {
  if (!growing_) growing_ = FigureShape{.form = formOf(figureTools().tool()), .cut = figureTools().cuts()};
  growing_->knots.push_back(knot_at(spot(at)));
  from_ = at;
  dragging_ = growing_->form == Form::curve;  // drawn on, it bends
  Q_EMIT renewed();
}

bool FigurePen::closes(QPointF at, double reach) const {
  return growing_ && growing_->knots.size() > 2 && QLineF(point(growing_->knots.front().at), at).length() < reach;
}

void FigurePen::finish() {
  if (growing_ && growing_->knots.size() > 2) {
    shapes_.push_back(*growing_);
    chosen_ = static_cast<int>(shapes_.size()) - 1;
    growing_.reset();
    figureTools().setTool(Tool::choose);
    edited(tr("Draw a shape"));
  }
  dragging_ = false;
}

void FigurePen::move(QPointF at, bool fine) {
  if (!dragging_) return;
  if (growing_) {  // the handles of the last knot, one across from the other
    Knot& k = growing_->knots.back();
    k.out = spot(at);
    k.in = {2 * k.at.x - k.out.x, 2 * k.at.y - k.out.y};
    Q_EMIT renewed();
    return;
  }
  drag(snapped(at, fine), fine);
}

void FigurePen::drag(QPointF to, bool fine) {
  FigureShape* s = shape();
  if (!s) return;
  Knot* const knot = hasOutline(*s) && held_.index < static_cast<int>(s->knots.size())
                         ? &s->knots[static_cast<std::size_t>(held_.index)]
                         : nullptr;
  switch (held_.part) {
    case Grip::Part::whole:
      if (to == from_) return;
      for (Knot& k : s->knots) moveKnot(k, to - from_);
      from_ = to;
      break;
    case Grip::Part::corner:
      s->knots[held_.index % 2 ? 1 : 0].at.x = to.x();
      s->knots[held_.index / 2 ? 1 : 0].at.y = to.y();
      break;
    case Grip::Part::rounding: {
      const QRectF box = boxOf(*s);
      s->rounding = std::clamp(to.x() - box.left(), 0.0, std::min(box.width(), box.height()) / 2);
      break;
    }
    case Grip::Part::knot:
      if (knot) moveKnot(*knot, to - point(knot->at));
      break;
    case Grip::Part::in:
    case Grip::Part::out:
      if (knot) {
        const bool in = held_.part == Grip::Part::in;
        (in ? knot->in : knot->out) = spot(to);
        // A smooth knot stays smooth; alone with Shift, one handle is bent.
        if (!fine) (in ? knot->out : knot->in) = {2 * knot->at.x - to.x(), 2 * knot->at.y - to.y()};
      }
      break;
    case Grip::Part::none:
      return;
  }
  tell(begun_ ? tr("Draw a shape") : tr("Change a shape"));
}

void FigurePen::release() {
  if (!std::exchange(dragging_, false) || growing_) return;
  if (std::exchange(begun_, false)) {
    const QRectF box = boxOf(*shape());
    if (box.width() < 1e-4 || box.height() < 1e-4) {  // a click, not a drag: nothing was drawn
      shapes_.pop_back();
      choose(-1);
      if (told_) tell(tr("Draw a shape"));
    } else {
      figureTools().setTool(Tool::choose);
    }
  }
  Q_EMIT gestureEnded();
}

bool FigurePen::doubled(QPointF at, double reach) {
  if (!on_) return false;
  if (growing_) {
    finish();
    return true;
  }
  FigureShape* s = shape();
  if (!s || !hasOutline(*s) || figureTools().tool() != Tool::choose) return false;
  std::size_t piece = 0;
  double best = 0, least = reach;
  for (std::size_t i = 0; i < s->knots.size(); ++i)
    for (int k = 1; k < 64; ++k)
      if (const double d = QLineF(along(s->knots[i], s->knots[(i + 1) % s->knots.size()], k / 64.0), at).length();
          d < least)
        least = d, piece = i, best = k / 64.0;
  if (best == 0) return false;
  const Knot added = parted(s->knots[piece], s->knots[(piece + 1) % s->knots.size()], best);
  s->knots.insert(s->knots.begin() + static_cast<std::ptrdiff_t>(piece) + 1, added);
  held_ = {Grip::Part::knot, static_cast<int>(piece) + 1};
  edited(tr("Add a point"));
  return true;
}

// ---- keys ----

bool FigurePen::key(const QKeyEvent& e) {
  if (!on_) return false;
  const bool shift = e.modifiers() & Qt::ShiftModifier;
  if (e.modifiers() & (Qt::ControlModifier | Qt::AltModifier)) return false;
  const double step = shift || figureTools().grid() <= 0 ? 0.001 : 1.0 / figureTools().grid();
  switch (e.key()) {
    case Qt::Key_Left:
    case Qt::Key_Right:
    case Qt::Key_Up:
    case Qt::Key_Down: {
      if (!shape()) return false;
      const bool across = e.key() == Qt::Key_Left || e.key() == Qt::Key_Right;
      const double by = e.key() == Qt::Key_Left || e.key() == Qt::Key_Up ? -step : step;
      this->shift(across ? QPointF(by, 0) : QPointF(0, by));
      return true;
    }
    case Qt::Key_N:
      if (shapes_.empty()) return true;
      choose(static_cast<int>((static_cast<std::size_t>(chosen_ + 1) + (shift ? shapes_.size() * 2 - 2 : 0)) %
                              shapes_.size()));
      return true;
    case Qt::Key_K:
      if (const auto all = grips(); !all.empty()) {
        auto at = std::find_if(all.begin(), all.end(), [&](const auto& g) {
          return g.first.part == held_.part && g.first.index == held_.index;
        });
        held_ = (at == all.end() || ++at == all.end() ? all.front() : *at).first;
        Q_EMIT renewed();
      }
      return true;
    case Qt::Key_Delete:
    case Qt::Key_Backspace:
      removeHeld();
      return true;
    case Qt::Key_Return:
    case Qt::Key_Enter:
      growing_ ? finish() : makeInTheMiddle();
      return true;
    case Qt::Key_Escape:
      if (!growing_ && figureTools().tool() == Tool::choose && chosen_ < 0) return false;
      growing_.reset();
      dragging_ = false;
      if (figureTools().tool() == Tool::choose) choose(-1);
      figureTools().setTool(Tool::choose);
      Q_EMIT renewed();
      return true;
    case Qt::Key_D:
      duplicate();
      return true;
    case Qt::Key_S:
      turnSmooth();
      return true;
    case Qt::Key_PageUp:
    case Qt::Key_PageDown:
      reorder(e.key() == Qt::Key_PageUp ? 1 : -1);
      return true;
    case Qt::Key_BracketLeft:
    case Qt::Key_BracketRight:
      round(e.key() == Qt::Key_BracketRight ? 0.01 : -0.01);
      return true;
    default:
      return toolKey(e.key());
  }
}

bool FigurePen::takes(const QKeyEvent& e) const {
  if (!on_ || e.modifiers() & (Qt::ControlModifier | Qt::AltModifier)) return false;
  constexpr int kKeys[] = {Qt::Key_N,
                           Qt::Key_K,
                           Qt::Key_D,
                           Qt::Key_S,
                           Qt::Key_0,
                           Qt::Key_1,
                           Qt::Key_2,
                           Qt::Key_3,
                           Qt::Key_4,
                           Qt::Key_5,
                           Qt::Key_Delete,
                           Qt::Key_Backspace,
                           Qt::Key_PageUp,
                           Qt::Key_PageDown,
                           Qt::Key_Return,
                           Qt::Key_BracketLeft,
                           Qt::Key_BracketRight,
                           Qt::Key_Escape,
                           Qt::Key_Left,
                           Qt::Key_Right,
                           Qt::Key_Up,
                           Qt::Key_Down};
  return std::find(std::begin(kKeys), std::end(kKeys), e.key()) != std::end(kKeys);
}

bool FigurePen::toolKey(int key) {
  if (key >= Qt::Key_1 && key <= Qt::Key_5) {
    figureTools().setTool(static_cast<Tool>(key - Qt::Key_1));
    return true;
  }
  if (key != Qt::Key_0) return false;
  if (FigureShape* s = shape(); s && figureTools().tool() == Tool::choose) {
    s->cut = !s->cut;
    edited(s->cut ? tr("Let a shape cut") : tr("Let a shape add"));
  } else {
    figureTools().setCuts(!figureTools().cuts());
  }
  return true;
}

void FigurePen::choose(int shape) {
  chosen_ = shape;
  held_ = {shape < 0 ? Grip::Part::none : Grip::Part::whole, 0};
  Q_EMIT renewed();
}

void FigurePen::shift(QPointF by) {
  QPointF from(0, 0);
  for (const auto& [grip, place] : grips())
    if (grip.part == held_.part && grip.index == held_.index) from = place;
  if (held_.part == Grip::Part::none) held_.part = Grip::Part::whole;
  from_ = from;
  drag(from + by, false);
  Q_EMIT gestureEnded();
}

void FigurePen::removeHeld() {
  FigureShape* s = shape();
  if (growing_) {
    growing_->knots.pop_back();
    if (growing_->knots.empty()) growing_.reset();
    Q_EMIT renewed();
    return;
  }
  if (!s) return;
  if (held_.part == Grip::Part::knot && s->knots.size() > 3) {
    s->knots.erase(s->knots.begin() + held_.index);
    held_ = {Grip::Part::whole, 0};
    return edited(tr("Remove a point"));
  }
  shapes_.erase(shapes_.begin() + chosen_);
  choose(-1);
  edited(tr("Remove a shape"));
}

// A shape of the tool's form, for those who draw by keys.
void FigurePen::makeInTheMiddle() {
  if (figureTools().tool() == Tool::choose) return;
  FigureShape s{.form = formOf(figureTools().tool()), .cut = figureTools().cuts()};
  if (!hasOutline(s)) {
    s.knots = {knot_at({0.25, 0.25}), knot_at({0.75, 0.75})};
  } else {
    constexpr double kBend = 0.2761423749;  // a quarter of a circle of half the tile, as one cubic
    const Spot corners[] = {{0.5, 0.25}, {0.75, 0.5}, {0.5, 0.75}, {0.25, 0.5}},
               ways[] = {{1, 0}, {0, 1}, {-1, 0}, {0, -1}};
    for (int i = 0; i < 4; ++i) {
      const double by = s.form == Form::curve ? kBend / 2 : 0;
      const Spot at = corners[i], way = ways[i];
      s.knots.push_back({at, {at.x - way.x * by, at.y - way.y * by}, {at.x + way.x * by, at.y + way.y * by}});
    }
  }
  shapes_.push_back(std::move(s));
  choose(static_cast<int>(shapes_.size()) - 1);
  figureTools().setTool(Tool::choose);
  edited(tr("Draw a shape"));
}

void FigurePen::duplicate() {
  const FigureShape* s = shape();
  if (!s) return;
  FigureShape copy = *s;
  const double by = figureTools().grid() > 0 ? 1.0 / figureTools().grid() : 0.05;
  for (Knot& k : copy.knots) moveKnot(k, {by, by});
  shapes_.insert(shapes_.begin() + chosen_ + 1, std::move(copy));
  choose(chosen_ + 1);
  edited(tr("Copy a shape"));
}

void FigurePen::reorder(int by) {
  const int to = chosen_ + by;
  if (chosen_ < 0 || to < 0 || to >= static_cast<int>(shapes_.size())) return;
  std::swap(shapes_[static_cast<std::size_t>(chosen_)], shapes_[static_cast<std::size_t>(to)]);
  chosen_ = to;
  edited(by > 0 ? tr("Lay a shape over the next") : tr("Lay a shape under the one before"));
}

// A corner becomes smooth along its neighbours' line, and the other way about.
void FigurePen::turnSmooth() {
  FigureShape* s = shape();
  if (!s || !hasOutline(*s) || held_.part != Grip::Part::knot) return;
  const std::size_t n = s->knots.size(), i = static_cast<std::size_t>(held_.index);
  Knot& k = s->knots[i];
  const Spot before = s->knots[(i + n - 1) % n].at, after = s->knots[(i + 1) % n].at;
  const bool smooth = point(k.in) != point(k.at) || point(k.out) != point(k.at);
  s->form = Form::curve;
  if (smooth) {
    k = knot_at(k.at);
  } else {
    const QPointF way = (point(after) - point(before)) / 6;
    k.in = spot(point(k.at) - way), k.out = spot(point(k.at) + way);
  }
  edited(smooth ? tr("Make a corner") : tr("Make a point smooth"));
}

void FigurePen::round(double by) {
  FigureShape* s = shape();
  if (!s || s->form != Form::rectangle) return;
  const QRectF box = boxOf(*s);
  s->rounding = std::clamp(s->rounding + by, 0.0, std::min(box.width(), box.height()) / 2);
  edited(tr("Round the corners"));
}

void FigurePen::tell(const QString& what) {
  told_ = true;
  const FigureShapes now = shapes_;  // what hears of it shows the document's anew
  Q_EMIT drawn(now, what);
  Q_EMIT renewed();
}

void FigurePen::edited(const QString& what) {
  tell(what);
  Q_EMIT gestureEnded();
}

// ---- what is seen ----

void FigurePen::paint(QPainter& p, const std::function<QPointF(QPointF)>& to_widget) const {
  if (!on_) return;
  const QPointF o = to_widget({0, 0}), x = to_widget({1, 0}) - o, y = to_widget({0, 1}) - o;
  const QTransform to(x.x(), x.y(), y.x(), y.y(), o.x(), o.y());
  p.setBrush(Qt::NoBrush);
  const auto line = [&](const QPainterPath& path, bool chosen, bool cut) {
    const QColor colour = chosen ? theme().indigo.lighter(150) : QColor(Qt::white);
    for (const bool edge : {true, false}) {
      p.setPen(
          QPen(edge ? QColor(0, 0, 0, 150) : colour, edge ? 3.5 : 1.4, cut && !edge ? Qt::DashLine : Qt::SolidLine));
      p.drawPath(to.map(path));
    }
  };
  for (std::size_t i = 0; i < shapes_.size(); ++i)
    if (static_cast<int>(i) != chosen_) line(painterPath(shapes_[i]), false, shapes_[i].cut);
  if (const FigureShape* s = shape()) line(painterPath(*s), true, s->cut);
  if (growing_) {
    QPainterPath path(point(growing_->knots.front().at));
    for (std::size_t i = 1; i < growing_->knots.size(); ++i)
      path.cubicTo(point(growing_->knots[i - 1].out), point(growing_->knots[i].in), point(growing_->knots[i].at));
    line(path, true, growing_->cut);
    p.setPen(QPen(QColor(0, 0, 0, 150), 1));
    p.setBrush(Qt::white);
    for (const Knot& k : growing_->knots) p.drawRect(QRectF(to.map(point(k.at)) - QPointF(3, 3), QSizeF(6, 6)));
  }
  const auto all = grips();
  p.setPen(QPen(QColor(255, 255, 255, 170), 1));
  if (const FigureShape* s = shape())
    for (const auto& [grip, place] : all)
      if (grip.part == Grip::Part::in || grip.part == Grip::Part::out)
        p.drawLine(to.map(point(s->knots[static_cast<std::size_t>(grip.index)].at)), to.map(place));
  p.setPen(QPen(QColor(0, 0, 0, 150), 1));
  for (const auto& [grip, place] : all) {
    p.setBrush(grip.part == held_.part && grip.index == held_.index ? theme().indigo : QColor(Qt::white));
    const QRectF box(to.map(place) - QPointF(3.5, 3.5), QSizeF(7, 7));
    const bool round = grip.part == Grip::Part::in || grip.part == Grip::Part::out || grip.part == Grip::Part::rounding;
    round ? p.drawEllipse(box) : p.drawRect(box);
  }
}

}  // namespace loom::app

#include "moc_figure_pen.cpp"
