#include "app/fitting/input_field.h"

#include <QFileInfo>
#include <QLocale>

#include "app/base/elsewhere.h"
#include "core/bolt/given_inputs.h"
#include "core/graph/inputs.h"

namespace loom::app {
namespace {

const std::string& textOf(const Node& input, const char* param) {
  static const std::string kNone;
  const auto it = input.params.find(param);
  const auto* text = it == input.params.end() ? nullptr : std::get_if<std::string>(&it->second);
  return text ? *text : kNone;
}

// Plain and grey: what it is, not what it wears.
QImage plainPicture(std::shared_ptr<const MeshShape> mesh) {
  DrapeView view;
  view.mesh = std::move(mesh);
  view.camera = Camera::start(ShapeName::block);
  view.width = view.height = 2 * DropField::kPicture;
  Drape drape(std::make_shared<const SurfaceMaps>(std::map<std::string, Field>{}), view);
  drape.first_answer(1, Stop{});
  const auto bytes = drape.picture();
  return QImage(bytes.data(), view.width, view.height, 3 * view.width, QImage::Format_RGB888).copy();
}

}  // namespace

InputField::InputField(const Node& input, QWidget* parent)
    : DropField(tr("a map for %1").arg(QString::fromStdString(input_of(input).label)),
                tr("Pictures (*.png *.jpg *.jpeg *.tif *.tiff *.exr *.hdr)"), parent),
      id_(input.id) {
  setTakes(can_be_given(input));
  showInput(input, {});
}

void InputField::showInput(const Node& input, const QImage& picture) {
  const GroupPeg peg = input_of(input);
  const bool file = stands_in(peg) == kStandsPicture && !textOf(input, "file").empty();
  setName(QString::fromStdString(peg.label) + (is_required(peg) ? tr(", required") : QString()));
  setToolTip(QString::fromStdString(textOf(input, "help")));
  show(!can_be_given(input) ? tr("by a thread only")
       : file               ? QFileInfo(QString::fromStdString(textOf(input, "file"))).fileName()
                            : tr("no map yet"),
       picture, file);
}

MeshField::MeshField(QWidget* parent) : DropField(tr("a mesh"), tr("Meshes (*.glb *.gltf *.obj *.ply)"), parent) {
  setName(tr("Mesh"));
}

void MeshField::showView(const DrapeView& view, const QString& name, bool brought) {
  const QString shape = QString::fromStdString(shape_names()[static_cast<std::size_t>(view.shape)].second);
  if (std::exchange(shown_, view.mesh) != view.mesh)
    picture_ = view.mesh ? elsewhere([mesh = view.mesh] { return plainPicture(mesh); }) : QImage();
  if (!view.mesh) return show(tr("none, the %1 stands in").arg(shape), {}, false);
  const auto faces = static_cast<qulonglong>(view.mesh->mesh().triangle.size());
  show(tr("%1, %2 faces").arg(name, QLocale().toString(faces)), picture_, !brought);
}

// The control of a use, whatever stands in now; it turns the node's own parameter.
std::optional<RowView> typedRow(const Node& input) {
  GroupPeg peg = input_of(input);
  const std::string stands = stands_in(peg);
  const char* param = typed_parameter(peg);
  if (!param) return {};
  peg.params["stands_in"] = std::string(kStandsTyped);
  const Parameter control = *control_of(peg);
  RowView view{control, control.initial};
  view.parameter.id = param;
  view.parameter.column.clear();
  view.canBeDial = false;
  view.acts = stands == kStandsTyped;
  view.why = stands == kStandsPicture ? QObject::tr("A map comes in.") : QObject::tr("It does without.");
  return view;
}

}  // namespace loom::app

#include "moc_input_field.cpp"
