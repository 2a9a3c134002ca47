#include "app/board/choose_parameters.h"

#include "app/base/tick_list.h"
#include "app/tray/parameter_row.h"

namespace loom::app {
namespace {

// What it holds, in a few words.
QString brief(const Parameter& p, const ParamValue& v) {
  if (const auto* number = std::get_if<double>(&v))
    return numberText(*number, p.unit, p.kind == ParameterKind::integer || p.kind == ParameterKind::seed);
  if (p.kind == ParameterKind::figure) return TickList::tr("a drawing");
  if (const auto* word = std::get_if<std::string>(&v)) return QString::fromStdString(*word);
  if (const auto* formula = std::get_if<Formula>(&v)) return QString::fromStdString(formula->text);
  if (const auto* follow = std::get_if<Follow>(&v))
    return TickList::tr("follows %1").arg(QString::fromStdString(follow->value));
  if (const auto* rule = std::get_if<Rule>(&v)) return TickList::tr("by %1").arg(QString::fromStdString(rule->by));
  if (const auto* stops = std::get_if<Stops>(&v))
    return TickList::tr("%n stops", nullptr, static_cast<int>(stops->size()));
  if (const auto* points = std::get_if<Points>(&v))
    return TickList::tr("%n points", nullptr, static_cast<int>(points->size()));
  if (const auto* strokes = std::get_if<Strokes>(&v))
    return TickList::tr("%n strokes", nullptr, static_cast<int>(strokes->all.size()));
  QStringList parts;
  for (const double x : std::get<Vector>(v)) parts << QString::number(x, 'g', 3);
  return parts.join(QStringLiteral(", "));
}

}  // namespace

std::vector<std::string> choose_parameters(const NodeType& type, const Node& copied, QWidget* parent) {
  std::vector<TickList::Entry> entries;
  std::vector<std::string> ids;
  for (const Parameter& p : type.parameters) {
    const auto held = copied.params.find(p.id);
    if (held == copied.params.end()) continue;
    entries.push_back({QString::fromStdString(p.label) + QStringLiteral("   ") + brief(p, held->second)});
    ids.push_back(p.id);
  }
  TickList list(TickList::tr("Paste chosen parameters"), TickList::tr("paste"), entries, parent);
  std::vector<std::string> chosen;
  if (list.exec() == QDialog::Accepted)
    for (const std::size_t i : list.ticked()) chosen.push_back(ids[i]);
  return chosen;
}

}  // namespace loom::app
