#include "app/shell/figure_drawing.h"

#include "app/loupe/loupe.h"
#include "app/shell/navigation.h"
#include "core/graph/edit.h"
#include "core/graph/reading.h"
#include "core/nodes/catalogue.h"

namespace loom::app {
namespace {

const Parameter* figureOf(const NodeType& type) {
  for (const Parameter& p : type.parameters)
    if (p.kind == ParameterKind::figure) return &p;
  return nullptr;
}

}  // namespace

FigureDrawing::FigureDrawing(Navigation& navigation, Loupe& loupe, QObject* parent)
    : QObject(parent), navigation_(navigation), loupe_(loupe) {
  connect(&loupe.pen(), &FigurePen::drawn, this, &FigureDrawing::draw);
  connect(&loupe.pen(), &FigurePen::gestureEnded, this, &FigureDrawing::gestureEnded);
  connect(&loupe.pen(), &FigurePen::renewed, &loupe, qOverload<>(&QWidget::update));
}

void FigureDrawing::show(const std::string& node) {
  const Node* n = navigation_.shown().node(node);
  const NodeType* type = n ? catalogue().find(n->type) : nullptr;
  const Parameter* p = type ? figureOf(*type) : nullptr;
  if (!p) {
    node_.clear(), text_.clear();
    return loupe_.pen().show({});
  }
  const ParamValue* value = plain_value(navigation_.shown(), *n, p->id, p->initial);
  const auto* text = value ? std::get_if<std::string>(value) : nullptr;
  if (node_ == node && text && *text == text_) return;
  node_ = node, parameter_ = p->id, text_ = text ? *text : std::string();
  const auto shapes = figure_shapes(text_);
  // One that cannot be read is told at its node, and left alone.
  loupe_.pen().show(text && shapes ? std::optional(*shapes) : std::nullopt);
}

void FigureDrawing::draw(const FigureShapes& shapes, const QString& what) {
  if (node_.empty()) return;
  text_ = svg_of(shapes);
  navigation_.edit(what, edit::set_param(navigation_.shown(), node_, parameter_, text_),
                   QStringLiteral("figure ") + QString::fromStdString(node_));
}

}  // namespace loom::app

#include "moc_figure_drawing.cpp"
