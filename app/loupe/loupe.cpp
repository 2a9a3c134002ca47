// Painted on the neutral grey; words on it are white and ranked by weight.
#include "app/loupe/loupe.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QTabletEvent>
#include <cmath>

#include "app/base/brush.h"
#include "app/base/sides.h"
#include "app/base/theme.h"

namespace loom::app {
namespace {
constexpr double kMostZoom = 64;
constexpr double kHead = 30, kMargin = 12;    // pixels: above the picture, beside it
constexpr double kFacts = 118;                // width of what stands beside the picture
constexpr double kUnder = 88;                 // height of what stands under it
constexpr int kInStrip = 3;                   // of the chips: what is shown; the others act
constexpr double kChip = 22, kChipStep = 26;  // their height, and from one to the next below it
}  // namespace

Loupe::Loupe(QWidget* parent) : QWidget(parent) {
  setMouseTracking(true);
  setFocusPolicy(Qt::StrongFocus);
  setMinimumSize(240, 200);
  setAccessibleName(tr("Loupe, the flat view"));
  setAttribute(Qt::WA_OpaquePaintEvent);
  const QString names[] = {tr("Repeats"), tr("Channel"), tr("Lock"), tr("Look"), tr("Seam check"), tr("Comparison")};
  strip_ = new Strip(this);
  for (int i = 0; i < kButtons; ++i) {
    Chip* c = chips_[static_cast<std::size_t>(i)] =
        i < kInStrip ? strip_->add(names[i]) : new Chip(names[i], Chip::Form::slip, this);
    if (i == kLock || i == kSeam)
      connect(c, &Chip::clicked, this, [this, i] { i == kLock ? Q_EMIT lockWanted() : toggleSeam(); });
    else
      c->setChoices([this, i] { return choicesOf(i); });
  }
  strip_->addSpace();
  renew();
}

void Loupe::showSeen(const SeenPtr& seen, const QString& title) {
  const int before = seen_ && seen_->loupe ? seen_->loupe->size() : 0;
  seen_ = seen;
  title_ = title;
  if (before && seen_->loupe && seen_->loupe->size() != before)
    corner_ *= static_cast<double>(seen_->loupe->size()) / before;
  renew();
}

void Loupe::showTitle(const QString& title, bool locked) {
  title_ = title;
  locked_ = locked;
  renew();
}

void Loupe::nextRepeats() { setRepeats(repeats_ % 4 + 1); }
void Loupe::setRepeats(int repeats) {
  repeats_ = std::clamp(repeats, 1, 4);
  resetZoom();
}
void Loupe::showRings(std::vector<QPointF> places, double radius) {
  rings_ = std::move(places);
  ring_ = radius;
  update();
}
void Loupe::setChannel(int channel) {
  channel_ = channel;
  Q_EMIT channelChanged();
  renew();
}
void Loupe::setLook(Look look) {
  look_ = look;
  Q_EMIT channelChanged();
  renew();
}
void Loupe::toggleSeam() {
  seam_ = !seam_;
  Q_EMIT channelChanged();
  renew();
}

// ---- comparing ----

void Loupe::hold() {
  if (!seen_ || !seen_->loupe) return;
  if (!a_.seen) {
    a_ = {seen_, title_};
    compare_ = Compare::b;
  } else if (!b_.seen) {
    b_ = {seen_, title_};
    compare_ = Compare::b;
  } else {
    a_ = b_ = {};
    differed_ = shared_ = {};
    compare_ = Compare::off;
  }
  comparedAnew();
}

void Loupe::holdBefore() {
  a_ = b_ = {};
  differed_ = shared_ = {};
  hold();
}

void Loupe::setWipe(double share) {
  wipe_ = share;
  comparedAnew();
}

void Loupe::flip() {
  if (!a_.seen) return hold();
  compare_ = compare_ == Compare::a ? Compare::b : Compare::a;
  comparedAnew();
}

void Loupe::nextCompare() {
  const auto next = [&] {
    switch (compare_) {
      case Compare::off:
      case Compare::b:
        return Compare::a;
      case Compare::a:
        return Compare::wipe;
      case Compare::wipe:
        return Compare::difference;
      default:
        return Compare::off;
    }
  };
  compareBy(a_.seen ? next() : Compare::b);
}

// With nothing held yet, what is shown now is held first.
void Loupe::compareBy(Compare how) {
  if (!a_.seen) hold();
  if (!a_.seen) return;
  if (how == Compare::off) a_ = b_ = {}, differed_ = shared_ = {};
  compare_ = how;
  comparedAnew();
}

void Loupe::comparedAnew() {
  renew();
  Q_EMIT compared();
}

Loupe::Held Loupe::side(bool b) const { return !b ? a_ : b_.seen ? b_ : Held{seen_, title_}; }

// The share of the texels that differ by more than a step of eight bits in some channel.
double Loupe::share() {
  const std::pair now{side(false).seen, side(true).seen};
  if (now == shared_) return share_;  // counted once for each pair, not with every painting
  shared_ = now;
  share_ = -1;
  if (!now.first || !now.second) return share_;
  const Seen &a = *now.first, &b = *now.second;
  if (!a.loupe || !b.loupe || a.loupe->kind != b.loupe->kind || a.loupe->size() != b.loupe->size()) return share_;
  const int n = strand_count(a.loupe->kind), size = a.loupe->size();
  std::size_t differ = 0;
  for (int y = 0; y < size; ++y)
    for (int x = 0; x < size; ++x) {
      bool apart = false;
      for (std::size_t c = 0; c < static_cast<std::size_t>(n); ++c)
        apart |= std::abs(a.loupe->strand[c]->at(x, y) - b.loupe->strand[c]->at(x, y)) > 1.0f / 255;
      differ += apart;
    }
  return share_ = static_cast<double>(differ) / size / size;
}

// How far two fields of one kind are apart, value by value, times `gain`.
static QImage differenceOf(const Field& f, const Field& g, QSize size, int gain) {
  QImage image(size, QImage::Format_RGB32);
  const int n = strand_count(f.kind);
  for (int y = 0; y < size.height(); ++y) {
    auto* out = reinterpret_cast<QRgb*>(image.scanLine(y));
    for (int x = 0; x < size.width(); ++x) {
      int v[3];
      for (int c = 0; c < 3; ++c) {
        const auto strand = static_cast<std::size_t>(std::min(c, n - 1));
        const float apart = std::abs(f.strand[strand]->at(x, y) - g.strand[strand]->at(x, y));
        v[c] = static_cast<int>(std::min(1.0f, apart * static_cast<float>(gain)) * 255 + 0.5f);
      }
      out[x] = qRgb(v[0], v[1], v[2]);
    }
  }
  return image;
}

// Of the pictures where the outputs are of other kinds or sizes.
const QImage& Loupe::difference() {
  const Held a = side(false), b = side(true);
  const std::pair now{a.seen, b.seen};
  if (now == differed_ && !difference_->isNull()) return *difference_;
  differed_ = now;
  const QImage one = *a.seen->loupe_picture, two = *b.seen->loupe_picture,
               other = two.size() == one.size() ? two : two.scaled(one.size());
  const Field &f = *a.seen->loupe, &g = *b.seen->loupe;
  const bool exact = f.kind == g.kind && f.size() == g.size() && strand_count(f.kind) > 0 && f.kind != Kind::regions;
  difference_ = exact ? differenceOf(f, g, one.size(), gain_) : differenceOf(one, other, gain_);
  return *difference_;
}

QString Loupe::heading() {
  if (compare_ == Compare::off || !a_.seen)
    return (locked_                                         ? tr("locked on ")
            : onShape()                                     ? tr("laid out from the shape: ")
            : seen_ && seen_->loupe_use != SurfaceUse::none ? tr("as over a ball: ")
                                                            : tr("flat view of ")) +
           title_;
  const Held a = side(false), b = side(true);
  const double apart = a.seen && b.seen ? share() : -1;
  const QString differ = apart < 0 ? QString() : tr(", %1 % differ").arg(100 * apart, 0, 'f', 1);
  const QString live = b_.seen ? QString() : tr(" (live)");
  switch (compare_) {
    case Compare::a:
      return tr("A, held: %1%2").arg(a.title, differ);
    case Compare::b:
      return tr("B%1: %2%3").arg(live, b.title, differ);
    case Compare::wipe:
      return a.title == b.title ? tr("A | B%1: %2%3").arg(live, b.title, differ)
                                : tr("A %1 | B%2 %3%4").arg(a.title, live, b.title, differ);
    default:
      return tr("A - B, times %1%2").arg(gain_).arg(differ);
  }
}

// ---- following a place ----

void Loupe::showFollowed(std::optional<QPointF> place) {
  followed_ = place;
  renew();
}

void Loupe::paintFollowed(QPainter& p) {
  if (!followed_ || !seen_ || !seen_->loupe || onShape()) return;
  const QRectF area = pictureArea();
  const double tile = seen_->loupe->size() * scale();
  p.save();
  p.setClipRect(area);
  const QPointF first = widgetPlace(*followed_ + half());
  for (int j = -5; j <= 5; ++j)
    for (int i = -5; i <= 5; ++i) {
      const QPointF at = first + QPointF(i * tile, j * tile);
      if (!area.adjusted(-10, -10, 10, 10).contains(at)) continue;
      p.setBrush(Qt::NoBrush);
      p.setPen(QPen(QColor(0, 0, 0, 170), 4));
      p.drawEllipse(at, 7, 7);
      p.setPen(QPen(QColor("#ffd76a"), 2));
      p.drawEllipse(at, 7, 7);
    }
  p.restore();
}

void Loupe::paintRings(QPainter& p) {
  if (rings_.empty() || !seen_ || !seen_->loupe || onShape()) return;
  const QRectF area = pictureArea();
  const double tile = seen_->loupe->size() * scale(), radius = std::max(8.0, ring_ * tile);
  p.save();
  p.setClipRect(area);
  p.setBrush(Qt::NoBrush);
  for (const QPointF& place : rings_) {
    const QPointF first = widgetPlace(place + half());
    for (int j = -5; j <= 5; ++j)
      for (int i = -5; i <= 5; ++i) {
        const QPointF at = first + QPointF(i * tile, j * tile);
        if (!area.adjusted(-radius, -radius, radius, radius).contains(at)) continue;
        p.setPen(QPen(QColor(0, 0, 0, 150), 3.5));
        p.drawEllipse(at, radius, radius);
        p.setPen(QPen(QColor("#ffc83d"), 1.5));
        p.drawEllipse(at, radius, radius);
      }
  }
  p.restore();
}

bool Loupe::hasArrows() const {
  return seen_ && seen_->loupe &&
         (seen_->loupe->kind == Kind::normal || seen_->loupe->kind == Kind::vector2 ||
          seen_->loupe->kind == Kind::vector3);
}

// One on each small square: where a vector points, as long as it is; the longest in sight fills its square. Of a
// normal: its lean, +Y up.
void Loupe::paintArrows(QPainter& p) {
  constexpr double kSquare = 22;
  const QRectF area = pictureArea();
  const int size = seen_->loupe->size();
  struct Arrow {
    QPointF at, way;
  };
  std::vector<Arrow> arrows;
  double longest = 1e-9;
  for (double y = area.top() + kSquare / 2; y < area.bottom(); y += kSquare)
    for (double x = area.left() + kSquare / 2; x < area.right(); x += kSquare) {
      const QPointF texel = (QPointF(x, y) - area.topLeft()) / scale() + corner_ - half() * size;
      const int i = wrap(static_cast<int>(std::floor(texel.x())), size),
                j = wrap(static_cast<int>(std::floor(texel.y())), size);
      const double v = static_cast<double>(seen_->loupe->strand[1]->at(i, j));
      arrows.push_back(
          {{x, y},
           {static_cast<double>(seen_->loupe->strand[0]->at(i, j)), seen_->loupe->kind == Kind::normal ? -v : v}});
      longest = std::max(longest, std::hypot(arrows.back().way.x(), arrows.back().way.y()));
    }
  p.save();
  p.setClipRect(area);
  for (const bool edge : {true, false}) {
    p.setPen(QPen(edge ? QColor(0, 0, 0, 150) : QColor(Qt::white), edge ? 3.4 : 1.4, Qt::SolidLine, Qt::RoundCap));
    for (const Arrow& a : arrows) {
      const QPointF way = a.way / longest * (kSquare * 0.46);
      if (std::hypot(way.x(), way.y()) < 1.2) {
        p.drawPoint(a.at);
        continue;
      }
      const QPointF tip = a.at + way, side(-way.y() * 0.35, way.x() * 0.35);
      p.drawLine(a.at - way, tip);
      p.drawLine(tip, tip - way * 0.6 + side);
      p.drawLine(tip, tip - way * 0.6 - side);
    }
  }
  p.restore();
}

// The seam check lays the tile's edges through the middle of the picture.
QPointF Loupe::half() const { return seam_ && !onShape() ? QPointF(0.5, 0.5) : QPointF(); }

void Loupe::toggleHistogram() {
  histogram_ = !histogram_;
  renew();
}
void Loupe::resetZoom() {
  zoom_ = 1;
  corner_ = {};
  renew();
}

void Loupe::showHandles(std::vector<HandleView> handles) {
  handles_ = std::move(handles);
  if (held_ >= static_cast<int>(handles_.size())) held_ = -1;
  renew();
}

// ---- painting by hand ----

void Loupe::setPaints(bool paints) {
  if (paints_ == paints) return;
  paints_ = paints;
  if (!paints_ && std::exchange(drawing_, false)) Q_EMIT strokeEnded();
  renew();
}

bool Loupe::beginStroke(QPointF at, bool erase, double pressure) {
  if (!paints_ || compare_ != Compare::off || !pictureArea().contains(at) || !seen_ || !seen_->loupe) return false;
  if (onShape()) {
    Q_EMIT drawnOnShape();
    return false;
  }
  drawing_ = true;
  Q_EMIT strokeBegun(erase);
  goOnWithStroke(at, pressure);
  return true;
}

void Loupe::goOnWithStroke(QPointF at, double pressure) {
  brush_at_ = at;
  Q_EMIT strokeDrawn(tilePlace(at) - half(), pressure);
}

// A pen draws as hard as it is pressed; its other end erases.
void Loupe::tabletEvent(QTabletEvent* e) {
  const bool eraser = e->pointerType() == QPointingDevice::PointerType::Eraser;
  if (e->type() == QEvent::TabletPress && beginStroke(e->position(), eraser, e->pressure())) {
    setFocus();
  } else if (e->type() == QEvent::TabletMove && drawing_) {
    goOnWithStroke(e->position(), e->pressure());
  } else if (e->type() == QEvent::TabletRelease && std::exchange(drawing_, false)) {
    Q_EMIT strokeEnded();
  } else {
    return e->ignore();  // as a mouse then
  }
  e->accept();
  renew();
}

// How wide it is, and how far in it is whole.
void Loupe::paintBrush(QPainter& p) {
  if (!paints_ || !brush_at_ || !pictureArea().contains(*brush_at_) || !seen_ || !seen_->loupe || onShape()) return;
  const double radius = brush().radius * seen_->loupe->size() * scale();
  p.save();
  p.setClipRect(pictureArea());
  p.setBrush(Qt::NoBrush);
  for (const bool edge : {true, false}) {
    p.setPen(brushPen(brush(), edge, false));
    p.drawEllipse(*brush_at_, radius, radius);
    p.setPen(brushPen(brush(), edge, true));
    if (brush().softness > 0.02)
      p.drawEllipse(*brush_at_, radius * (1 - brush().softness), radius * (1 - brush().softness));
  }
  p.restore();
}

QPointF Loupe::widgetPlace(QPointF tile) const {
  const int size = seen_ && seen_->loupe ? seen_->loupe->size() : 256;
  return pictureArea().topLeft() + (tile * size - corner_) * scale();
}
QPointF Loupe::tilePlace(QPointF widget) const {
  const int size = seen_ && seen_->loupe ? seen_->loupe->size() : 256;
  return ((widget - pictureArea().topLeft()) / scale() + corner_) / size;
}
QPointF Loupe::handlePlace(std::size_t i) const { return widgetPlace(handles_[i].at); }

int Loupe::handleAt(QPointF at) const {
  int nearest = -1;
  double least = 12;
  for (std::size_t i = 0; i < handles_.size() && !onShape(); ++i)
    if (const double d = (handlePlace(i) - at).manhattanLength(); d < least) least = d, nearest = static_cast<int>(i);
  return nearest;
}

// White on a dark edge, so that they show on any picture.
void Loupe::paintHandles(QPainter& p) {
  p.save();
  p.setClipRect(pictureArea());
  for (const bool edge : {true, false})
    for (std::size_t i = 0; i < handles_.size(); ++i) {
      const HandleView& h = handles_[i];
      const QPointF at = handlePlace(i), about = widgetPlace(h.about);
      p.setPen(QPen(edge ? QColor(0, 0, 0, 150) : QColor(Qt::white), edge ? 4 : 1.6));
      p.setBrush(Qt::NoBrush);
      using Form = Handle::Form;
      if (h.handle.form == Form::angle) p.drawLine(about, at);
      if (h.handle.form == Form::radius)
        p.drawEllipse(about, std::abs(at.x() - about.x()), std::abs(at.x() - about.x()));
      if (h.handle.form == Form::line_u)
        p.drawLine(QPointF(at.x(), pictureArea().top()), QPointF(at.x(), pictureArea().bottom()));
      if (h.handle.form == Form::line_v)
        p.drawLine(QPointF(pictureArea().left(), at.y()), QPointF(pictureArea().right(), at.y()));
      if (h.handle.form == Form::box && h.grip == QPoint(-1, -1)) {
        QPolygonF box;
        for (const QPointF corner : {QPointF(-1, -1), QPointF(1, -1), QPointF(1, 1), QPointF(-1, 1)})
          box << widgetPlace(h.ofBox(corner));
        p.drawPolygon(box);
      }
      p.setBrush(static_cast<int>(i) == held_ ? theme().indigo : QColor(Qt::white));
      if (h.handle.form == Form::box) {
        p.drawRect(QRectF(at - QPointF(3.5, 3.5), QSizeF(7, 7)));
        continue;
      }
      p.drawEllipse(at, 4.5, 4.5);
    }
  p.restore();
}

QString Loupe::handleTip(int i) const {
  if (i < 0) return {};
  const HandleView& h = handles_[static_cast<std::size_t>(i)];
  if (h.handle.form != Handle::Form::box) return h.label;
  return tr("%1: a side stretches, a corner keeps the proportions; with Ctrl about the middle, with Shift unsnapped")
      .arg(h.label);
}

bool Loupe::besidePicture() const { return width() > height() * 1.12; }

// The whole room in one direction, less what stands beside or under it in the other.
QRectF Loupe::pictureArea() const {
  const double tall = height() - kHead - Strip::kHeight - kMargin, wide = width() - 2 * kMargin;
  const double side =
      std::max(60.0, besidePicture() ? std::min(tall, wide - kFacts - kMargin) : std::min(tall - kUnder, wide));
  return QRectF(besidePicture() ? kMargin : (width() - side) / 2, kHead, side, side);
}

QRectF Loupe::factsArea() const {
  const QRectF area = pictureArea();
  if (besidePicture()) return {area.right() + kMargin, area.y(), width() - area.right() - 2 * kMargin, area.height()};
  const double wide = std::max(area.width(), width() - 2 * kMargin);
  return {(width() - wide) / 2, area.bottom() + 6, wide, kUnder - 6};
}

double Loupe::scale() const {
  const int size = seen_ && seen_->loupe ? std::max(seen_->loupe->size(), 1) : 256;
  return pictureArea().width() / (size * repeats()) * zoom_;
}

QPoint Loupe::texelAt(QPointF place) const {
  if (!seen_ || !seen_->loupe || !pictureArea().contains(place)) return {-1, -1};
  const int size = seen_->loupe->size();
  const QPointF t = (place - pictureArea().topLeft()) / scale() + corner_ - half() * size;
  if (onShape()) {
    const QPoint at(static_cast<int>(std::floor(t.x())), static_cast<int>(std::floor(t.y())));
    return QRect(0, 0, size, size).contains(at) && seen_->on->covers(at.x(), at.y()) ? at : QPoint(-1, -1);
  }
  return {wrap(static_cast<int>(std::floor(t.x())), size), wrap(static_cast<int>(std::floor(t.y())), size)};
}

QStringList Loupe::valuesAt(QPoint texel) const {
  if (texel.x() < 0 || !seen_ || !seen_->loupe) return {};
  const Field& f = *seen_->loupe;
  QStringList parts;
  for (int c = 0; c < strand_count(f.kind); ++c)
    parts << QString::number(static_cast<double>(f.strand[static_cast<std::size_t>(c)]->at(texel.x(), texel.y())),
                             f.kind == Kind::regions ? 'g' : 'f', f.kind == Kind::regions ? 8 : 4);
  return parts;
}

QString Loupe::valueText(QPoint texel) const { return valuesAt(texel).join(QStringLiteral("  ")); }

void Loupe::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.fillRect(rect(), theme().picture);
  p.setPen(Qt::white);
  p.setFont(textFont(13, QFont::Bold));
  p.drawText(QRectF(kMargin, 5, 60, 20), Qt::AlignVCenter, tr("Loupe"));
  p.setFont(textFont(11.5));
  p.drawText(QRectF(66, 5, width() - 66 - kMargin, 20), Qt::AlignVCenter,
             QFontMetricsF(p.font()).elidedText(heading(), Qt::ElideRight, width() - 66 - kMargin));
  paintPicture(p);
  if (seen_ && seen_->loupe && !seam_ && !onShape()) paintHandles(p);
  if (penIsOn()) {
    p.save();
    p.setClipRect(pictureArea());
    pen_.paint(p, [this](QPointF at) { return widgetPlace(at); });
    p.restore();
  }
  if (look_ == Look::arrows && hasArrows()) paintArrows(p);
  paintRings(p);
  paintFollowed(p);
  paintBrush(p);
  paintFacts(p);
  if (hasFocus()) {
    p.setPen(QPen(Qt::white, 1));
    p.setBrush(Qt::NoBrush);
    p.drawRect(rect().adjusted(1, 1, -2, -2));
  }
}

void Loupe::paintPicture(QPainter& p) {
  const QRectF area = pictureArea();
  p.fillRect(area, QColor("#6b6b6b"));
  if (!seen_ || seen_->loupe_picture->isNull()) {
    p.drawText(area, Qt::AlignCenter, tr("Select a node to see it here"));
    return;
  }
  const double s = scale(), tile = seen_->loupe->size() * s;
  const bool comparing = compare_ != Compare::off && a_.seen;
  const Held right = side(true);
  if (!comparing)
    paintTiles(p, *seen_->loupe_picture, area);
  else if (compare_ == Compare::difference)
    paintTiles(p, difference(), area);
  else
    paintTiles(p, compare_ == Compare::a ? *a_.seen->loupe_picture : *right.seen->loupe_picture, area);
  if (comparing && compare_ == Compare::wipe) {
    QRectF left = area;
    left.setWidth(area.width() * wipe_);
    paintTiles(p, *a_.seen->loupe_picture, left);
    p.setPen(QPen(QColor(0, 0, 0, 150), 3));
    p.drawLine(left.topRight(), left.bottomRight());
    p.setPen(QPen(Qt::white, 1));
    p.drawLine(left.topRight(), left.bottomRight());
    paintSides(p, area, left.right(), tr("A"), tr("B"));
  }
  p.save();
  p.setClipRect(area);
  if (repeats() > 1 && zoom_ <= 1) {
    p.setPen(QPen(QColor(255, 255, 255, 130), 1, Qt::DashLine));
    for (int k = 1; k < repeats(); ++k) {
      p.drawLine(QPointF(area.x() + k * tile, area.y()), QPointF(area.x() + k * tile, area.bottom()));
      p.drawLine(QPointF(area.x(), area.y() + k * tile), QPointF(area.right(), area.y() + k * tile));
    }
  }
  if (s >= 36) paintTexels(p, area, s);
  p.restore();
}

void Loupe::paintTiles(QPainter& p, const QImage& image, const QRectF& clip) {
  const QRectF area = pictureArea();
  const double s = scale(), size = seen_->loupe->size(), tile = size * s;
  p.save();
  p.setClipRect(clip);
  p.setRenderHint(QPainter::SmoothPixmapTransform, s < 3);
  const QPointF from = corner_ - half() * size;
  const int x0 = static_cast<int>(std::floor(from.x() / size)), y0 = static_cast<int>(std::floor(from.y() / size));
  for (int j = y0; (j * size - from.y()) * s < area.height(); ++j)
    for (int i = x0; (i * size - from.x()) * s < area.width(); ++i)
      if (!onShape() || (i == 0 && j == 0))
        p.drawImage(QRectF(area.x() + (i * size - from.x()) * s, area.y() + (j * size - from.y()) * s, tile, tile),
                    image);
  p.restore();
}

void Loupe::paintTexels(QPainter& p, const QRectF& area, double s) {
  p.setFont(monoFont(11));
  const int size = seen_->loupe->size();
  const QPointF from = corner_ - half() * size;
  for (int y = static_cast<int>(std::floor(from.y())); (y - from.y()) * s < area.height(); ++y)
    for (int x = static_cast<int>(std::floor(from.x())); (x - from.x()) * s < area.width(); ++x) {
      if (onShape() && (!QRect(0, 0, size, size).contains(x, y) || !seen_->on->covers(x, y))) continue;
      const QRectF cell(area.x() + (x - from.x()) * s, area.y() + (y - from.y()) * s, s, s);
      p.setPen(QPen(QColor(255, 255, 255, 60), 1));
      p.drawRect(cell);
      const float v = seen_->loupe->strand[0]->at(wrap(x, size), wrap(y, size));
      p.setPen(qGray(seen_->loupe_picture->pixel(wrap(x, size), wrap(y, size))) > 140 ? Qt::black : Qt::white);
      p.drawText(cell, Qt::AlignCenter, QString::number(static_cast<double>(v), 'g', 3));
    }
}

void Loupe::resizeEvent(QResizeEvent*) { placeChips(); }

void Loupe::placeChips() {
  strip_->place();
  const QRectF facts = factsArea();
  const int count = kButtons - kInStrip;
  const bool beside = besidePicture();
  const double each = beside ? std::min(facts.width(), 150.0) : (facts.width() + 4) / count;
  for (int i = 0; i < count; ++i) {
    const QRectF place = beside ? QRectF(facts.x(), facts.bottom() - kChip - (count - 1 - i) * kChipStep, each, kChip)
                                : QRectF(facts.x() + i * each, facts.bottom() - kChip, each - 4, kChip);
    chips_[static_cast<std::size_t>(kInStrip + i)]->setGeometry(place.toRect());
  }
}

void Loupe::renew() {
  for (int i = 0; i < kButtons; ++i) {
    Chip* c = chips_[static_cast<std::size_t>(i)];
    c->setText(word(i));
    c->setEnabled(!onShape() || (i != kRepeatsChip && i != kSeam));  // neither repeats nor seams
    c->setOn((i == kLock && locked_) || (i == kLookChip && look_ != Look::plain) || (i == kSeam && seam_) ||
             (i == kCompareChip && compare_ != Compare::off));
  }
  update();
}

// What is known of the output, a line each: what it is, and how much.
std::vector<std::pair<QString, QString>> Loupe::facts() const {
  if (!seen_ || !seen_->loupe) return {};
  const auto number = [](float v) { return QString::number(static_cast<double>(v), 'f', 3); };
  if (seam_ && seen_->seam) {
    const SeamFigures& f = *seen_->seam;
    const auto figure = [](float v) { return QString::number(static_cast<double>(v), 'g', 2); };
    std::vector<std::pair<QString, QString>> all{
        {f.seam() ? tr("a seam over %1").arg(f.over_u ? QStringLiteral("u") : QStringLiteral("v")) : tr("no seam"),
         {}}};
    for (const auto& [name, at, inside, most] : {std::tuple{tr("1st"), f.first, f.inside_first, f.most_first},
                                                 {tr("2nd"), f.second, f.inside_second, f.most_second}}) {
      all.emplace_back(tr("%1 difference").arg(name), figure(at));
      all.emplace_back(tr("inside"), tr("%1, most %2").arg(figure(inside), figure(most)));
    }
    return all;
  }
  std::vector<std::pair<QString, QString>> all{{tr("least"), number(seen_->range.least)},
                                               {tr("most"), number(seen_->range.most)},
                                               {tr("mean"), number(seen_->range.mean)}};
  if (look_ == Look::marked) {
    all.emplace_back(tr("below"), tr("%1 %").arg(100 * seen_->below, 0, 'f', 2));
    all.emplace_back(tr("above"), tr("%1 %").arg(100 * seen_->above, 0, 'f', 2));
  }
  if (under_.x() < 0) {
    all.emplace_back(tr("pointer"), tr("outside"));
    return all;
  }
  // Each strand by itself: they are compared by eye.
  const QStringList values = valuesAt(under_);
  for (qsizetype i = 0; i < values.size(); ++i) all.emplace_back(i == 0 ? tr("here") : QString(), values[i]);
  const double size = std::max(seen_->loupe->size(), 1);
  all.emplace_back(
      tr("at"),
      QStringLiteral("%1, %2").arg((under_.x() + 0.5) / size, 0, 'f', 3).arg((under_.y() + 0.5) / size, 0, 'f', 3));
  return all;
}

void Loupe::paintHistogram(QPainter& p, const QRectF& graph) {
  const int most = std::max(1, *std::max_element(seen_->histogram.begin(), seen_->histogram.end()));
  p.setPen(Qt::NoPen);
  p.setBrush(QColor("#626262"));
  p.drawRoundedRect(graph.adjusted(0, 0, 0, 1), 3, 3);
  p.setBrush(QColor("#e9e4d9"));
  const double bar = graph.width() / 64;
  for (int i = 0; i < 64; ++i) {
    const double h =
        (graph.height() - 2) * std::sqrt(static_cast<double>(seen_->histogram[static_cast<std::size_t>(i)]) / most);
    p.drawRect(QRectF(graph.x() + i * bar, graph.bottom() - h, bar * 0.8, h));
  }
}

// Under the picture in two columns beside the histogram, beside it below that.
void Loupe::paintFacts(QPainter& p) {
  const QRectF all = factsArea();
  const bool beside = besidePicture();
  QRectF lines = all;
  if (seen_ && seen_->loupe && histogram_) {
    const QRectF graph =
        beside ? QRectF(all.x(), all.y(), all.width(), 56) : QRectF(all.x(), all.y(), all.width() * 0.3, 54);
    paintHistogram(p, graph);
    beside ? lines.setTop(graph.bottom() + 8) : lines.setLeft(graph.right() + 10);
  }
  const double step = 18, low = all.bottom() - kChipStep * (beside ? kButtons - kInStrip : 1);
  double x = lines.x(), y = lines.y();
  const double wide = beside ? lines.width() : (lines.width() - 10) / 2;
  const QFontMetricsF plain(textFont(11.5));
  for (const auto& [what, value] : facts()) {
    if (y + 16 > low) x += wide + 10, y = lines.y();
    if (x + wide > all.right() + 1) break;
    const QRectF r(x, y, wide, 16);
    p.setPen(Qt::white);
    p.setFont(textFont(11.5));
    p.drawText(r, Qt::AlignLeft | Qt::AlignVCenter, plain.elidedText(what, Qt::ElideRight, r.width()));
    p.setFont(textFont(11.5, QFont::DemiBold));
    p.drawText(
        r, Qt::AlignRight | Qt::AlignVCenter,
        QFontMetricsF(p.font()).elidedText(value, Qt::ElideRight, r.width() - plain.horizontalAdvance(what) - 6));
    y += step;
  }
}

QString Loupe::word(int i) const {
  switch (i) {
    case kRepeatsChip:
      return onShape() ? tr("on the shape") : tr("repeats %1 × %1").arg(repeats_);
    case kChannelChip:
      return channel_ < 0 ? tr("all channels") : tr("channel %1").arg(channel_ + 1);
    case kLock:
      return locked_ ? tr("locked") : tr("shows selection");
    case kLookChip:
      return look_ == Look::plain        ? tr("as it is")
             : look_ == Look::about_zero ? tr("about zero")
             : look_ == Look::arrows     ? tr("arrows")
                                         : tr("range marked");
    case kSeam:
      return tr("seam check");
    default:
      break;
  }
  switch (compare_) {
    case Compare::off:
      return tr("hold A");
    case Compare::a:
      return tr("shows A");
    case Compare::b:
      return tr("shows B");
    case Compare::wipe:
      return tr("wipe");
    default:
      return tr("difference");
  }
}

std::vector<Chip::Choice> Loupe::choicesOf(int i) {
  std::vector<Chip::Choice> all;
  if (i == kRepeatsChip)
    for (int n = 1; n <= 4; ++n) all.push_back({tr("%1 × %1").arg(n), n == repeats_, [this, n] { setRepeats(n); }});
  if (i == kChannelChip)
    for (int c = -1; c <= 3; ++c)
      all.push_back(
          {c < 0 ? tr("all channels") : tr("channel %1").arg(c + 1), c == channel_, [this, c] { setChannel(c); }});
  if (i == kLookChip)
    for (const auto& [look, text] : {std::pair{Look::plain, tr("as it is")},
                                     {Look::about_zero, tr("about zero")},
                                     {Look::marked, tr("range marked")},
                                     {Look::arrows, tr("arrows")}})
      if (look != Look::arrows || hasArrows())
        all.push_back({text, look == look_, [this, look = look] { setLook(look); }});
  if (i == kCompareChip)
    for (const auto& [how, text] : {std::pair{Compare::off, tr("let go")},
                                    {Compare::a, tr("A as it was held")},
                                    {Compare::b, tr("B")},
                                    {Compare::wipe, tr("A beside B, a wipe")},
                                    {Compare::difference, tr("A - B, the difference")}})
      if (how != Compare::off || a_.seen) all.push_back({text, how == compare_, [this, how = how] { compareBy(how); }});
  return all;
}

void Loupe::wheelEvent(QWheelEvent* e) {
  const QPointF at = (e->position() - pictureArea().topLeft()) / scale() + corner_;
  const int size = seen_ && seen_->loupe ? seen_->loupe->size() : 256;
  const double most = std::max(kMostZoom, kMostZoom * size * repeats() / std::max(pictureArea().width(), 1.0));
  zoom_ = std::clamp(zoom_ * std::pow(1.002, e->angleDelta().y()), 1.0, most);
  corner_ = zoom_ <= 1 ? QPointF() : at - (e->position() - pictureArea().topLeft()) / scale();
  renew();
  e->accept();
}

void Loupe::mousePressEvent(QMouseEvent* e) {
  setFocus();
  if (e->modifiers() & Qt::ControlModifier && pictureArea().contains(e->position()) && seen_ && seen_->loupe &&
      !onShape()) {
    const QPointF at = tilePlace(e->position()) - half();
    return Q_EMIT followWanted(QPointF(at.x() - std::floor(at.x()), at.y() - std::floor(at.y())));
  }
  wiping_ = compare_ == Compare::wipe && pictureArea().contains(e->position());
  if (wiping_) {
    wipe_ = (e->position().x() - pictureArea().x()) / pictureArea().width();
    return comparedAnew();
  }
  dragged_ = e->position();
  held_ = -1;
  const bool right = e->button() == Qt::RightButton;
  if ((right || e->button() == Qt::LeftButton) && beginStroke(e->position(), right, 1)) return renew();
  if (e->button() == Qt::LeftButton && penIsOn() && pictureArea().contains(e->position()) &&
      pen_.press(tilePlace(e->position()), reach(), e->modifiers() & Qt::ShiftModifier))
    return renew();
  if (e->button() == Qt::LeftButton) held_ = handleAt(e->position());
  renew();
}

// ---- a drawn figure ----

bool Loupe::penIsOn() const {
  return pen_.isOn() && seen_ && seen_->loupe && !seam_ && !onShape() && compare_ == Compare::off;
}

double Loupe::reach() const { return 9 / (scale() * seen_->loupe->size()); }

void Loupe::mouseDoubleClickEvent(QMouseEvent* e) {
  if (e->button() == Qt::LeftButton && penIsOn() && pen_.doubled(tilePlace(e->position()), reach())) return renew();
  mousePressEvent(e);
}

bool Loupe::event(QEvent* e) {
  if (e->type() == QEvent::ShortcutOverride && penIsOn() && pen_.takes(*static_cast<QKeyEvent*>(e))) {
    e->accept();  // a key of the pen's, not of an action
    return true;
  }
  return QWidget::event(e);
}

void Loupe::mouseReleaseEvent(QMouseEvent*) {
  if (std::exchange(drawing_, false)) Q_EMIT strokeEnded();
  pen_.release();
  if (held_ >= 0) Q_EMIT gestureEnded();
  held_ = -1;
  wiping_ = false;
  renew();
}

void Loupe::mouseMoveEvent(QMouseEvent* e) {
  if (wiping_) {
    wipe_ = std::clamp((e->position().x() - pictureArea().x()) / pictureArea().width(), 0.0, 1.0);
    Q_EMIT compared();
  } else if (drawing_) {
    goOnWithStroke(e->position(), 1);
  } else if (pen_.isDragging() && e->buttons() & Qt::LeftButton) {
    pen_.move(tilePlace(e->position()), e->modifiers() & Qt::ShiftModifier);
  } else if (held_ >= 0 && e->buttons() & Qt::LeftButton) {
    Q_EMIT handleDragged(handles_[static_cast<std::size_t>(held_)], tilePlace(e->position()), e->modifiers());
  } else if (e->buttons() & (Qt::LeftButton | Qt::MiddleButton) && zoom_ > 1) {
    corner_ -= (e->position() - dragged_) / scale();
    dragged_ = e->position();
  }
  brush_at_ = e->position();
  under_ = texelAt(e->position());
  setToolTip(handleTip(handleAt(e->position())));
  renew();
}

void Loupe::leaveEvent(QEvent*) {
  under_ = {-1, -1};
  brush_at_.reset();
  renew();
}

// Of the brush, while what is shown is painted on.
bool Loupe::brushKey(const QKeyEvent& e) {
  if (!paints_ || !turnBrush(e.key())) return false;
  Q_EMIT brushChanged();
  renew();
  return true;
}

void Loupe::keyPressEvent(QKeyEvent* e) {
  if (brushKey(*e) || (penIsOn() && pen_.key(*e))) return;
  switch (e->key()) {
    case Qt::Key_T:
      return e->modifiers() & Qt::ShiftModifier ? toggleSeam() : nextRepeats();
    case Qt::Key_H:
      return e->modifiers() & Qt::ShiftModifier ? setLook(look_ == Look::marked ? Look::plain : Look::marked)
                                                : toggleHistogram();
    case Qt::Key_V:
      return e->modifiers() & Qt::ShiftModifier ? hold() : flip();
    case Qt::Key_Escape:
      return Q_EMIT followEnded();
    case Qt::Key_Plus:
    case Qt::Key_Minus:
      gain_ = std::clamp(e->key() == Qt::Key_Plus ? gain_ * 2 : gain_ / 2, 1, 256);
      difference_ = QImage();
      return comparedAnew();
    case Qt::Key_L:
      Q_EMIT lockWanted();
      return;
    case Qt::Key_Home:
      return resetZoom();
    default:
      QWidget::keyPressEvent(e);
  }
}

}  // namespace loom::app

#include "moc_loupe.cpp"
