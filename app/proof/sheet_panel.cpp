#include "app/proof/sheet_panel.h"

#include <QCheckBox>
#include <QComboBox>
#include <QContextMenuEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QHelpEvent>
#include <QInputDialog>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QToolTip>
#include <QVBoxLayout>

#include "app/base/elsewhere.h"
#include "app/base/labels.h"
#include "app/base/theme.h"
#include "core/graph/disc.h"
#include "core/graph/edit.h"
#include "core/graph/json.h"
#include "core/graph/offered.h"
#include "core/io/image.h"
#include "core/nodes/catalogue.h"

namespace loom::app {
namespace {

constexpr int kSide = 64, kGap = 10, kBeside = 60, kAbove = 18, kMargin = 24, kMadeAt = 128;

QString shownValue(const std::string& value) { return QString::fromStdString(sheet_value(value)); }

}  // namespace

// ---- the grid

SheetGrid::SheetGrid(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setAccessibleName(tr("Variation sheet"));
  QSizePolicy policy(QSizePolicy::Expanding, QSizePolicy::Preferred);
  policy.setHeightForWidth(true);
  setSizePolicy(policy);
}

void SheetGrid::begin(const SheetPlan& plan) {
  plan_ = plan;
  pictures_.assign(static_cast<std::size_t>(plan.count()), QImage());
  marked_.clear(), thrown_.clear();
  current_ = 0, taken_ = -1;
  setOnlyMarked(false);
}

void SheetGrid::put(int index, const QImage& picture) {
  if (index >= static_cast<int>(pictures_.size())) return;
  pictures_[static_cast<std::size_t>(index)] = picture;
  update(placeOf(index));
}

void SheetGrid::setOnlyMarked(bool only) {
  only_ = only;
  shown_.clear();
  for (int i = 0; i < static_cast<int>(pictures_.size()); ++i)
    if (!thrown_.count(i) && (!only || marked_.count(i))) shown_.push_back(i);
  updateGeometry();
  update();
}

void SheetGrid::setCurrent(int index) {
  if (index < 0 || index >= static_cast<int>(pictures_.size())) return;
  current_ = index;
  update();
  Q_EMIT currentChanged(index);
}

void SheetGrid::setTaken(int index) {
  taken_ = index;
  update();
}

int SheetGrid::columns(int width) const {
  if (onAxes()) return plan_.columns();
  return std::max(1, (width - 2 * kMargin + kGap) / (kSide + kGap));
}

QSize SheetGrid::sizeHint() const { return {600, heightForWidth(width() > 100 ? width() : 900)}; }

int SheetGrid::heightForWidth(int width) const {
  const int n = static_cast<int>(shown_.size()), across = columns(width);
  const int rows = std::max(1, (n + across - 1) / across);
  return onAxes() ? kAbove + rows * (kSide + kGap) + 4 : rows * (kSide + kAbove + 4) + 4;
}

QRect SheetGrid::placeOf(int index) const {
  const auto it = std::lower_bound(shown_.begin(), shown_.end(), index);
  if (it == shown_.end() || *it != index) return {};
  const int at = static_cast<int>(it - shown_.begin()), across = columns(width());
  const int c = at % across, r = at / across;
  if (onAxes()) return {kMargin + kBeside + c * (kSide + kGap), kAbove + r * (kSide + kGap), kSide, kSide};
  return {kMargin + c * (kSide + kGap), r * (kSide + kAbove + 4), kSide, kSide};
}

int SheetGrid::indexAt(QPoint at) const {
  for (const int i : shown_)
    if (placeOf(i).contains(at)) return i;
  return -1;
}

void SheetGrid::paintEvent(QPaintEvent* e) {
  QPainter p(this);
  p.fillRect(rect(), theme().picture);
  p.setFont(textFont(11));
  const QFontMetrics letters(p.font());
  for (const int i : shown_) {
    const QRect place = placeOf(i);
    if (!place.adjusted(-6, -kAbove, 6, kAbove).intersects(e->rect())) continue;
    const QImage& picture = pictures_[static_cast<std::size_t>(i)];
    if (picture.isNull())
      p.fillRect(place, QColor(0, 0, 0, 40));
    else
      p.drawImage(place, picture);
    p.setBrush(Qt::NoBrush);
    if (i == taken_) {
      p.setPen(QPen(Qt::white, 2));
      p.drawRect(place.adjusted(-3, -3, 2, 2));
    }
    if (hasFocus() && i == current_) {
      p.setPen(QPen(theme().weld, 2, Qt::DashLine));
      p.drawRect(place.adjusted(-4, -4, 3, 3));
    }
    if (marked_.count(i)) {
      p.setPen(QPen(QColor(0, 0, 0, 160), 1));
      p.setBrush(theme().weld);
      p.drawEllipse(QPointF(place.right() - 8, place.top() + 9), 5, 5);
    }
    if (!onAxes()) {
      p.setPen(Qt::white);
      const QString words = plan_.axes.size() == 2 ? QString::fromStdString(sheet_words(plan_, i))
                                                   : shownValue(plan_.axes[0].values[static_cast<std::size_t>(i)]);
      p.drawText(QRect(place.left() - 4, place.bottom() + 2, kSide + 8, kAbove - 2), Qt::AlignHCenter | Qt::AlignTop,
                 letters.elidedText(words, Qt::ElideRight, kSide + 8));
    }
  }
  if (!onAxes()) return;
  p.setPen(Qt::white);
  for (int c = 0; c < plan_.columns(); ++c)
    p.drawText(
        QRect(kMargin + kBeside + c * (kSide + kGap) - 4, 0, kSide + 8, kAbove - 2), Qt::AlignHCenter | Qt::AlignBottom,
        letters.elidedText(shownValue(plan_.axes[0].values[static_cast<std::size_t>(c)]), Qt::ElideRight, kSide + 8));
  for (int r = 0; r < plan_.rows(); ++r)
    p.drawText(
        QRect(kMargin, kAbove + r * (kSide + kGap), kBeside - 8, kSide), Qt::AlignLeft | Qt::AlignVCenter,
        letters.elidedText(shownValue(plan_.axes[1].values[static_cast<std::size_t>(r)]), Qt::ElideRight, kBeside - 8));
}

void SheetGrid::mousePressEvent(QMouseEvent* e) {
  const int i = indexAt(e->pos());
  if (i < 0 || e->button() != Qt::LeftButton) return;
  setCurrent(i);
  choose();
}

void SheetGrid::choose() {
  if (current_ < static_cast<int>(pictures_.size()) && !placeOf(current_).isEmpty()) Q_EMIT takeWanted(current_);
}

void SheetGrid::toggleMark(int index) {
  if (!marked_.erase(index)) marked_.insert(index);
  setOnlyMarked(only_);
}

void SheetGrid::throwAway(int index) {
  const auto it = std::lower_bound(shown_.begin(), shown_.end(), index);
  if (it == shown_.end() || shown_.size() < 2) return;
  const int next = it + 1 == shown_.end() ? *(it - 1) : *(it + 1);
  thrown_.insert(index);
  marked_.erase(index);
  setOnlyMarked(only_);
  setCurrent(next);
}

void SheetGrid::keyPressEvent(QKeyEvent* e) {
  const auto it = std::lower_bound(shown_.begin(), shown_.end(), current_);
  if (it == shown_.end()) return QWidget::keyPressEvent(e);
  const int at = static_cast<int>(it - shown_.begin()), last = static_cast<int>(shown_.size()) - 1,
            across = columns(width());
  const auto go = [&](int to) { setCurrent(shown_[static_cast<std::size_t>(std::clamp(to, 0, last))]); };
  switch (e->key()) {
    case Qt::Key_Left:
      return go(at - 1);
    case Qt::Key_Right:
      return go(at + 1);
    case Qt::Key_Up:
      return go(at - across < 0 ? at : at - across);
    case Qt::Key_Down:
      return go(at + across > last ? at : at + across);
    case Qt::Key_Return:
    case Qt::Key_Enter:
      return choose();
    case Qt::Key_Space:
      return toggleMark(current_);
    case Qt::Key_Delete:
      return throwAway(current_);
    default:
      QWidget::keyPressEvent(e);
  }
}

void SheetGrid::contextMenuEvent(QContextMenuEvent* e) {
  const int i = e->reason() == QContextMenuEvent::Keyboard ? current_ : indexAt(e->pos());
  if (i < 0) return;
  setCurrent(i);
  QMenu menu(this);
  menu.addAction(marked_.count(i) ? tr("Take the mark away\tSpace") : tr("Mark as good\tSpace"), this,
                 [this, i] { toggleMark(i); });
  menu.addAction(tr("Throw away\tDel"), this, [this, i] { throwAway(i); });
  menu.addAction(tr("Take it over\tEnter"), this, [this] { choose(); });
  menu.addAction(tr("Keep as a preset …"), this, [this, i] { Q_EMIT keepWanted(i); });
  menu.exec(e->globalPos());
}

bool SheetGrid::event(QEvent* e) {
  if (e->type() == QEvent::ToolTip) {
    const auto* help = static_cast<QHelpEvent*>(e);
    const int i = indexAt(help->pos());
    if (i >= 0) QToolTip::showText(help->globalPos(), QString::fromStdString(sheet_words(plan_, i)), this);
    return true;
  }
  return QWidget::event(e);
}

// ---- with its controls

SheetPanel::SheetPanel(QWidget* parent)
    : QWidget(parent),
      lit_(new QCheckBox(tr("lit"), this)),
      only_(new QCheckBox(tr("marked alone"), this)),
      told_(new QLabel(this)),
      preset_(new QPushButton(tr("Keep as preset …"), this)),
      print_(new QPushButton(tr("Print …"), this)),
      area_(new QScrollArea(this)),
      grid_(new SheetGrid) {
  setAutoFillBackground(true);
  auto* box = new QVBoxLayout(this);
  box->setContentsMargins(0, 6, 0, 0);
  box->setSpacing(4);
  auto* row = new QHBoxLayout;
  row->setContentsMargins(24, 0, 24, 0);
  row->setSpacing(8);
  row->addWidget(titleLabel(tr("Variation sheet"), this));
  across_ = addAxis(row, tr("across"), tr("What runs across"));
  down_ = addAxis(row, tr("down"), tr("What runs down"));
  row->addWidget(lit_);
  row->addWidget(only_);
  setRole(told_, "mute");
  row->addWidget(told_, 1);
  for (auto* b : {preset_, print_}) {
    b->setProperty("word", true);
    row->addWidget(b);
  }
  box->addLayout(row);
  area_->setFrameShape(QFrame::NoFrame);
  area_->setWidgetResizable(true);
  area_->setWidget(grid_);
  box->addWidget(area_, 1);
  later_.setSingleShot(true);
  later_.setInterval(250);
  connect(&later_, &QTimer::timeout, this, &SheetPanel::drawNow);
  connect(lit_, &QCheckBox::toggled, this, &SheetPanel::drawLater);
  connect(only_, &QCheckBox::toggled, grid_, &SheetGrid::setOnlyMarked);
  connect(preset_, &QPushButton::clicked, this, [this] { keepAsPreset(grid_->current()); });
  connect(print_, &QPushButton::clicked, this, &SheetPanel::print);
  connect(grid_, &SheetGrid::takeWanted, this, &SheetPanel::take);
  connect(grid_, &SheetGrid::keepWanted, this, &SheetPanel::keepAsPreset);
  connect(grid_, &SheetGrid::currentChanged, this,
          [this](int index) { area_->ensureVisible(0, grid_->placeOf(index).center().y(), 0, 50); });
  connect(&maker_, &SheetMaker::made, this, [this](int round, int index, const QImage& picture) {
    if (round != round_) return;
    grid_->put(index, picture);
    told_->setText(tr("%1 of %2").arg(++made_).arg(grid_->plan().count()));
  });
  connect(&maker_, &SheetMaker::finished, this, [this](int round, double seconds, const QString& fault) {
    if (round != round_) return;
    waiting_ = false;
    told_->setText(fault.isEmpty() ? tr("%1 drawn in %2 s; a click takes one over").arg(made_).arg(seconds, 0, 'f', 1)
                                   : fault);
  });
}

SheetPanel::AxisControls SheetPanel::addAxis(QHBoxLayout* row, const QString& caption, const QString& name) {
  auto* of = new QComboBox(this);
  auto* values = new QLineEdit(this);
  of->setAccessibleName(name);
  of->setSizeAdjustPolicy(QComboBox::AdjustToContents);
  values->setAccessibleName(tr("%1: its values").arg(name));
  values->setToolTip(tr("From, to and how many, such as 0..1:6; or values with commas between"));
  values->setFixedWidth(96);
  row->addWidget(captionLabel(caption, this));
  row->addWidget(of);
  row->addWidget(values);
  const AxisControls controls{of, values};
  connect(of, &QComboBox::currentIndexChanged, this, [this, controls] {
    if (filling_) return;
    suggest(controls);
    drawLater();
  });
  connect(values, &QLineEdit::editingFinished, this, &SheetPanel::drawLater);
  return controls;
}

// What the axes can run over, with what was chosen kept.
void SheetPanel::fillChoices() {
  filling_ = true;
  stale_ = false;
  const bool first = across_.of->count() == 0;
  for (QComboBox* of : {across_.of, down_.of}) {
    const QString was = of->currentData().toString();
    of->clear();
    if (of == down_.of) of->addItem(tr("nothing"), QString());
    of->addItem(tr("Seed"), QStringLiteral("seed"));
    if (!material_.presets.empty()) of->addItem(tr("Presets"), QStringLiteral("presets"));
    for (const Value& v : material_.values) {
      if (!v.dial) continue;
      const ParameterKind kind = offered_parameter(material_.nodes, catalogue(), v).kind;
      if (kind == ParameterKind::scalar || kind == ParameterKind::integer || kind == ParameterKind::choice ||
          kind == ParameterKind::toggle || kind == ParameterKind::seed)
        of->addItem(QString::fromStdString(v.dial->label), QString::fromStdString(v.id));
    }
    const int at = of->findData(was);
    of->setCurrentIndex(std::max(0, at));
  }
  if (first) suggest(across_), suggest(down_);
  filling_ = false;
}

// What a dial's slider spans, in steps that fill a row.
void SheetPanel::suggest(const AxisControls& axis) {
  const std::string of = axis.of->currentData().toString().toStdString();
  const Value* v = material_.value(of);
  axis.values->setEnabled(!of.empty() && of != "presets");
  if (!v || !v->dial) return axis.values->setText(of == "seed" ? QStringLiteral("1..11") : QString());
  const Parameter p = offered_parameter(material_.nodes, catalogue(), *v);
  if (p.kind == ParameterKind::choice) {
    QStringList words;
    for (const std::string& word : p.options) words << QString::fromStdString(word);
    return axis.values->setText(words.join(QLatin1Char(',')));
  }
  if (p.kind == ParameterKind::toggle) return axis.values->setText(QStringLiteral("0,1"));
  const int count = axis.of == across_.of ? 11 : 3;
  axis.values->setText(QStringLiteral("%1..%2:%3").arg(p.useful.least).arg(p.useful.most).arg(count));
}

void SheetPanel::setAxes(const std::string& across, const QString& values, const std::string& down,
                         const QString& downValues) {
  if (stale_) fillChoices();
  filling_ = true;
  for (const auto& [axis, of, text] : {std::tuple(across_, across, values), {down_, down, downValues}}) {
    axis.of->setCurrentIndex(std::max(0, axis.of->findData(QString::fromStdString(of))));
    suggest(axis);
    if (!text.isEmpty()) axis.values->setText(text);
  }
  filling_ = false;
  drawLater();
}

void SheetPanel::setLit(bool lit) { lit_->setChecked(lit); }

void SheetPanel::showMaterial(const Material& material) {
  material_ = material;
  stale_ = true;
  if (!isVisible()) return;  // nobody looks: nothing is done while dials are turned
  fillChoices();
  drawLater();
}

void SheetPanel::showEvent(QShowEvent* e) {
  QWidget::showEvent(e);
  if (stale_) fillChoices();
  drawLater();
}

void SheetPanel::drawLater() {
  if (filling_ || !isVisible()) return;
  later_.start();
}

std::optional<SheetPlan> SheetPanel::planned() {
  SheetPlan plan;
  plan.size = kMadeAt;
  plan.lit = lit_->isChecked();
  for (const AxisControls& axis : {across_, down_}) {
    const std::string of = axis.of->currentData().toString().toStdString();
    if (of.empty()) continue;
    auto read = axis_from(material_, of == "presets" ? of : of + "=" + axis.values->text().trimmed().toStdString());
    if (!read) {
      told_->setText(QString::fromStdString(read.error().what + ". " + read.error().mend));
      return {};
    }
    plan.axes.push_back(std::move(read).value());
  }
  if (const auto bad = sheet_fault(plan)) {
    told_->setText(QString::fromStdString(bad->what + ". " + bad->mend));
    return {};
  }
  return plan;
}

// Turning what runs along an axis changes nothing on the sheet.
void SheetPanel::drawNow() {
  const auto plan = planned();
  if (!plan) return;
  Material fixed = material_;
  for (const SheetAxis& a : plan->axes) {
    if (a.of == "seed") fixed.seed = 0;
    if (a.of == "presets") fixed = edit::apply_preset(std::move(fixed), Preset{});
    if (fixed.value(a.of)) fixed = edit::set_value(std::move(fixed), a.of, 0.0);
  }
  std::string of = write_material(fixed) + (plan->lit ? "lit" : "flat");
  for (const SheetAxis& a : plan->axes) {
    of += "|" + a.of;
    for (const std::string& value : a.values) of += "," + value;
  }
  if (of == drawn_) return;
  drawn_ = std::move(of);
  grid_->begin(*plan);
  only_->setChecked(false);
  made_ = 0;
  waiting_ = true;
  maker_.ask(material_, *plan, ++round_);
}

void SheetPanel::take(int index) {
  const auto state = sheet_state(material_, catalogue(), grid_->plan(), index);
  if (!state) return Q_EMIT message(QString::fromStdString(state.error().text()));
  grid_->setTaken(index);
  Q_EMIT takeWanted(*state, QString::fromStdString(sheet_words(grid_->plan(), index)));
}

void SheetPanel::keepAsPreset(int index) {
  if (grid_->pictures().empty()) return;
  const auto state = sheet_state(material_, catalogue(), grid_->plan(), index);
  if (!state) return Q_EMIT message(QString::fromStdString(state.error().text()));
  bool good = false;
  const QString name = QInputDialog::getText(this, tr("Keep as a preset"), tr("Name"), QLineEdit::Normal,
                                             QString::fromStdString(sheet_words(grid_->plan(), index)), &good);
  if (good && !name.trimmed().isEmpty()) Q_EMIT presetWanted(*state, name.trimmed());
}

void SheetPanel::print() {
  const QString path =
      QFileDialog::getSaveFileName(this, tr("Print the sheet"), QStringLiteral("sheet.png"), tr("PNG (*.png)"));
  if (!path.isEmpty()) printTo(path);
}

bool SheetPanel::printTo(const QString& path) {
  std::vector<SheetPicture> pictures;
  for (const QImage& picture : grid_->pictures()) {
    SheetPicture rgb;
    const QImage plain = picture.convertToFormat(QImage::Format_RGB888);
    for (int y = 0; y < plain.height(); ++y)
      rgb.insert(rgb.end(), plain.constScanLine(y), plain.constScanLine(y) + 3 * plain.width());
    pictures.push_back(std::move(rgb));
  }
  const auto done = elsewhere([&]() -> Result<Done> {
    const PrintedSheet page = print_sheet(grid_->plan(), pictures);
    const auto png = encode_picture(page.width, page.height, page.pixels);
    return png ? write_file(path.toStdString(), *png) : Result<Done>(png.error());
  });
  Q_EMIT message(done ? tr("Printed: %1").arg(path) : QString::fromStdString(done.error().text()));
  return done.ok();
}

}  // namespace loom::app

#include "moc_sheet_panel.cpp"
