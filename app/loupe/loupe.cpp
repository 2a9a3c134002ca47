// Painted on the neutral grey; words on it are white and ranked by weight.
#include "app/loupe/loupe.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

#include "app/shell/theme.h"

namespace loom::app {
namespace {
constexpr double kMostZoom = 64;
}

Loupe::Loupe(QWidget* parent) : QWidget(parent) {
  setMouseTracking(true);
  setFocusPolicy(Qt::StrongFocus);
  setMinimumSize(240, 200);
  setAccessibleName(tr("Loupe, the flat view"));
  setAttribute(Qt::WA_OpaquePaintEvent);
}

void Loupe::showSeen(const SeenPtr& seen, const QString& title) {
  const int before = seen_ && seen_->loupe ? seen_->loupe->size() : 0;
  seen_ = seen;
  title_ = title;
  if (before && seen_->loupe && seen_->loupe->size() != before) corner_ *= static_cast<double>(seen_->loupe->size()) / before;
  update();
}

void Loupe::showTitle(const QString& title, bool locked) {
  title_ = title;
  locked_ = locked;
  update();
}

void Loupe::nextRepeats() {
  repeats_ = repeats_ % 4 + 1;
  resetZoom();
}
void Loupe::nextChannel() {
  channel_ = channel_ >= 3 ? -1 : channel_ + 1;
  Q_EMIT channelChanged();
  update();
}
void Loupe::toggleHistogram() {
  histogram_ = !histogram_;
  update();
}
void Loupe::resetZoom() {
  zoom_ = 1;
  corner_ = {};
  update();
}

void Loupe::showHandles(std::vector<HandleView> handles) {
  handles_ = std::move(handles);
  if (held_ >= static_cast<int>(handles_.size())) held_ = -1;
  update();
}

QPointF Loupe::widgetPlace(QPointF tile) const {
  const int size = seen_ && seen_->loupe ? seen_->loupe->size() : 256;
  return pictureArea().topLeft() + (tile * size - corner_) * scale();
}
QPointF Loupe::tilePlace(QPointF widget) const {
  const int size = seen_ && seen_->loupe ? seen_->loupe->size() : 256;
  return ((widget - pictureArea().topLeft()) / scale() + corner_) / size;
}
QPointF Loupe::handlePlace(std::size_t i) const {
  // What stands outside of the tile is held at its other side.
  const QPointF at = handles_[i].at;
  return widgetPlace(handles_[i].handle.form == Handle::Form::place ? QPointF(at.x() - std::floor(at.x()), at.y() - std::floor(at.y())) : at);
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
      if (h.handle.form == Form::radius) p.drawEllipse(about, std::abs(at.x() - about.x()), std::abs(at.x() - about.x()));
      if (h.handle.form == Form::line_u) p.drawLine(QPointF(at.x(), pictureArea().top()), QPointF(at.x(), pictureArea().bottom()));
      if (h.handle.form == Form::line_v) p.drawLine(QPointF(pictureArea().left(), at.y()), QPointF(pictureArea().right(), at.y()));
      p.setBrush(static_cast<int>(i) == held_ ? theme().indigo : QColor(Qt::white));
      p.drawEllipse(at, 4.5, 4.5);
    }
  p.restore();
}

QRectF Loupe::pictureArea() const {
  const double side = std::max(60.0, std::min(width() - 40.0, height() - 40.0 - 86.0));
  const bool wide = width() > height() * 1.25;  // facts beside the picture rather than under it
  const double s = wide ? std::min(height() - 52.0, width() - 200.0) : side;
  return QRectF(wide ? 20 : (width() - s) / 2, 34, s, s);
}

double Loupe::scale() const {
  const int size = seen_ && seen_->loupe ? std::max(seen_->loupe->size(), 1) : 256;
  return pictureArea().width() / (size * repeats_) * zoom_;
}

QPoint Loupe::texelAt(QPointF place) const {
  if (!seen_ || !seen_->loupe || !pictureArea().contains(place)) return {-1, -1};
  const QPointF t = (place - pictureArea().topLeft()) / scale() + corner_;
  const int size = seen_->loupe->size();
  return {wrap(static_cast<int>(std::floor(t.x())), size), wrap(static_cast<int>(std::floor(t.y())), size)};
}

QString Loupe::valueText(QPoint texel) const {
  if (texel.x() < 0 || !seen_ || !seen_->loupe) return {};
  const Field& f = *seen_->loupe;
  QStringList parts;
  for (int c = 0; c < strand_count(f.kind); ++c) parts << QString::number(static_cast<double>(f.strand[static_cast<std::size_t>(c)]->at(texel.x(), texel.y())), f.kind == Kind::regions ? 'g' : 'f', f.kind == Kind::regions ? 8 : 4);
  return parts.join(QStringLiteral("  "));
}

void Loupe::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.fillRect(rect(), theme().picture);
  p.setPen(Qt::white);
  p.setFont(textFont(13, QFont::Bold));
  p.drawText(QRectF(20, 8, 60, 20), Qt::AlignVCenter, tr("Loupe"));
  p.setFont(textFont(11.5));
  p.drawText(QRectF(74, 8, width() - 90, 20), Qt::AlignVCenter, QFontMetricsF(p.font()).elidedText((locked_ ? tr("locked on ") : tr("flat view of ")) + title_, Qt::ElideRight, width() - 94));
  paintPicture(p);
  if (seen_ && seen_->loupe) paintHandles(p);
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
  if (!seen_ || seen_->loupe_picture.isNull()) {
    p.drawText(area, Qt::AlignCenter, tr("Select a node to see it here"));
    return;
  }
  const QImage& image = seen_->loupe_picture;
  const double s = scale(), tile = image.width() * s;
  p.save();
  p.setClipRect(area);
  p.setRenderHint(QPainter::SmoothPixmapTransform, s < 3);
  const int x0 = static_cast<int>(std::floor(corner_.x() / image.width())), y0 = static_cast<int>(std::floor(corner_.y() / image.height()));
  for (int j = y0; (j * image.height() - corner_.y()) * s < area.height(); ++j)
    for (int i = x0; (i * image.width() - corner_.x()) * s < area.width(); ++i)
      p.drawImage(QRectF(area.x() + (i * image.width() - corner_.x()) * s, area.y() + (j * image.height() - corner_.y()) * s, tile, tile), image);
  if (repeats_ > 1 && zoom_ <= 1) {
    p.setPen(QPen(QColor(255, 255, 255, 130), 1, Qt::DashLine));
    for (int k = 1; k < repeats_; ++k) {
      p.drawLine(QPointF(area.x() + k * tile, area.y()), QPointF(area.x() + k * tile, area.bottom()));
      p.drawLine(QPointF(area.x(), area.y() + k * tile), QPointF(area.right(), area.y() + k * tile));
    }
  }
  if (s >= 36) paintTexels(p, area, s);
  p.restore();
}

void Loupe::paintTexels(QPainter& p, const QRectF& area, double s) {
  p.setFont(monoFont(11));
  const int size = seen_->loupe->size();
  for (int y = static_cast<int>(std::floor(corner_.y())); (y - corner_.y()) * s < area.height(); ++y)
    for (int x = static_cast<int>(std::floor(corner_.x())); (x - corner_.x()) * s < area.width(); ++x) {
      const QRectF cell(area.x() + (x - corner_.x()) * s, area.y() + (y - corner_.y()) * s, s, s);
      p.setPen(QPen(QColor(255, 255, 255, 60), 1));
      p.drawRect(cell);
      const float v = seen_->loupe->strand[0]->at(wrap(x, size), wrap(y, size));
      p.setPen(qGray(seen_->loupe_picture.pixel(wrap(x, size), wrap(y, size))) > 140 ? Qt::black : Qt::white);
      p.drawText(cell, Qt::AlignCenter, QString::number(static_cast<double>(v), 'g', 3));
    }
}

QRectF Loupe::button(int i) const {
  const QRectF area = pictureArea();
  const bool wide = width() > height() * 1.25;
  return wide ? QRectF(area.right() + 16, area.bottom() - 24 - i * 28, 150, 22) : QRectF(area.x() + i * (area.width() / 3), area.bottom() + 62, area.width() / 3 - 6, 20);
}

void Loupe::paintFacts(QPainter& p) {
  const QRectF area = pictureArea();
  const bool wide = width() > height() * 1.25;
  const QRectF graph = wide ? QRectF(area.right() + 16, area.y(), 150, 60) : QRectF(area.x(), area.bottom() + 8, area.width() * 0.45, 46);
  if (seen_ && histogram_ && seen_->loupe) {
    const int most = std::max(1, *std::max_element(seen_->histogram.begin(), seen_->histogram.end()));
    p.setPen(Qt::NoPen);
    p.setBrush(QColor("#e9e4d9"));
    const double bar = graph.width() / 64;
    for (int i = 0; i < 64; ++i) {
      const double h = graph.height() * std::sqrt(static_cast<double>(seen_->histogram[static_cast<std::size_t>(i)]) / most);
      p.drawRect(QRectF(graph.x() + i * bar, graph.bottom() - h, bar * 0.8, h));
    }
  }
  const auto line = [&](int i, const QString& what, const QString& value) {
    const QRectF r = wide ? QRectF(graph.x(), graph.bottom() + 10 + i * 18, graph.width(), 16) : QRectF(area.x() + area.width() * 0.5, area.bottom() + 6 + i * 17, area.width() * 0.5, 16);
    p.setPen(Qt::white);
    p.setFont(textFont(11));
    p.drawText(r, Qt::AlignLeft | Qt::AlignVCenter, what);
    p.setFont(textFont(11, QFont::DemiBold));
    p.drawText(r, Qt::AlignRight | Qt::AlignVCenter, QFontMetricsF(p.font()).elidedText(value, Qt::ElideRight, r.width() - 44));
  };
  if (seen_ && seen_->loupe) {
    line(0, tr("range"), tr("%1 to %2").arg(static_cast<double>(seen_->range.least), 0, 'f', 3).arg(static_cast<double>(seen_->range.most), 0, 'f', 3));
    line(1, tr("mean"), QString::number(static_cast<double>(seen_->range.mean), 'f', 3));
    line(2, tr("pointer"), under_.x() < 0 ? tr("outside") : valueText(under_));
  }
  const QString words[] = {tr("repeats %1 × %1").arg(repeats_), channel_ < 0 ? tr("all channels") : tr("channel %1").arg(channel_ + 1), locked_ ? tr("locked") : tr("follows")};
  for (int i = 0; i < 3; ++i) {
    p.setPen(Qt::NoPen);
    p.setBrush(QColor("#5f5f5f"));
    p.drawRoundedRect(button(i), 4, 4);
    p.setPen(Qt::white);
    p.setFont(textFont(11));
    p.drawText(button(i), Qt::AlignCenter, words[i]);
  }
}

void Loupe::wheelEvent(QWheelEvent* e) {
  const QPointF at = (e->position() - pictureArea().topLeft()) / scale() + corner_;
  const int size = seen_ && seen_->loupe ? seen_->loupe->size() : 256;
  const double most = std::max(kMostZoom, kMostZoom * size * repeats_ / std::max(pictureArea().width(), 1.0));
  zoom_ = std::clamp(zoom_ * std::pow(1.002, e->angleDelta().y()), 1.0, most);
  corner_ = zoom_ <= 1 ? QPointF() : at - (e->position() - pictureArea().topLeft()) / scale();
  update();
  e->accept();
}

void Loupe::mousePressEvent(QMouseEvent* e) {
  setFocus();
  for (int i = 0; i < 3; ++i)
    if (button(i).contains(e->position())) {
      if (i == 0) nextRepeats();
      else if (i == 1) nextChannel();
      else Q_EMIT lockWanted();
      return;
    }
  dragged_ = e->position();
  held_ = -1;
  for (std::size_t i = 0; i < handles_.size() && e->button() == Qt::LeftButton; ++i)
    if ((handlePlace(i) - e->position()).manhattanLength() < 12) held_ = static_cast<int>(i);
  update();
}

void Loupe::mouseReleaseEvent(QMouseEvent*) {
  if (held_ >= 0) Q_EMIT gestureEnded();
  held_ = -1;
  update();
}

void Loupe::mouseMoveEvent(QMouseEvent* e) {
  if (held_ >= 0 && e->buttons() & Qt::LeftButton) {
    Q_EMIT handleDragged(handles_[static_cast<std::size_t>(held_)], tilePlace(e->position()), e->modifiers() & Qt::ShiftModifier);
  } else if (e->buttons() & (Qt::LeftButton | Qt::MiddleButton) && zoom_ > 1) {
    corner_ -= (e->position() - dragged_) / scale();
    dragged_ = e->position();
  }
  under_ = texelAt(e->position());
  QString tip;
  for (std::size_t i = 0; i < handles_.size(); ++i) if ((handlePlace(i) - e->position()).manhattanLength() < 12) tip = handles_[i].label;
  setToolTip(tip);
  update();
}

void Loupe::leaveEvent(QEvent*) {
  under_ = {-1, -1};
  update();
}

void Loupe::keyPressEvent(QKeyEvent* e) {
  switch (e->key()) {
    case Qt::Key_T: return nextRepeats();
    case Qt::Key_H: return toggleHistogram();
    case Qt::Key_L: Q_EMIT lockWanted(); return;
    case Qt::Key_Home: return resetZoom();
    default: QWidget::keyPressEvent(e);
  }
}

}  // namespace loom::app
