// A material's maps in the coordinates of a mesh: what depends on the shape leaves as maps, too.
#pragma once
#include "core/bolt/delivery.h"
#include "core/surface/mesh_shape.h"

namespace loom {

/// The material with the slots of all parts' hems in its own: what a mesh may wear.
Material with_all_hems(const Material& material);
/// As usual_files, with those that only parts of the mesh wear.
std::vector<FileDelivery> usual_files_on_mesh(const Material& material);

/// As `deliver`, onto a mesh. Every slot is worked out at the places of the mesh that the texels show, seen from
/// straight above and under the key light as the program starts; charts are widened at their borders. Normals are
/// turned into the new coordinates. A mesh without coordinates in which every place lies once gets some, and is written
/// beside the maps as NAME_mesh.obj with its parts. Error   as deliver; a mesh that finds no room.
Result<DeliveryReport> deliver_onto(const Material& material, const Catalogue& catalogue, Weaver& weaver,
                                    const DeliveryPlan& plan, const std::shared_ptr<const MeshShape>& mesh,
                                    const Stop& stop,
                                    const std::function<void(double share, const std::string& what)>& progress = {});

}  // namespace loom
