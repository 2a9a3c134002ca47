// Small lit pictures of materials: for presets, for lists, for the bolt.
#pragma once
#include <cstdint>
#include <memory>
#include <string>
#include <vector>

#include "core/bolt/package.h"
#include "core/surface/measured.h"
#include "core/weave/weaver.h"

namespace loom {

/// Makes them one after the other and keeps what they share. Not shared between threads; each call uses all cores. The
/// same material gives the same bits.
class LitPictures {
 public:
  /// `size` in pixels a side; `budget` in bytes for what is kept between them. `samples` a pixel; with
  /// none they are the drape's first answer, which has no noise.
  explicit LitPictures(int size, std::size_t budget = std::size_t{96} << 20, int samples = 12)
      : size_(size), samples_(samples), weaver_(budget) {}

  /// On the material's mesh, or on a ball: 3 bytes a pixel, sRGB.
  /// Error   a fault in the material, "cancelled"; a hem without slots has no picture.
  Result<std::vector<std::uint8_t>> make(const Material& material, const Stop& stop);

  int size() const { return size_; }
  Weaver& weaver() { return weaver_; }

 private:
  std::shared_ptr<const MeshShape> mesh_of(const Material& material);
  int size_, samples_;
  Weaver weaver_;
  // Of the picture before.
  std::string mesh_name_;
  std::shared_ptr<const FileRoot> mesh_files_;
  std::shared_ptr<const MeshShape> mesh_;
  std::shared_ptr<const MeasuredMesh> measured_;
};

/// The pictures of a bolt: the material with all dials at start, and each of its presets. None where its hem is empty.
///   Error   as LitPictures::make.
Result<Done> add_pictures(Bolt& bolt, const Stop& stop);

}  // namespace loom
