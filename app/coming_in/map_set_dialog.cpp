#include "app/coming_in/map_set_dialog.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QtConcurrentRun>
#include <algorithm>

#include "app/base/labels.h"
#include "app/base/take_or_leave.h"
#include "app/engine/small_picture.h"
#include "core/graph/imprint.h"
#include "core/nodes/catalogue.h"

namespace loom::app {
namespace {

constexpr int kPreview = 256, kThumb = 36, kChannels = 4;
enum Column { kPicture, kTold, kSlot, kChannel, kWay, kMore };

QComboBox* choiceOf(const QStringList& entries, const QString& name, QWidget* parent) {
  auto* box = new QComboBox(parent);
  box->addItems(entries);
  box->setAccessibleName(name);
  return box;
}

bool isNormal(const ImportedMap& map) { return map.slot == "normal"; }

}  // namespace

MapSetDialog::MapSetDialog(const ImportPlan& plan, const MapSetBoard& board, QWidget* parent)
    : QDialog(parent), name_(plan.name), board_(board), maker_(kPreview) {
  setWindowTitle(tr("A set of maps"));
  resize(1120, 560);
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(24, 18, 24, 18);
  all->setSpacing(12);
  auto* head = new QHBoxLayout;
  head->addWidget(titleLabel(tr("A set of maps comes in"), this));
  head->addStretch(1);
  head->addWidget(captionLabel(tr("name"), this));
  nameLine_ = new QLineEdit(QString::fromStdString(plan.name), this);
  nameLine_->setAccessibleName(tr("Name of the set"));
  nameLine_->setFixedWidth(220);
  head->addWidget(nameLine_);
  all->addLayout(head);

  auto* middle = new QHBoxLayout;
  middle->setSpacing(18);
  auto* scroll = new QScrollArea(this);
  scroll->setWidgetResizable(true);
  scroll->setFrameShape(QFrame::NoFrame);
  auto* table = new QWidget(scroll);
  grid_ = new QGridLayout(table);
  grid_->setContentsMargins(0, 0, 8, 0);
  grid_->setHorizontalSpacing(10);
  grid_->setVerticalSpacing(6);
  grid_->setColumnStretch(kTold, 1);
  scroll->setWidget(table);
  middle->addWidget(scroll, 1);
  auto* look = new QVBoxLayout;
  preview_ = new QLabel(this);
  preview_->setFixedSize(kPreview, kPreview);
  preview_->setAlignment(Qt::AlignCenter);
  preview_->setAccessibleName(tr("What the set looks like"));
  preview_->setStyleSheet(QStringLiteral("background: %1;").arg(theme().picture.name()));
  look->addWidget(preview_);
  note_ = new QLabel(this);
  note_->setWordWrap(true);
  note_->setFixedWidth(kPreview);
  setRole(note_, "mute");
  look->addWidget(note_);
  look->addStretch(1);
  middle->addLayout(look);
  all->addLayout(middle, 1);
  all->addWidget(destination());
  auto* buttons = takeOrLeave(tr("bring in"), this);
  take_ = buttons->button(QDialogButtonBox::Ok);
  all->addWidget(buttons);

  connect(&maker_, &PictureMaker::made, this, [this](int id, const QImage& picture) {
    if (id == asked_) preview_->setPixmap(QPixmap::fromImage(picture));
  });
  for (const ImportedMap& map : plan.maps) addRow(map, rows_.size());
  for (const auto& [file, why] : plan.left_out)
    if (is_picture_file(file)) {
      ImportedMap map{file, {}};
      map.told = why;
      addRow(map, rows_.size());
    }
  readPictures();
  renew();
}

MapSetDialog::~MapSetDialog() { hearer_.leave(); }

QWidget* MapSetDialog::destination() {
  auto* holder = new QWidget(this);
  auto* row = new QHBoxLayout(holder);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(10);
  row->addWidget(captionLabel(tr("goes to"), holder));
  where_ = choiceOf({}, tr("Where the set goes"), holder);
  if (board_.has_hem) where_->addItem(tr("the hem"), int(BringIn::To::hem));
  where_->addItem(tr("a cord"), int(BringIn::To::cord));
  if (!board_.sets.isEmpty()) where_->addItem(tr("the place of another set"), -1);
  row->addWidget(where_);
  set_ = choiceOf(board_.sets, tr("The set that it takes the place of"), holder);
  row->addWidget(set_);
  transform_ = new QCheckBox(tr("through one Transform, which moves all of them"), holder);
  row->addWidget(transform_);
  row->addStretch(1);
  copy_ = new QCheckBox(tr("copy the files into %1").arg(board_.copies_to), holder);
  copy_->setChecked(true);
  copy_->setVisible(!board_.copies_to.isEmpty());
  row->addWidget(copy_);
  auto* why = captionLabel(board_.why_no_copies, holder);
  why->setVisible(!board_.why_no_copies.isEmpty());
  row->addWidget(why);
  // What stands in the hem is not thrown out unless it is asked for.
  if (!board_.filled.isEmpty() && where_->count() > 1)
    where_->setCurrentIndex(board_.sets.isEmpty() ? 1 : where_->count() - 1);
  connect(where_, &QComboBox::currentIndexChanged, this, [this] { renew(); });
  return holder;
}

void MapSetDialog::addRow(const ImportedMap& map, std::size_t at) {
  auto made = std::make_unique<Row>();
  Row* row = made.get();
  row->map = map;
  QWidget* table = grid_->parentWidget();
  const QString file = QString::fromStdString(map.file.filename().string());
  row->picture = new QLabel(table);
  row->picture->setFixedSize(kThumb, kThumb);
  row->picture->setToolTip(file);
  if (const auto known = pictures_.find(map.file); known != pictures_.end())
    row->picture->setPixmap(QPixmap::fromImage(known->second));
  row->slot = choiceOf({tr("not used")}, tr("What %1 is").arg(file), table);
  for (const Slot& s : hem_slots())
    row->slot->addItem(QString::fromUtf8(s.label.data(), qsizetype(s.label.size())),
                       QString::fromUtf8(s.id.data(), qsizetype(s.id.size())));
  row->channel = choiceOf({tr("all of it"), tr("red"), tr("green"), tr("blue"), tr("alpha")},
                          tr("Which channel of %1").arg(file), table);
  row->inverted = new QCheckBox(tr("turned about"), table);
  row->inverted->setToolTip(tr("Gloss for roughness, transparency for opacity: one minus the value"));
  row->green = choiceOf({tr("green up"), tr("green down")}, tr("Which way green looks in %1").arg(file), table);
  row->told = new QLabel(table);
  row->told->setWordWrap(true);
  row->more = new QPushButton(tr("another channel"), table);
  row->more->setProperty("word", true);
  row->more->setToolTip(tr("For a file that packs several maps"));
  for (QComboBox* box : {row->slot, row->channel, row->green})
    connect(box, &QComboBox::activated, this, [this, row] { corrected(row); });
  connect(row->inverted, &QCheckBox::clicked, this, [this, row] { corrected(row); });
  connect(row->more, &QPushButton::clicked, this, [this, row] {
    const auto here = std::find_if(rows_.begin(), rows_.end(), [&](const auto& r) { return r.get() == row; });
    ImportedMap next{row->map.file, {}, std::clamp(row->map.channel + 1, 0, kChannels - 1)};
    next.told = tr("by hand").toStdString();
    addRow(next, static_cast<std::size_t>(here - rows_.begin()) + 1);
    renew();
  });
  rows_.insert(rows_.begin() + static_cast<std::ptrdiff_t>(at), std::move(made));
  for (std::size_t i = at; i < rows_.size(); ++i) placeRow(i);
}

void MapSetDialog::placeRow(std::size_t at) {
  const Row& row = *rows_[at];
  const int line = static_cast<int>(at);
  QWidget* const widgets[] = {row.picture, row.told, row.slot, row.channel, row.inverted, row.more};
  for (int column = kPicture; column <= kMore; ++column) grid_->addWidget(widgets[column], line, column);
  grid_->addWidget(row.green, line, kWay);  // of normals, which are not turned about
  grid_->setRowStretch(line, 0);
  grid_->setRowStretch(line + 1, 1);
}

// The hand's word counts; which way green looks is measured where a map is said to be normals.
void MapSetDialog::corrected(Row* row) {
  const bool wasNormal = isNormal(row->map);
  row->map.slot = row->slot->currentData().toString().toStdString();
  row->map.channel = row->channel->currentIndex() - 1;
  row->map.inverted = row->inverted->isChecked();
  row->map.green_down = row->green->currentIndex() == 1;
  row->map.sure = 1;
  row->map.told = tr("by hand").toStdString();
  if (isNormal(row->map) && !wasNormal) {
    row->map.channel = -1;
    row->map.inverted = false;
    ++measuring_;
    (void)QtConcurrent::run([hearer = hearer_, this, row, map = row->map]() mutable {
      const bool read = measure_green(map).ok();
      hearer.tell([this, row, map, read] {
        --measuring_;
        if (read) measured(row, map);
      });
    });
  }
  renew();
}

void MapSetDialog::measured(Row* row, const ImportedMap& map) {
  if (!isNormal(row->map)) return;
  row->map = map;
  renew();
}

bool MapSetDialog::counts(const Row& row) const {
  if (row.map.slot.empty()) return false;
  for (const auto& other : rows_) {
    if (other.get() == &row) return true;
    if (other->map.slot == row.map.slot) return false;
  }
  return true;
}

QString MapSetDialog::toldOf(const Row& row) const {
  const QString file = QString::fromStdString(row.map.file.filename().string());
  const QString why = !row.map.slot.empty() && !counts(row) ? tr("another row is that already: not used")
                                                            : QString::fromStdString(row.map.told);
  return QStringLiteral("<b>%1</b><br>%2").arg(file.toHtmlEscaped(), why.toHtmlEscaped());
}

void MapSetDialog::showRow(Row& row) {
  const ImportedMap& map = row.map;
  row.slot->setCurrentIndex(std::max(0, row.slot->findData(QString::fromStdString(map.slot))));
  row.channel->setCurrentIndex(map.channel + 1);
  row.inverted->setChecked(map.inverted);
  row.green->setCurrentIndex(map.green_down ? 1 : 0);
  const bool used = !map.slot.empty();
  row.channel->setVisible(used && !isNormal(map));
  row.inverted->setVisible(used && !isNormal(map));
  row.green->setVisible(used && isNormal(map));
  row.more->setVisible(used && !isNormal(map));
  setRole(row.told, used && (!counts(row) || map.sure < 0.6) ? "caution" : "");
  row.told->setText(toldOf(row));
}

void MapSetDialog::renew() {
  for (const auto& row : rows_) showRow(*row);
  const bool exchange = inPlaceOf() >= 0;
  set_->setVisible(exchange);
  transform_->setVisible(!exchange);
  const ImportPlan wanted = plan();
  take_->setEnabled(!wanted.maps.empty());
  QStringList replaced;
  if (how().to == BringIn::To::hem && !exchange)
    for (const ImportedMap& map : wanted.maps)
      if (board_.filled.contains(QString::fromStdString(map.slot)))
        replaced << QString::fromUtf8(known_slot(map.slot)->label.data(),
                                      qsizetype(known_slot(map.slot)->label.size()));
  note_->setText(wanted.maps.empty() ? tr("No file is used yet: say beside one what it is.")
                 : replaced.isEmpty()
                     ? QString()
                     : tr("Takes the place of what the hem has for %1.").arg(replaced.join(QStringLiteral(", "))));
  ++asked_;
  if (wanted.maps.empty()) {
    preview_->setPixmap({});
    maker_.order({});
  } else {
    maker_.order({{asked_, imported(wanted, catalogue(), [](const auto& file) { return file.string(); }), {}}});
  }
}

void MapSetDialog::readPictures() {
  std::vector<std::filesystem::path> files;
  for (const auto& row : rows_)
    if (std::find(files.begin(), files.end(), row->map.file) == files.end()) files.push_back(row->map.file);
  (void)QtConcurrent::run([hearer = hearer_, this, files] {
    for (const auto& file : files)
      hearer.tell([this, file, picture = smallPictureOf(file, kThumb)] {
        pictures_[file] = picture;
        for (const auto& row : rows_)
          if (row->map.file == file) row->picture->setPixmap(QPixmap::fromImage(picture));
      });
  });
}

ImportPlan MapSetDialog::plan() const {
  ImportPlan plan;
  const std::string typed = nameLine_->text().trimmed().toStdString();
  plan.name = typed.empty() ? name_ : typed;
  for (const auto& row : rows_)
    if (counts(*row)) plan.maps.push_back(row->map);
  return plan;
}

BringIn MapSetDialog::how() const {
  const int to = where_->currentData().toInt();
  return {to < 0 ? BringIn::To::hem : static_cast<BringIn::To>(to), transform_->isChecked()};
}
int MapSetDialog::inPlaceOf() const { return where_->currentData().toInt() < 0 ? set_->currentIndex() : -1; }
bool MapSetDialog::copies() const { return !board_.copies_to.isEmpty() && copy_->isChecked(); }
bool MapSetDialog::isIdle() const { return measuring_ == 0 && maker_.isIdle(); }

}  // namespace loom::app

#include "moc_map_set_dialog.cpp"
