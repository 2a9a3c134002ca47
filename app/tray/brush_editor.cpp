// The brush's own parameters are rows like any others, but what they hold is the program's.
#include "app/tray/brush_editor.h"

#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/base/brush.h"
#include "app/base/theme.h"

namespace loom::app {
namespace {

class BrushEditor : public ValueEditor {
 public:
  explicit BrushEditor(QWidget* parent) : ValueEditor(parent), told_(new QLabel(this)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(2);
    auto* line = new QHBoxLayout;
    line->addWidget(told_, 1);
    const auto word = [&](const QString& text, const QString& does, const std::function<void(Strokes&)>& change) {
      auto* b = new QPushButton(text, this);
      b->setProperty("word", true);
      b->setAccessibleName(does);
      b->setToolTip(does);
      line->addWidget(b);
      connect(b, &QPushButton::clicked, this, [this, change] {
        Strokes next = strokes_;
        if (next.all.empty()) return;
        change(next);
        next.all.empty() ? Q_EMIT resetWanted() : Q_EMIT valueWanted(next);
        Q_EMIT gestureEnded();
      });
    };
    word(tr("take one back"), tr("Takes the last stroke back"), [](Strokes& s) { s.all.pop_back(); });
    word(tr("clear"), tr("Takes all strokes back"), [](Strokes& s) { s.all.clear(); });
    column->addLayout(line);
    Brush& b = brush();
    number(scalar("radius", "Radius", 0.03).share_of_tile().useful(0.002, 0.2).limits(0.0001, 1), b.radius);
    number(scalar("softness", "Softness", 0.5).share(), b.softness);
    number(scalar("strength", "Strength", 1.0).share(), b.strength);
    number_ = number(scalar("number", "Value", 1.0).useful(0, 1).limits(-1e6, 1e6), b.number);
    colour_ = row(
        loom::colour("colour", "Colour", {0.6, 0.2, 0.05}).limits(0, 1000), [] { return brush().colour; },
        [](const ParamValue& v) {
          if (const auto* c = std::get_if<Vector>(&v)) brush().colour = *c;
        });
    row(
        toggle("erase", "Eraser"), [] { return brush().erase ? 1.0 : 0.0; },
        [](const ParamValue& v) {
          if (const auto* on = std::get_if<double>(&v)) brush().erase = *on != 0;
        });
  }
  bool isTall() const override { return true; }
  void showView(const RowView& v) override {
    const auto* held = std::get_if<Strokes>(&v.value);
    strokes_ = held ? *held : Strokes{};
    told_->setText(strokes_.all.empty()       ? tr("Draw in the loupe, or on the drape")
                   : strokes_.all.size() == 1 ? tr("one stroke")
                                              : tr("%n strokes", nullptr, static_cast<int>(strokes_.all.size())));
    number_->setVisible(v.beside == QStringLiteral("value"));
    colour_->setVisible(v.beside == QStringLiteral("colour"));
    for (const auto& renew : renew_) renew();
  }

 private:
  ParameterRow* row(const Parameter& p, const std::function<ParamValue()>& get,
                    const std::function<void(const ParamValue&)>& set) {
    const auto view = [p, get] {
      RowView v{p, get()};
      v.canBeDial = false;
      return v;
    };
    auto* made = new ParameterRow(view(), this);
    renew_.push_back([made, view] { made->showView(view()); });
    connect(made, &ParameterRow::valueWanted, this, [made, view, set](const ParamValue& value) {
      set(value);
      made->showView(view());
    });
    connect(made, &ParameterRow::resetWanted, this, [made, view, set, p] {
      set(p.initial);
      made->showView(view());
    });
    layout()->addWidget(made);
    return made;
  }
  ParameterRow* number(const Parameter& p, double& of) {
    return row(
        p, [&of] { return of; },
        [&of, p](const ParamValue& v) {
          if (const auto* n = std::get_if<double>(&v)) of = std::clamp(*n, p.limits.least, p.limits.most);
        });
  }

  Strokes strokes_;
  QLabel* told_;
  ParameterRow *number_, *colour_;
  std::vector<std::function<void()>> renew_;
};

}  // namespace

ValueEditor* makeBrushEditor(QWidget* parent) { return new BrushEditor(parent); }

}  // namespace loom::app
