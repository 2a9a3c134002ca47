#include "app/tray/figure_editor.h"

#include <QComboBox>
#include <QFile>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QSaveFile>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/base/figure_tools.h"
#include "app/base/theme.h"
#include "core/io/figure_shapes.h"

namespace loom::app {
namespace {

class FigureEditor : public ValueEditor {
 public:
  explicit FigureEditor(QWidget* parent) : ValueEditor(parent), told_(new QLabel(this)), fault_(new QLabel(this)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(2);
    auto* first = new QHBoxLayout;
    first->addWidget(told_, 1);
    word(first, tr("from SVG"), tr("Takes the filled shapes of an SVG file over"), [this] { takeOver(); });
    toSvg_ = word(first, tr("to SVG"), tr("Writes the figure as an SVG file"), [this] { write(); });
    clear_ = word(first, tr("clear"), tr("Takes all shapes away"), [this] { send({}); });
    column->addLayout(first);
    auto* second = new QHBoxLayout;
    const std::pair<QString, QString> tools[] = {
        {tr("choose"), tr("Choose, move and bend shapes (1)")},
        {tr("rectangle"), tr("Draw a rectangle from corner to corner (2)")},
        {tr("ellipse"), tr("Draw an ellipse from corner to corner of its box (3)")},
        {tr("polygon"), tr("Draw a polygon corner by corner; its first corner closes it (4)")},
        {tr("curve"), tr("Draw a curve point by point, each dragged to bend it; its first point closes it (5)")}};
    for (std::size_t i = 0; i < std::size(tools); ++i) {
      const auto tool = static_cast<FigureTools::Tool>(i);
      tools_[i] = word(second, tools[i].first, tools[i].second, [tool] { figureTools().setTool(tool); });
      tools_[i]->setCheckable(true);
    }
    second->addStretch(1);
    column->addLayout(second);
    auto* third = new QHBoxLayout;
    cuts_ = word(third, tr("cuts"), tr("The next shape cuts instead of adding (0); for the chosen one, 0 in the loupe"),
                 [] { figureTools().setCuts(!figureTools().cuts()); });
    cuts_->setCheckable(true);
    third->addSpacing(8);
    third->addWidget(new QLabel(tr("grid"), this));
    grid_ = new QComboBox(this);
    grid_->addItem(tr("none"), 0);
    for (const int n : {4, 8, 10, 12, 16, 20, 24, 32, 64}) grid_->addItem(QString::number(n), n);
    grid_->setAccessibleName(tr("Grid that points snap to, parts of the tile"));
    connect(grid_, &QComboBox::activated, this, [this] { figureTools().setGrid(grid_->currentData().toInt()); });
    third->addWidget(grid_);
    third->addStretch(1);
    column->addLayout(third);
    column->addWidget(fault_);
    setRole(fault_, "fault");
    fault_->setWordWrap(true);
    connect(&figureTools(), &FigureTools::changed, this, [this] { showTools(); });
    showTools();
  }
  bool isTall() const override { return true; }
  QWidget* first() override { return tools_[1]; }
  void showView(const RowView& v) override {
    const auto* text = std::get_if<std::string>(&plain(v));
    text_ = text ? *text : std::string();
    const auto shapes = figure_shapes(text_);
    const int n = shapes ? static_cast<int>(shapes->size()) : 0;
    told_->setText(!shapes  ? tr("It cannot be read")
                   : n == 0 ? tr("Draw in the loupe")
                   : n == 1 ? tr("one shape")
                            : tr("%n shapes", nullptr, n));
    clear_->setEnabled(!text_.empty());
    toSvg_->setEnabled(n > 0);
    fault_->setText(v.fault.isEmpty() ? left_ : v.fault);
    fault_->setVisible(!fault_->text().isEmpty());
  }

 private:
  QToolButton* word(QHBoxLayout* line, const QString& text, const QString& does, const std::function<void()>& act) {
    auto* b = new QToolButton(this);
    b->setText(text);
    b->setProperty("word", true);
    b->setAccessibleName(does);
    b->setToolTip(does);
    line->addWidget(b);
    connect(b, &QToolButton::clicked, this, [this, act] {
      act();
      showTools();
    });
    return b;
  }
  void showTools() {
    for (std::size_t i = 0; i < tools_.size(); ++i)
      tools_[i]->setChecked(figureTools().tool() == static_cast<FigureTools::Tool>(i));
    cuts_->setChecked(figureTools().cuts());
    grid_->setCurrentIndex(std::max(0, grid_->findData(figureTools().grid())));
  }
  void send(const FigureShapes& shapes) {
    left_.clear();
    Q_EMIT valueWanted(svg_of(shapes));
    Q_EMIT gestureEnded();
  }
  // Beside what is drawn already; what is not taken over is told under the row.
  void takeOver() {
    const QString name = QFileDialog::getOpenFileName(this, tr("Take shapes over"), {}, tr("SVG drawings (*.svg)"),
                                                      nullptr, QFileDialog::DontUseNativeDialog);
    if (name.isEmpty()) return;
    QFile file(name);
    if (!file.open(QIODevice::ReadOnly) || file.size() > (32 << 20)) return tell(tr("%1 cannot be read").arg(name));
    auto taken = figure_from_svg(file.readAll().toStdString());
    if (!taken) return tell(QString::fromStdString(taken.error().text()));
    auto shapes = figure_shapes(text_);
    FigureShapes all = shapes ? std::move(shapes).value() : FigureShapes{};
    all.insert(all.end(), taken->shapes.begin(), taken->shapes.end());
    QStringList left;
    for (const std::string& what : taken->left_out) left << QString::fromStdString(what);
    send(all);
    if (!left.isEmpty()) tell(tr("Left out: %1").arg(left.join(QStringLiteral("; "))));
  }
  void write() {
    const QString name =
        QFileDialog::getSaveFileName(this, tr("Write the figure"), QStringLiteral("figure.svg"),
                                     tr("SVG drawings (*.svg)"), nullptr, QFileDialog::DontUseNativeDialog);
    if (name.isEmpty()) return;
    QSaveFile file(name);
    if (!file.open(QIODevice::WriteOnly) || file.write(QByteArray::fromStdString(text_)) < 0 || !file.commit())
      tell(tr("%1 cannot be written: %2").arg(name, file.errorString()));
  }
  void tell(const QString& what) {
    left_ = what;
    fault_->setText(what);
    fault_->setVisible(true);
  }

  std::string text_;
  QString left_;  // what a drawing held that is not taken over
  QLabel *told_, *fault_;
  QToolButton *clear_, *toSvg_, *cuts_;
  std::array<QToolButton*, 5> tools_{};
  QComboBox* grid_;
};

}  // namespace

ValueEditor* makeFigureEditor(QWidget* parent) { return new FigureEditor(parent); }

}  // namespace loom::app
