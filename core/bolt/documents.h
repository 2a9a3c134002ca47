// Documents that go with delivered maps: glTF 2.0 and MaterialX 1.39.
#pragma once
#include "core/bolt/delivery.h"
#include "core/io/mesh.h"
#include "core/surface/charts.h"

namespace loom {

/// What a glTF shows the material on: a mesh in the coordinates of its charts; null: one tile, upright, in its own
/// size.
struct ShownOn {
  const Mesh* mesh = nullptr;
  const Charts* charts = nullptr;
};

/// The plan with the files that its documents need and it has not: glTF wants 8-bit PNG in its own packing, with green
/// up. Where it has a file of that name with other contents, theirs ends in `_gltf`.
DeliveryPlan with_document_files(const Material& material, const DeliveryPlan& plan);

/// Writes the documents that the plan asks for beside its maps, adds them to the report, and tells what they could not
/// carry. `material` has the hems of all parts where the maps have.   Error   the disc.
Result<Done> write_documents(const Material& material, const DeliveryPlan& plan, const ShownOn& on,
                             DeliveryReport& report);

/// What a slot is where no thread leads to it: typed, or what it means when it is empty. Nothing where a thread does.
std::optional<std::array<float, 3>> constant_of(const Material& material, const std::string& slot);

/// The delivered file of a name; null where it was left out.
const DeliveredFile* find_file(const DeliveryReport& report, const std::string& name);

// Of each document its own file; as of write_documents.
std::vector<FileDelivery> gltf_files(const Material& material, const DeliveryPlan& plan);
Result<Done> write_gltf(const Material& material, const DeliveryPlan& plan, const ShownOn& on, DeliveryReport& report);
Result<Done> write_materialx(const Material& material, const DeliveryPlan& plan, DeliveryReport& report);

/// Writes the graph as MaterialX nodes beside the maps, if the plan asks for it: what is mathematics of a point as far
/// as the standard has nodes, all else baked to EXR files of floats that the document refers to. What it could not
/// carry is told in the report.   Error   the disc, the memory, or "cancelled".
Result<Done> write_materialx_graph(const Material& material, const FlatGraph& graph, Weaver& weaver,
                                   const DeliveryPlan& plan, const Stop& stop, DeliveryReport& report);

}  // namespace loom
