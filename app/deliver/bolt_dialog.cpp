// Edits go out as whole materials; the dialogue shows what comes back.
#include "app/deliver/bolt_dialog.h"

#include <QComboBox>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QStackedWidget>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/base/labels.h"
#include "app/base/notes_view.h"
#include "core/graph/edit.h"
#include "core/nodes/catalogue.h"

namespace loom::app {
namespace {

// Some that are usual for pictures and data, by their SPDX identifiers. Any other expression can be typed.
constexpr const char* kLicences[] = {
    "", "CC0-1.0", "CC-BY-4.0", "CC-BY-SA-4.0", "CC-BY-NC-4.0", "MIT", "LicenseRef-house-only"};

QString counted(int n, const QString& one, const QString& many) {
  return QStringLiteral("%1 %2").arg(n).arg(n == 1 ? one : many);
}

}  // namespace

BoltDialog::BoltDialog(QWidget* parent) : QDialog(parent) {
  setWindowTitle(tr("Bolt (package)"));
  resize(820, 560);
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(24, 18, 24, 18);
  all->setSpacing(12);
  auto* columns = new QHBoxLayout;
  columns->setSpacing(28);
  all->addLayout(columns, 1);
  auto* left = new QVBoxLayout;
  auto* right = new QVBoxLayout;
  columns->addLayout(left, 2);
  columns->addLayout(right, 1);
  addFields(left);
  left->addSpacing(6);
  addNotes(left);
  addContents(right);

  auto* below = new QHBoxLayout;
  fault_ = new QLabel(this);
  fault_->setWordWrap(true);
  setRole(fault_, "fault");
  write_ = new QPushButton(this);
  write_->setProperty("main", true);
  below->addWidget(fault_, 1);
  below->addWidget(write_);
  all->addLayout(below);

  connect(write_, &QPushButton::clicked, this, [this] {
    send();
    if (fault_->text().isEmpty()) Q_EMIT writeWanted();
  });
  connect(&pictures_, &PictureMaker::made, this,
          [this](int, const QImage& picture) { picture_->setPixmap(QPixmap::fromImage(picture)); });
  seeNotes(false);
}

void BoltDialog::addFields(QVBoxLayout* into) {
  into->addWidget(titleLabel(tr("What the bolt says of itself"), this));
  id_ = new QLineEdit(this);
  version_ = new QLineEdit(this);
  tags_ = new QLineEdit(this);
  licence_ = new QComboBox(this);
  id_->setAccessibleName(tr("Identifier"));
  version_->setAccessibleName(tr("Version"));
  tags_->setAccessibleName(tr("Tags"));
  tags_->setPlaceholderText(tr("words to find it by, separated by commas"));
  licence_->setAccessibleName(tr("Licence"));
  licence_->setEditable(true);
  licence_->lineEdit()->setAccessibleName(tr("Licence"));
  for (const char* licence : kLicences) licence_->addItem(QString::fromLatin1(licence));
  licence_->lineEdit()->setPlaceholderText(tr("none is given"));
  auto* form = new QFormLayout;
  form->setSpacing(9);
  form->addRow(tr("Identifier"), id_);
  form->addRow(tr("Version"), version_);
  form->addRow(tr("Tags"), tags_);
  form->addRow(tr("Licence"), licence_);
  into->addLayout(form);
  for (QLineEdit* field : {id_, version_, tags_, licence_->lineEdit()})
    connect(field, &QLineEdit::editingFinished, this, &BoltDialog::send);
  connect(licence_, &QComboBox::activated, this, &BoltDialog::send);
}

void BoltDialog::addNotes(QVBoxLayout* into) {
  const auto word = [this](const QString& text) {
    auto* b = new QToolButton(this);
    b->setText(text);
    b->setCheckable(true);
    b->setProperty("word", true);
    return b;
  };
  auto* head = new QHBoxLayout;
  head->addWidget(titleLabel(tr("Notes"), this), 1);
  head->addWidget(writing_ = word(tr("write")));
  head->addWidget(seeing_ = word(tr("as they will be read")));
  into->addLayout(head);
  pages_ = new QStackedWidget(this);
  notes_ = new QPlainTextEdit(this);
  notes_->setAccessibleName(tr("Notes in Markdown"));
  notes_->setPlaceholderText(tr("For whoever uses it, in Markdown: # heads, *emphasis*, - lists"));
  rendered_ = new NotesView(this);
  pages_->addWidget(notes_);
  pages_->addWidget(rendered_);
  into->addWidget(pages_, 1);
  connect(notes_, &QPlainTextEdit::textChanged, this, &BoltDialog::send);
  connect(writing_, &QToolButton::clicked, this, [this] { seeNotes(false); });
  connect(seeing_, &QToolButton::clicked, this, [this] { seeNotes(true); });
}

void BoltDialog::addContents(QVBoxLayout* into) {
  into->addWidget(titleLabel(tr("What it packs"), this));
  picture_ = new QLabel(this);
  picture_->setFixedSize(176, 176);
  picture_->setAccessibleName(tr("The bolt's picture"));
  contents_ = new QLabel(this);
  contents_->setWordWrap(true);
  contents_->setAlignment(Qt::AlignTop);
  into->addWidget(picture_);
  into->addWidget(contents_);
  into->addStretch(1);
}

void BoltDialog::seeNotes(bool rendered) {
  if (rendered) rendered_->showNotes(notes_->toPlainText());
  pages_->setCurrentIndex(rendered ? 1 : 0);
  writing_->setChecked(!rendered);
  seeing_->setChecked(rendered);
}

void BoltDialog::showMaterial(const Material& material) {
  const bool another = material.nodes != material_.nodes || material.values.size() != material_.values.size();
  material_ = material;
  const Imprint& imprint = material.imprint;
  filling_ = true;
  id_->setText(QString::fromStdString(imprint.id));
  id_->setPlaceholderText(QString::fromStdString(id_of_name(material.name)));
  version_->setText(QString::fromStdString(imprint.version));
  QStringList tags;
  for (const std::string& tag : imprint.tags) tags << QString::fromStdString(tag);
  tags_->setText(tags.join(QStringLiteral(", ")));
  licence_->setEditText(QString::fromStdString(imprint.licence));
  if (notes_->toPlainText().toStdString() != material.notes)
    notes_->setPlainText(QString::fromStdString(material.notes));
  filling_ = false;
  write_->setText(tr("Write bolt %1 …").arg(version_->text()));
  showFault({});
  showContents();
  if (another) pictures_.order({{0, edit::apply_preset(material, Preset{}), {}}});
}

void BoltDialog::showContents() {
  const auto dials = std::count_if(material_.values.begin(), material_.values.end(),
                                   [](const Value& v) { return v.dial.has_value(); });
  QStringList lines{
      counted(static_cast<int>(material_.nodes.size()), tr("node"), tr("nodes")),
      counted(static_cast<int>(dials), tr("dial"), tr("dials")),
      counted(static_cast<int>(material_.presets.size()), tr("preset"), tr("presets")) + tr(", each with its picture"),
      tr("a tile of %1 m").arg(material_.tile_metres)};
  const auto files = edit::file_names(material_, catalogue());
  for (const std::string& name : files) lines << tr("file %1").arg(QString::fromStdString(name));
  contents_->setText(lines.join(QLatin1Char('\n')));
}

void BoltDialog::showFault(const QString& text) {
  fault_->setText(text);
  write_->setEnabled(text.isEmpty());
}

void BoltDialog::send() {
  if (filling_) return;
  Material next = material_;
  next.imprint.id = id_->text().trimmed().toStdString();
  next.imprint.version = version_->text().trimmed().toStdString();
  next.imprint.licence = licence_->currentText().trimmed().toStdString();
  next.imprint.tags.clear();
  for (const QString& tag : tags_->text().split(QLatin1Char(','), Qt::SkipEmptyParts))
    if (!tag.trimmed().isEmpty()) next.imprint.tags.push_back(tag.trimmed().toStdString());
  next.notes = notes_->toPlainText().toStdString();
  if (const auto bad = imprint_fault(next.imprint)) return showFault(QString::fromStdString(bad->text()));
  showFault({});
  if (next.imprint == material_.imprint && next.notes == material_.notes) return;
  const bool notes = next.imprint == material_.imprint;
  if (notes)
    Q_EMIT editWanted(tr("Notes"), next, QStringLiteral("notes"));
  else
    Q_EMIT editWanted(tr("What the bolt says of itself"), next, {});
}

}  // namespace loom::app

#include "moc_bolt_dialog.cpp"
