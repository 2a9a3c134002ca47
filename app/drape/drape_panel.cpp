// Dragging turns the shape or the light; the picture refines while one works.
#include "app/drape/drape_panel.h"

#include <QApplication>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QKeyEvent>
#include <QMimeData>
#include <QMouseEvent>
#include <QPainter>
#include <QRegularExpression>
#include <QSettings>
#include <QTabletEvent>
#include <QtConcurrentRun>
#include <cmath>
#include <utility>

#include "app/base/brush.h"
#include "app/base/elsewhere.h"
#include "app/base/sides.h"
#include "app/base/theme.h"
#include "core/bolt/shown_mesh.h"
#include "core/surface/environment_file.h"

namespace loom::app {
namespace {

bool endsIn(const QUrl& url, const char* endings) {
  return QRegularExpression(QStringLiteral("\\.(%1)$").arg(QLatin1String(endings)),
                            QRegularExpression::CaseInsensitiveOption)
      .match(url.toLocalFile())
      .hasMatch();
}
constexpr double kWipeReach = 6;  // pixels from its line
const QString kSamplesKept = QStringLiteral("drape_samples");
bool isPicture(const QUrl& url) { return endsIn(url, "exr|hdr"); }
bool isMesh(const QUrl& url) { return endsIn(url, "glb|gltf|obj|ply"); }
bool isMaterial(const QUrl& url) { return endsIn(url, "bolt|loom"); }

}  // namespace

DrapePanel::DrapePanel(QWidget* parent) : QWidget(parent), brush_([this] { return sight(); }, this) {
  setFocusPolicy(Qt::StrongFocus);
  setMinimumSize(240, 180);
  setAccessibleName(tr("Drape, the lit view"));
  setAttribute(Qt::WA_OpaquePaintEvent);
  setAcceptDrops(true);
  for (std::size_t i = 0; i < shape_names().size(); ++i) cameras_.push_back(Camera::start(static_cast<ShapeName>(i)));
  cameras_.push_back(Camera::start(ShapeName::block));  // of a mesh
  for (ContourStyle& style : lines_.of) style.on = true;
  // What a machine does in good time is a matter of the machine, not of the material.
  view_.samples = std::max(1, QSettings().value(kSamplesKept, view_.samples).toInt());
  strip_ = new Strip(this);
  shape_ = addChip(tr("Shape"));
  light_ = addChip(tr("Environment"));
  exposure_ = addChip(tr("Exposure"));
  more_ = addChip(tr("View"));
  more_->setText(tr("view"));
  draw_ = addChip(tr("Draw on the shape"));
  draw_->setText(tr("draw on it"));
  draw_->setVisible(false);
  strip_->addSpace();
  connect(draw_, &Chip::clicked, this, [this] { setDrawing(!draws_); });
  makeShapeMenu();
  makeViewMenu();
  shape_->setMenu(shape_menu_);
  more_->setMenu(view_menu_);
  light_->setChoices([this] { return environments(); });
  exposure_->setChoices([this] { return exposures(); });
  connect(&engine_, &DrapeEngine::picture, this, [this](const QImage& image, int samples, double noise) {
    image_ = image;
    samples_ = samples;
    noise_ = noise;
    difference_ = QImage();
    renew();
    Q_EMIT pictureShown();
  });
  connect(&reading_, &QFutureWatcher<ReadMesh>::finished, this, &DrapePanel::standOnRead);
  connect(&measuring_, &Measuring::better, this, &DrapePanel::changed);
  connect(&measuring_, &Measuring::progressed, this, [this] { update(); });
  connect(&held_engine_, &DrapeEngine::picture, this, [this](const QImage& image, int) {
    held_image_ = image;
    difference_ = QImage();
    renew();
  });
  renew();
}

void DrapePanel::showOutfit(const Outfit& outfit) {
  message_.clear();
  // The same maps again, or their quick form behind the full one: nothing to light anew.
  if (outfit == outfit_ || (outfit && outfit == quick_ && mapSize() > outfit.maps->size())) return renew();
  if (outfit && outfit.maps->size() <= 256) quick_ = outfit;
  outfit_ = outfit;
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
  if (!outfit_ || width() < 16 || pictureRect().height() < 16) return;
  const qreal density = devicePixelRatioF();
  view_.width = static_cast<int>(width() * density);
  view_.height = static_cast<int>(pictureRect().height() * density);
  const Outfit a = comparison_.a ? comparison_.a->outfit() : outfit_,
               b = comparison_.b ? comparison_.b->outfit() : outfit_;
  std::set<MeshMeasure> asked = b.on(view_.parts()).measures();
  if (comparison_.how != Compare::off) asked.merge(a.on(view_.parts()).measures());
  asked.insert(also_measured_.begin(), also_measured_.end());
  measuring_.want(view_.mesh, view_.shape, asked);
  view_.measured = measuring_.known();
  engine_.show(comparison_.how == Compare::a ? a : b, view_);
  if (comparesTwo()) held_engine_.show(a, view_);
}

QString DrapePanel::comparedText() const {
  const auto& [a_name, b_name] = comparison_.names;
  if (comparison_.how == Compare::wipe && !a_name.isEmpty()) return tr("%1 | %2").arg(a_name, b_name);
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
    return p.drawImage(pictureRect(), *difference_);
  }
  p.drawImage(pictureRect(), *image_);
  if (!both) return;
  const QRectF left(0, 0, width() * comparison_.share, pictureRect().height());
  p.save();
  p.setClipRect(left);
  p.drawImage(pictureRect(), *held_image_);
  p.restore();
  for (const auto& [colour, wide] : {std::pair{QColor(0, 0, 0, 150), 3}, {QColor(Qt::white), 1}}) {
    p.setPen(QPen(colour, wide));
    p.drawLine(left.topRight(), left.bottomRight());
  }
  const auto& [a_name, b_name] = comparison_.names;
  paintSides(p, pictureRect(), left.right(), a_name.isEmpty() ? tr("A") : a_name, b_name.isEmpty() ? tr("B") : b_name);
}

QAction* DrapePanel::choice(QMenu* menu, const QString& text, const std::function<bool()>& is,
                            const std::function<void()>& choose) {
  QAction* action = menu->addAction(text);
  action->setCheckable(true);
  connect(action, &QAction::triggered, this, choose);
  choices_.emplace_back(action, is);
  return action;
}

template <class T>
void DrapePanel::values(QMenu* menu, T DrapeView::*what, std::initializer_list<std::pair<QString, T>> all) {
  for (const auto& [text, value] : all)
    choice(
        menu, text, [this, what, value = value] { return view_.*what == value; },
        [this, what, value = value] {
          view_.*what = value;
          changed();
        });
}

QAction* DrapePanel::toggle(const QString& text, bool DrapeView::*what) {
  return choice(
      view_menu_, text, [this, what] { return view_.*what; },
      [this, what] {
        view_.*what = !(view_.*what);
        changed();
      });
}

void DrapePanel::makeShapeMenu() {
  shape_menu_ = new QMenu(this);
  for (std::size_t i = 0; i < shape_names().size(); ++i) {
    const auto name = static_cast<ShapeName>(i);
    choice(
        shape_menu_, QString::fromStdString(shape_names()[i].second),
        [this, name] { return !view_.mesh && view_.shape == name; }, [this, name] { setShape(name); });
  }
  mesh_action_ = choice(
      shape_menu_, {}, [this] { return view_.mesh != nullptr; }, [this] { stand(mesh_, mesh_name_); });
  shape_menu_->addSeparator();
  keep_ = shape_menu_->addAction(tr("Keep this shape with the material"));
  connect(keep_, &QAction::triggered, this, [this] {
    Q_EMIT shapeKept(QString::fromStdString(shape_names()[static_cast<std::size_t>(view_.shape)].first));
  });
  connect(shape_menu_->addAction(tr("A mesh from a file …")), &QAction::triggered, this, [this] {
    const QString path = QFileDialog::getOpenFileName(this, tr("A mesh"), {}, tr("Meshes (*.glb *.gltf *.obj *.ply)"));
    if (!path.isEmpty()) takeMesh(path);
  });
}

void DrapePanel::makeEnvironmentMenu() {
  QMenu* menu = view_menu_->addMenu(tr("Environment"));
  for (const auto& [id, label] : environment_names())
    choice(
        menu, QString::fromStdString(label), [this, id = id] { return !view_.own && view_.environment == id; },
        [this, id = id] { setEnvironment(id); });
  menu->addSeparator();
  connect(menu->addAction(tr("A picture of surroundings …")), &QAction::triggered, this, [this] {
    const QString path = QFileDialog::getOpenFileName(this, tr("A picture of surroundings, twice as wide as high"), {},
                                                      tr("Pictures (*.exr *.hdr *.png *.jpg *.tif *.tiff)"));
    if (!path.isEmpty()) takeEnvironment(path);
  });
}

void DrapePanel::makeContoursMenu() {
  QMenu* menu = view_menu_->addMenu(tr("Contours"));
  choice(
      menu, tr("Shown"), [this] { return view_.contours.any(); }, [this] { toggleContours(); });
  menu->addSeparator();
  for (std::size_t k = 0; k < contour_kinds().size(); ++k) {
    QMenu* own = menu->addMenu(QString::fromStdString(contour_kinds()[k].second));
    // Who chooses how a line looks wants to see it.
    const auto style = [this, own, k](const QString& text, auto ContourStyle::*what, auto value, auto next) {
      choice(
          own, text, [this, k, what, value] { return lines_.of[k].*what == value; },
          [this, k, what, next] {
            Contours lines = lines_;
            lines.of[k].*what = next(lines_.of[k].*what);
            setContours(lines);
          });
    };
    style(tr("Drawn"), &ContourStyle::on, true, [](bool on) { return !on; });
    own->addSeparator();
    for (const float width : {1.0f, 2.0f, 3.0f, 5.0f})
      style(tr("%1 px wide").arg(static_cast<double>(width)), &ContourStyle::width, width,
            [width](float) { return width; });
    own->addSeparator();
    using Colour = std::array<std::uint8_t, 3>;
    for (const auto& [name, colour] : {std::pair{tr("ink"), Colour{24, 22, 20}},
                                       {tr("chalk"), {246, 242, 234}},
                                       {tr("brick"), {152, 62, 44}},
                                       {tr("slate"), {44, 66, 96}}})
      style(name, &ContourStyle::colour, colour, [colour = colour](const Colour&) { return colour; });
  }
}

void DrapePanel::toggleContours() {
  if (!lines_.any()) lines_[ContourKind::outline].on = true;
  view_.contours = view_.contours.any() ? Contours() : lines_;
  changed();
}

void DrapePanel::setContours(const Contours& lines) {
  view_.contours = lines_ = lines;
  changed();
}

void DrapePanel::makeViewMenu() {
  view_menu_ = new QMenu(this);
  makeEnvironmentMenu();
  QMenu* key = view_menu_->addMenu(tr("Key light"));
  values<float>(key, &DrapeView::key, {{tr("off"), 0}, {tr("on"), 1}, {tr("twice as strong"), 2}});
  key->addSeparator();
  values<float>(key, &DrapeView::key_size,
                {{tr("half a degree wide"), 0.5f}, {tr("3° wide"), 3}, {tr("12° wide"), 12}, {tr("40° wide"), 40}});
  view_menu_->addSeparator();
  relief_ = toggle(tr("Relief"), &DrapeView::relief);
  toggle(tr("Occlusion"), &DrapeView::occlusion);
  toggle(tr("Shadows"), &DrapeView::shadows);
  toggle(tr("Glow of what is brighter than white"), &DrapeView::glow);
  values<float>(
      view_menu_->addMenu(tr("Depth of the relief, in this view")), &DrapeView::relief_factor,
      {{tr("a quarter"), 0.25f}, {tr("half"), 0.5f}, {tr("as it is"), 1}, {tr("twice"), 2}, {tr("four times"), 4}});
  makeContoursMenu();
  view_menu_->addSeparator();
  repeats_ = view_menu_->addMenu(tr("Repeats"));
  values<float>(repeats_, &DrapeView::repeats,
                {{tr("half"), 0.5f}, {tr("1"), 1}, {tr("2"), 2}, {tr("4"), 4}, {tr("8"), 8}});
  toggle(tr("True to scale"), &DrapeView::true_scale);
  values<Background>(view_menu_->addMenu(tr("Background")), &DrapeView::background,
                     {{tr("plain"), Background::plain}, {tr("environment"), Background::environment}});
  QMenu* samples = view_menu_->addMenu(tr("Samples"));
  values<int>(samples, &DrapeView::samples, {{tr("16"), 16}, {tr("64"), 64}, {tr("256"), 256}, {tr("1024"), 1024}});
  connect(samples, &QMenu::triggered, this, [this] { QSettings().setValue(kSamplesKept, view_.samples); });
  view_menu_->addSeparator();
  connect(view_menu_->addAction(tr("Look from the start")), &QAction::triggered, this, &DrapePanel::lookFromStart);
}

Direction DrapePanel::towardsLight() const {
  const Vec3 d = direction_of(view_.light_degrees, view_.light_height);
  return {d.x, d.y, d.z};
}

void DrapePanel::changed() {
  if (const Direction light = towardsLight(); std::exchange(told_light_, light) != light) Q_EMIT lightTurned();
  if (!(std::exchange(told_camera_, view_.camera) == view_.camera)) Q_EMIT eyeMoved();
  ask();
  renew();
}

void DrapePanel::setShape(ShapeName shape) {
  cameraHere() = view_.camera;
  view_.mesh = nullptr;
  view_.shape = shape;
  view_.camera = cameras_[static_cast<std::size_t>(shape)];
  changed();
  Q_EMIT stood();
}
void DrapePanel::setSamples(int count) {
  view_.samples = count;
  changed();
}
void DrapePanel::lookFromStart() { lookFrom(Camera::start(view_.mesh ? ShapeName::block : view_.shape)); }

void DrapePanel::lookFrom(const Camera& camera) {
  view_.camera = camera;
  changed();
}
void DrapePanel::turnLight(float left, float higher) {
  view_.light_degrees = std::fmod(view_.light_degrees + left + 360.0f, 360.0f);
  view_.light_height = std::clamp(view_.light_height + higher, 5.0f, 88.0f);
  changed();
}
void DrapePanel::turnShape(float left, float higher) {
  view_.camera.turn(left, higher);
  changed();
}
void DrapePanel::moveShape(float right, float up) {
  Camera& c = view_.camera;
  c.aside = std::clamp(c.aside + right, -2.0f, 2.0f);
  c.up = std::clamp(c.up + up, -2.0f, 2.0f);
  changed();
}
void DrapePanel::setUnlit(const QString& output) {
  unlit_ = output;
  if (view_.unlit == !output.isEmpty()) return renew();
  view_.unlit = !output.isEmpty();
  changed();
}
void DrapePanel::setExposure(float stops) {
  view_.exposure = std::clamp(stops, -6.0f, 6.0f);
  changed();
}
void DrapePanel::setEnvironment(const std::string& name) {
  view_.stand_in(name);
  own_name_.clear();
  changed();
}
void DrapePanel::takeEnvironment(const QString& path) {
  auto own = elsewhere([path] { return read_environment(path.toStdString()); });
  if (!own) return showMessage(QString::fromStdString(own.error().text()));
  message_.clear();
  own_name_ = QFileInfo(path).completeBaseName();
  view_.own = own->light;
  view_.key = 0;  // such a picture holds its own sun
  changed();
}
void DrapePanel::takeMesh(const QString& path) {
  using Taken = Result<std::pair<std::shared_ptr<const MeshShape>, std::vector<std::string>>>;
  auto taken = elsewhere([path]() -> Taken {
    auto mesh = read_mesh(path.toStdString());
    if (!mesh) return mesh.error();
    std::vector<std::string> notes = mesh->notes;
    return std::pair{std::make_shared<const MeshShape>(std::move(*mesh)), std::move(notes)};
  });
  if (!taken) return showMessage(QString::fromStdString(taken.error().text()));
  stand(taken->first, QFileInfo(path).completeBaseName());
  Q_EMIT meshTaken(path);
  if (!taken->second.empty()) Q_EMIT told(tr("%1: %2").arg(mesh_name_, QString::fromStdString(taken->second.front())));
}

void DrapePanel::stand(std::shared_ptr<const MeshShape> mesh, const QString& name) {
  cameraHere() = view_.camera;
  if (mesh_ != mesh) cameras_.back() = Camera::start(ShapeName::block);
  view_.mesh = mesh_ = std::move(mesh);
  mesh_name_ = name;
  view_.camera = cameras_.back();
  changed();
  Q_EMIT stood();
}

void DrapePanel::standAs(const Material& material) {
  reading_.setFuture({});  // what was on its way comes too late
  reads_ = false;
  if (material.mesh.empty()) {
    if (const auto name = shape_named(material.shape)) setShape(*name);
    return;
  }
  Material named;  // and nothing else of it
  named.mesh = material.mesh, named.files = material.files;
  reading_name_ = QFileInfo(QString::fromStdString(material.mesh)).completeBaseName();
  reads_ = true;
  reading_.setFuture(QtConcurrent::run([named]() -> ReadMesh {
    auto mesh = shown_mesh(named);
    if (!mesh) return mesh.error();
    return std::shared_ptr<const MeshShape>(std::make_shared<MeshShape>(std::move(*mesh)));
  }));
}

void DrapePanel::standOnRead() {
  reads_ = false;
  if (reading_.future().resultCount() == 0) return;
  const ReadMesh read = reading_.result();
  read ? stand(*read, reading_name_) : Q_EMIT told(QString::fromStdString(read.error().text()));
}

Camera& DrapePanel::cameraHere() {
  return view_.mesh ? cameras_.back() : cameras_[static_cast<std::size_t>(view_.shape)];
}

void DrapePanel::turnEnvironment(float left) {
  view_.turn = std::remainder(view_.turn + left, 360.0f);
  changed();
}

void DrapePanel::resizeEvent(QResizeEvent*) {
  strip_->place();
  ask();
}

std::vector<Chip::Choice> DrapePanel::environments() {
  std::vector<Chip::Choice> all;
  for (const auto& [id, label] : environment_names())
    all.push_back({QString::fromStdString(label), !view_.own && view_.environment == id,
                   [this, id = id] { setEnvironment(id); }});
  return all;
}

std::vector<Chip::Choice> DrapePanel::exposures() {
  std::vector<Chip::Choice> all;
  for (float stops = -3; stops <= 3; stops += 0.5f)
    all.push_back({(stops > 0 ? QStringLiteral("+") : QString()) + QString::number(static_cast<double>(stops), 'f', 1),
                   view_.exposure == stops, [this, stops] { setExposure(stops); }});
  return all;
}

void DrapePanel::renew() {
  for (const auto& [action, is] : choices_) action->setChecked(is());
  mesh_action_->setVisible(mesh_ != nullptr);
  mesh_action_->setText(tr("Mesh: %1").arg(mesh_name_));
  keep_->setEnabled(!view_.mesh);
  relief_->setText(outfit_ && is_too_deep(outfit_.on(view_.parts()), view_)
                       ? tr("Relief (deeper than the mesh's triangles are wide: its normals alone)")
                       : tr("Relief"));
  repeats_->setEnabled(!view_.true_scale);
  repeats_->setTitle(view_.true_scale ? tr("Repeats (as the scale has them)") : tr("Repeats"));
  shape_->setText(
      view_.mesh
          ? tr("mesh: %1").arg(mesh_name_)
          : tr("shape: %1").arg(QString::fromStdString(shape_names()[static_cast<std::size_t>(view_.shape)].second)));
  for (const auto& [id, label] : environment_names())
    if (id == view_.environment) light_->setText(view_.own ? own_name_ : QString::fromStdString(label));
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
  p.drawText(QRectF(16, 5, 60, 20), Qt::AlignVCenter, tr("Drape"));
  p.setFont(textFont(11.5));
  p.drawText(QRectF(70, 5, view_.unlit ? width() - 90 : 80, 20), Qt::AlignVCenter,
             view_.unlit ? tr("unlit: %1").arg(unlit_) : tr("lit view"));
  if (const QString second = comparedText().isEmpty() ? part_ : comparedText(); !second.isEmpty())
    p.drawText(QRectF(16, 25, width() - 32, 20), Qt::AlignVCenter, second);
  if (measuring_.share() < 1)
    p.drawText(QRectF(0, 5, width() - 16, 20), Qt::AlignVCenter | Qt::AlignRight,
               tr("measuring the shape, %1 %").arg(std::floor(100 * measuring_.share())));
  else if (!view_.unlit)
    p.drawText(QRectF(0, 5, width() - 16, 20), Qt::AlignVCenter | Qt::AlignRight,
               width() < 330 || samples_ < 2
                   ? tr("%1 of %2").arg(samples_).arg(view_.samples)
                   : tr("%1 of %2, noise %3 %").arg(samples_).arg(view_.samples).arg(100 * noise_, 0, 'f', 1));
  if (draws_) brush_.paint(p);
  if (volume_.isShown())
    if (const auto now = sight()) volume_.paint(p, now->drape, now->density);
  if (!message_.isEmpty()) {
    p.setFont(textFont(12));
    const QRectF r(30, pictureRect().height() / 2.0 - 40, width() - 60, 80);
    p.fillRect(r, QColor(60, 58, 55, 220));
    p.drawText(r.adjusted(10, 6, -10, -6), Qt::AlignCenter | Qt::TextWordWrap, message_);
  }
  if (hasFocus()) {
    p.setPen(QPen(Qt::white, 1));
    p.setBrush(Qt::NoBrush);
    p.drawRect(rect().adjusted(1, 1, -2, -2));
  }
}

void DrapePanel::alsoMeasure(const std::set<MeshMeasure>& asked) {
  if (std::exchange(also_measured_, asked) != asked) ask();
}

void DrapePanel::showPart(const QString& part) {
  part_ = part;
  update();
}

std::optional<Body::Hit> DrapePanel::hitUnder(QPointF widget) const {
  const auto now = sight();
  if (!now) return {};
  return now->drape.under(static_cast<float>(widget.x() * now->density), static_cast<float>(widget.y() * now->density));
}

std::optional<ShapeBrush::Sight> DrapePanel::sight() const {
  if (!outfit_) return {};
  return ShapeBrush::Sight{Drape(outfit_.on(view_.parts()), view_), devicePixelRatioF()};
}

void DrapePanel::showVolume(std::optional<Volume> volume) {
  if (!volume && !volume_.isShown()) return;
  volume_.show(std::move(volume));
  update();
}

std::optional<QPointF> DrapePanel::handlePlace(VolumeHandles::Handle handle) const {
  const auto now = sight();
  if (!now) return {};
  return volume_.place(handle, now->drape, now->density);
}

void DrapePanel::setPaints(bool paints) {
  if (paints_ == paints) return;
  paints_ = paints;
  draw_->setVisible(paints);
  if (!paints) setDrawing(false);
}

void DrapePanel::setDrawing(bool draws) {
  draws_ = draws && paints_;
  if (!draws_) brush_.end(), brush_.hover({});
  setMouseTracking(draws_);
  draw_->setOn(draws_);
  draw_->setText(draws_ ? tr("drawing") : tr("draw on it"));
  update();
}

// A pen draws as hard as it is pressed; its other end erases.
void DrapePanel::tabletEvent(QTabletEvent* e) {
  const bool eraser = e->pointerType() == QPointingDevice::PointerType::Eraser;
  if (e->type() == QEvent::TabletPress && draws_ && brush_.begin(e->position(), eraser, e->pressure())) {
    setFocus();
  } else if (e->type() == QEvent::TabletMove && brush_.isDrawing()) {
    brush_.goOn(e->position(), e->pressure());
  } else if (e->type() == QEvent::TabletRelease && brush_.isDrawing()) {
    brush_.end();
  } else {
    return e->ignore();  // as a mouse then
  }
  e->accept();
  update();
}

void DrapePanel::leaveEvent(QEvent*) {
  brush_.hover({});
  if (draws_) update();
}

void DrapePanel::mousePressEvent(QMouseEvent* e) {
  setFocus();
  dragged_ = e->position();
  const bool right = e->button() == Qt::RightButton;
  wipes_ = comparison_.how == Compare::wipe && e->button() == Qt::LeftButton &&
           std::abs(e->position().x() - width() * comparison_.share) <= kWipeReach;
  if (wipes_) return;
  if (draws_ && e->modifiers() == Qt::NoModifier && (right || e->button() == Qt::LeftButton) &&
      brush_.begin(e->position(), right, 1))
    return update();
  if (volume_.isShown() && e->modifiers() == Qt::NoModifier && e->button() == Qt::LeftButton)
    if (const auto now = sight(); now && volume_.begin(e->position(), now->drape, now->density)) return update();
  clicks_ = e->button() == Qt::LeftButton && e->modifiers() == Qt::NoModifier;
  if (e->modifiers() & Qt::ControlModifier && e->button() == Qt::LeftButton) {
    if (const auto hit = hitUnder(e->position()))
      Q_EMIT followWanted(QPointF(static_cast<double>(hit->at.u - std::floor(hit->at.u)),
                                  static_cast<double>(hit->at.v - std::floor(hit->at.v))));
    return;
  }
}

void DrapePanel::mouseMoveEvent(QMouseEvent* e) {
  if (wipes_) {
    comparison_.share = std::clamp(e->position().x() / width(), 0.0, 1.0);
    update();
    return Q_EMIT wiped(comparison_.share);
  }
  if (draws_) brush_.hover(e->position()), update();
  if (brush_.isDrawing()) return brush_.goOn(e->position(), 1);
  if (volume_.isHeld()) {
    if (const auto now = sight())
      volume_.goOn(e->position(), now->drape, now->density, e->modifiers() & Qt::ShiftModifier);
    return;
  }
  if (!(e->buttons() & (Qt::LeftButton | Qt::RightButton | Qt::MiddleButton))) return;
  const QPointF d = e->position() - dragged_;
  if (clicks_ && d.manhattanLength() < QApplication::startDragDistance() / 2.0) return;  // a hand is never quite still
  clicks_ = false;
  dragged_ = e->position();
  const auto x = static_cast<float>(d.x()), y = static_cast<float>(d.y());
  const bool left = e->buttons() & Qt::LeftButton;
  if (e->buttons() & Qt::MiddleButton || (left && e->modifiers() & Qt::ShiftModifier)) {
    // What lies at the shape's middle follows the hand.
    const float per_pixel = 2 * std::tan(Camera::kField / 2 * kDegree) * view_.camera.distance /
                            static_cast<float>(std::min(width(), pictureRect().height()));
    return moveShape(x * per_pixel, -y * per_pixel);
  }
  if (e->buttons() & Qt::RightButton)
    return e->modifiers() & Qt::ControlModifier ? turnEnvironment(-x * 0.6f) : turnLight(-x * 0.6f, -y * 0.3f);
  if (left) turnShape(x * 0.5f, y * 0.4f);
}

void DrapePanel::mouseReleaseEvent(QMouseEvent* e) {
  if (std::exchange(wipes_, false)) return;
  if (brush_.isDrawing()) return brush_.end();
  if (volume_.isHeld()) return volume_.end(), update();
  if (!std::exchange(clicks_, false) || view_.parts().size() < 2) return;
  const auto hit = hitUnder(e->position());
  Q_EMIT partPressed(hit ? view_.parts()[hit->part] : std::string());
}

void DrapePanel::mouseDoubleClickEvent(QMouseEvent* e) {
  if (draws_ && hitUnder(e->position())) return mousePressEvent(e);  // two dabs, one soon after the other
  if (e->button() == Qt::LeftButton && !(e->modifiers() & Qt::ControlModifier)) lookFromStart();
}

void DrapePanel::wheelEvent(QWheelEvent* e) {
  view_.camera.approach(std::exp2(-static_cast<float>(e->angleDelta().y()) / 480));
  changed();
  e->accept();
}

void DrapePanel::dragEnterEvent(QDragEnterEvent* e) {
  const QList<QUrl> urls = e->mimeData()->urls();
  if (urls.size() == 1 && (isPicture(urls[0]) || isMesh(urls[0]) || isMaterial(urls[0]))) e->acceptProposedAction();
}

void DrapePanel::dropEvent(QDropEvent* e) {
  e->acceptProposedAction();
  const QUrl url = e->mimeData()->urls()[0];
  if (isMaterial(url)) {
    const auto hit = view_.parts().size() < 2 ? std::nullopt : hitUnder(e->position());
    return Q_EMIT materialDropped(url.toLocalFile(), hit ? view_.parts()[hit->part] : std::string());
  }
  isMesh(url) ? takeMesh(url.toLocalFile()) : takeEnvironment(url.toLocalFile());
}

void DrapePanel::keyPressEvent(QKeyEvent* e) {
  if (draws_ && e->modifiers() == Qt::NoModifier && turnBrush(e->key())) {
    Q_EMIT brushChanged();
    return update();
  }
  const std::map<int, std::pair<float, float>> arrows = {{Qt::Key_Left, {-1.0f, 0.0f}},
                                                         {Qt::Key_Right, {1.0f, 0.0f}},
                                                         {Qt::Key_Up, {0.0f, 1.0f}},
                                                         {Qt::Key_Down, {0.0f, -1.0f}}};
  if (const auto arrow = arrows.find(e->key()); arrow != arrows.end()) {
    const auto [right, up] = arrow->second;
    if (e->modifiers() & Qt::ControlModifier && e->modifiers() & Qt::ShiftModifier) return turnEnvironment(-5 * right);
    if (e->modifiers() & Qt::ControlModifier) return turnLight(-5 * right, 5 * up);
    if (e->modifiers() & Qt::ShiftModifier) return moveShape(0.1f * right, 0.1f * up);
    return turnShape(5 * right, -5 * up);
  }
  switch (e->key()) {
    case Qt::Key_Plus:
    case Qt::Key_Equal:
    case Qt::Key_Minus:
      view_.camera.approach(e->key() == Qt::Key_Minus ? 1.19f : 1 / 1.19f);
      return changed();
    case Qt::Key_Home:
      return lookFromStart();
    case Qt::Key_PageUp:
      return setExposure(view_.exposure + 0.5f);
    case Qt::Key_PageDown:
      return setExposure(view_.exposure - 0.5f);
    case Qt::Key_Space: {
      const std::size_t shapes = shape_names().size(), on = e->modifiers() & Qt::ShiftModifier ? shapes - 1 : 1;
      return setShape(static_cast<ShapeName>((static_cast<std::size_t>(view_.shape) + on) % shapes));
    }
    default:
      QWidget::keyPressEvent(e);
  }
}

}  // namespace loom::app

#include "moc_drape_panel.cpp"
