#include "app/shell/volume_moving.h"

#include "app/drape/drape_panel.h"
#include "app/shell/navigation.h"
#include "core/graph/edit.h"
#include "core/nodes/catalogue.h"

namespace loom::app {
namespace {

// Its measures in the order in which measuresOf() has them.
constexpr const char* kMeasures[] = {"centre_x", "centre_y", "centre_z", "size_x", "size_y", "size_z", "turn"};
using Measures = std::array<float, std::size(kMeasures)>;

Measures measuresOf(const Volume& v) {
  return {v.centre.x, v.centre.y, v.centre.z, v.size.x, v.size.y, v.size.z, v.turn};
}

// None where there is no volume in the shape's own space, or a formula says how large it is.
std::optional<Volume> volumeOf(const Material& m, const std::string& node) {
  const Node* n = m.node(node);
  if (!n || n->type != "volume_mask" || m.into(node, "positions")) return {};
  const NodeType& type = *catalogue().find(n->type);
  Measures now;
  for (std::size_t i = 0; i < now.size(); ++i) {
    const ParamValue* const v = plain_value(m, *n, kMeasures[i], type.parameter(kMeasures[i])->initial);
    const auto* number = v ? std::get_if<double>(v) : nullptr;
    if (!number) return {};
    now[i] = static_cast<float>(*number);
  }
  Volume v{.centre = {now[0], now[1], now[2]}, .size = {now[3], now[4], now[5]}, .turn = now[6]};
  const ParamValue* const form = plain_value(m, *n, "form", type.parameter("form")->initial);
  const auto* word = form ? std::get_if<std::string>(form) : nullptr;
  // A closed mesh stands in a box of its size.
  if (word && (*word == "box" || *word == "closed_mesh")) v.form = Volume::Form::box;
  if (word && *word == "wedge") v.form = Volume::Form::wedge;
  v.turns = v.form != Volume::Form::ball || v.size.x != v.size.z;
  return v;
}

}  // namespace

VolumeMoving::VolumeMoving(Navigation& navigation, DrapePanel& drape, QObject* parent)
    : QObject(parent), navigation_(navigation), drape_(drape) {
  connect(&drape.volumeHandles(), &VolumeHandles::dragged, this, &VolumeMoving::move);
  connect(&drape.volumeHandles(), &VolumeHandles::ended, this, &VolumeMoving::gestureEnded);
}

void VolumeMoving::show(const std::string& node) {
  node_ = node;
  volume_ = volumeOf(navigation_.shown(), node);
  drape_.showVolume(volume_);
}

// What changed alone is set, all of it in one step back; what follows a dial turns the dial.
void VolumeMoving::move(const Volume& to) {
  const Node* n = navigation_.shown().node(node_);
  if (!n || !volume_) return;
  const Measures before = measuresOf(*volume_), now = measuresOf(to);
  Material next = navigation_.shown();
  for (std::size_t i = 0; i < now.size(); ++i) {
    if (now[i] == before[i]) continue;
    const double number = std::round(static_cast<double>(now[i]) * 1e6) / 1e6;
    const Follow* const follow = followed(*n, kMeasures[i]);
    next = follow ? edit::set_value(std::move(next), follow->value, number)
                  : edit::set_param(std::move(next), node_, kMeasures[i], number);
  }
  navigation_.edit(tr("Move the volume"), next, QString::fromStdString(node_ + ".volume"));
  show(node_);
}

}  // namespace loom::app

#include "moc_volume_moving.cpp"
