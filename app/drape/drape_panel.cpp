// Dragging turns the key light; the picture refines while one works.
#include "app/drape/drape_panel.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>
#include <utility>

#include "app/base/theme.h"

namespace loom::app {

DrapePanel::DrapePanel(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setMinimumSize(240, 180);
  setAccessibleName(tr("Drape, the lit view"));
  setAttribute(Qt::WA_OpaquePaintEvent);
  const QString shapes[] = {tr("ball"), tr("tile")};
  for (std::size_t i = 0; i < 2; ++i) {
    shapes_[i] = new Chip(tr("Shape: %1").arg(shapes[i]), Chip::Form::segment, this);
    shapes_[i]->setText(shapes[i]);
    connect(shapes_[i], &Chip::clicked, this, [this, i] { setShape(static_cast<Shape>(i)); });
  }
  light_ = new Chip(tr("Environment"), Chip::Form::single, this);
  exposure_ = new Chip(tr("Exposure"), Chip::Form::single, this);
  connect(light_, &Chip::clicked, this, &DrapePanel::nextEnvironment);
  connect(exposure_, &Chip::clicked, this,
          [this] { setExposure(view_.exposure >= 2 ? -2.0f : view_.exposure + 0.5f); });
  connect(&engine_, &DrapeEngine::picture, this, [this](const QImage& image, int samples) {
    image_ = image;
    samples_ = samples;
    difference_ = QImage();
    renew();
    Q_EMIT pictureShown();
  });
  connect(&held_engine_, &DrapeEngine::picture, this, [this](const QImage& image, int) {
    held_image_ = image;
    difference_ = QImage();
    renew();
  });
  renew();
}

void DrapePanel::showMaps(std::shared_ptr<const SurfaceMaps> maps) {
  message_.clear();
  // The same maps again, or their quick form behind the full one: nothing to light anew.
  if (maps == maps_ || (maps && maps == quick_ && maps_ && maps_->size() > maps->size())) return renew();
  if (maps && maps->size() <= 256) quick_ = maps;
  maps_ = std::move(maps);
  ask();
}

void DrapePanel::showCompared(const Comparison& comparison) {
  const Comparison before = std::exchange(comparison_, comparison);
  difference_ = QImage();
  // A wipe that only moves, or another gain, lights nothing anew.
  if (before.how != comparison.how || before.a != comparison.a || before.b != comparison.b) ask();
  if (!comparesTwo()) held_image_ = QImage();
  renew();
}

void DrapePanel::showMessage(const QString& text) {
  message_ = text;
  renew();
}

void DrapePanel::ask() {
  if (!maps_ || width() < 16 || height() < 16) return;
  const qreal density = devicePixelRatioF();
  view_.width = static_cast<int>(width() * density);
  view_.height = static_cast<int>(height() * density);
  const auto& a = comparison_.a ? comparison_.a->maps : maps_;
  const auto& b = comparison_.b ? comparison_.b->maps : maps_;
  engine_.show(comparison_.how == Compare::a ? a : b, view_);
  if (comparesTwo()) held_engine_.show(a, view_);
}

QString DrapePanel::comparedText() const {
  const QString b = comparison_.b ? tr("B, held") : tr("B, live");
  switch (comparison_.how) {
    case Compare::off:
      return {};
    case Compare::a:
      return tr("A, held");
    case Compare::b:
      return b;
    case Compare::wipe:
      return QStringLiteral("A | ") + b;
    default:
      return tr("A - B, times %1").arg(comparison_.gain);
  }
}

void DrapePanel::paintImage(QPainter& p) {
  const bool both = comparesTwo() && held_image_->size() == image_->size();
  if (both && comparison_.how == Compare::difference) {
    if (difference_->isNull()) difference_ = differenceOf(*held_image_, *image_, comparison_.gain);
    return p.drawImage(rect(), *difference_);
  }
  p.drawImage(rect(), *image_);
  if (!both) return;
  const QRectF left(0, 0, width() * comparison_.share, height());
  p.save();
  p.setClipRect(left);
  p.drawImage(rect(), *held_image_);
  p.restore();
  for (const auto& [colour, wide] : {std::pair{QColor(0, 0, 0, 150), 3}, {QColor(Qt::white), 1}}) {
    p.setPen(QPen(colour, wide));
    p.drawLine(left.topRight(), left.bottomRight());
  }
}

void DrapePanel::setShape(Shape shape) {
  view_.shape = shape;
  ask();
  renew();
}
void DrapePanel::setUnlit(const QString& output) {
  unlit_ = output;
  if (view_.unlit == !output.isEmpty()) return renew();
  view_.unlit = !output.isEmpty();
  ask();
  renew();
}
void DrapePanel::setExposure(float stops) {
  view_.exposure = std::clamp(stops, -6.0f, 6.0f);
  ask();
  renew();
}
void DrapePanel::nextEnvironment() {
  const auto& names = environment_names();
  std::size_t at = 0;
  for (std::size_t i = 0; i < names.size(); ++i)
    if (names[i].first == view_.environment) at = (i + 1) % names.size();
  view_.environment = names[at].first;
  ask();
  renew();
}

void DrapePanel::resizeEvent(QResizeEvent*) {
  placeChips();
  ask();
}

void DrapePanel::placeChips() {
  const int y = height() - 32;
  for (std::size_t i = 0; i < 2; ++i) shapes_[i]->setGeometry(20 + static_cast<int>(i) * 46, y, 46, 22);
  light_->setGeometry(124, y, 92, 22);
  exposure_->setGeometry(220, y, 92, 22);
}

void DrapePanel::renew() {
  for (std::size_t i = 0; i < 2; ++i) shapes_[i]->setOn(static_cast<std::size_t>(view_.shape) == i);
  for (const auto& [id, label] : environment_names())
    if (id == view_.environment) light_->setText(QString::fromStdString(label));
  exposure_->setText(tr("exposure %1").arg(static_cast<double>(view_.exposure), 0, 'f', 1));
  update();
}

void DrapePanel::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.setRenderHint(QPainter::SmoothPixmapTransform);
  p.fillRect(rect(), theme().picture);
  if (!image_->isNull()) paintImage(p);
  p.setPen(Qt::white);
  p.setFont(textFont(13, QFont::Bold));
  p.drawText(QRectF(20, 8, 60, 20), Qt::AlignVCenter, tr("Drape"));
  p.setFont(textFont(11.5));
  p.drawText(QRectF(74, 8, view_.unlit ? width() - 90 : 80, 20), Qt::AlignVCenter,
             view_.unlit ? tr("unlit: %1").arg(unlit_) : tr("lit view"));
  if (const QString compared = comparedText(); !compared.isEmpty())
    p.drawText(QRectF(20, 28, width() - 40, 20), Qt::AlignVCenter, compared);
  if (!view_.unlit)
    p.drawText(QRectF(0, 8, width() - 20, 20), Qt::AlignVCenter | Qt::AlignRight,
               width() < 330 ? tr("%1 of %2").arg(samples_).arg(DrapeEngine::kSamples)
                             : tr("key light %1°, refined %2 of %3")
                                   .arg(std::lround(view_.light_degrees))
                                   .arg(samples_)
                                   .arg(DrapeEngine::kSamples));
  if (!message_.isEmpty()) {
    p.setFont(textFont(12));
    const QRectF r(30, height() / 2.0 - 40, width() - 60, 80);
    p.fillRect(r, QColor(60, 58, 55, 220));
    p.drawText(r.adjusted(10, 6, -10, -6), Qt::AlignCenter | Qt::TextWordWrap, message_);
  }
  if (hasFocus()) {
    p.setPen(QPen(Qt::white, 1));
    p.setBrush(Qt::NoBrush);
    p.drawRect(rect().adjusted(1, 1, -2, -2));
  }
}

void DrapePanel::mousePressEvent(QMouseEvent* e) {
  setFocus();
  dragged_ = e->position();
  if (e->modifiers() & Qt::ControlModifier && maps_) {
    const qreal density = devicePixelRatioF();
    const auto place = Drape(maps_, view_)
                           .place_under(static_cast<float>(e->position().x() * density),
                                        static_cast<float>(e->position().y() * density));
    if (place) Q_EMIT followWanted(QPointF(static_cast<double>((*place)[0]), static_cast<double>((*place)[1])));
    return;
  }
  // The chip leaves the right button to us.
  if (e->button() == Qt::RightButton && exposure_->geometry().contains(e->position().toPoint()))
    setExposure(view_.exposure - 0.5f);
}

void DrapePanel::mouseMoveEvent(QMouseEvent* e) {
  if (!(e->buttons() & Qt::LeftButton)) return;
  const QPointF d = e->position() - dragged_;
  dragged_ = e->position();
  view_.light_degrees = std::fmod(view_.light_degrees - static_cast<float>(d.x()) * 0.6f + 360.0f, 360.0f);
  view_.light_height = std::clamp(view_.light_height - static_cast<float>(d.y()) * 0.3f, 5.0f, 88.0f);
  ask();
  renew();
}

void DrapePanel::wheelEvent(QWheelEvent* e) {
  view_.repeats = std::clamp(view_.repeats * (e->angleDelta().y() > 0 ? 0.5f : 2.0f), 0.5f, 4.0f);
  ask();
  e->accept();
}

void DrapePanel::keyPressEvent(QKeyEvent* e) {
  switch (e->key()) {
    case Qt::Key_Left:
      view_.light_degrees = std::fmod(view_.light_degrees + 5, 360.0f);
      return ask();
    case Qt::Key_Right:
      view_.light_degrees = std::fmod(view_.light_degrees + 355, 360.0f);
      return ask();
    case Qt::Key_Up:
      return setExposure(view_.exposure + 0.5f);
    case Qt::Key_Down:
      return setExposure(view_.exposure - 0.5f);
    case Qt::Key_Space:
      return setShape(view_.shape == Shape::ball ? Shape::tile : Shape::ball);
    default:
      QWidget::keyPressEvent(e);
  }
}

}  // namespace loom::app

#include "moc_drape_panel.cpp"
