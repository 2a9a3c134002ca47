// Variation sheets: many small results of one material, over seeds, dials or presets.
#pragma once
#include <cstdint>
#include <functional>

#include "core/base/stop.h"
#include "core/graph/material.h"
#include "core/graph/node_type.h"
#include "core/weave/weaver.h"

namespace loom {

/// One axis: what is set to each of its values.
struct SheetAxis {
  std::string of;                   ///< "seed", "presets", or a dial's identifier
  std::string label;                ///< as it is written beside the values
  std::vector<std::string> values;  ///< as with_dial takes them; of presets their names
};

/// `seed=1..64`, `DIAL=A..B:N` (N values evenly spaced, both ends among them), `DIAL=a,b,c` or `presets`; a dial by its
/// identifier or its label. Limits   1024 values.   Error   what it is not, with the dials that there are; a value that
/// its dial does not take.
Result<SheetAxis> axis_from(const Material& material, std::string_view text);

/// Up to two axes: the first runs across, the second down. One alone is broken into rows.
struct SheetPlan {
  std::vector<SheetAxis> axes;
  int size = 128;    ///< of a picture, in pixels
  bool lit = false;  ///< else the base colour, or the first slot that there is, seen flat
  int count() const;
  int columns() const;
  int rows() const { return (count() + columns() - 1) / columns(); }
};
/// Limits   4096 pictures.   Error   too many, or none.
std::optional<Error> sheet_fault(const SheetPlan& plan);

/// The material of one picture, counted along the rows.   Error   as with_dial.
Result<Material> sheet_state(const Material& material, const Catalogue& catalogue, const SheetPlan& plan, int index);
/// One value in short: numbers in three digits; "as made" of no preset.
std::string sheet_value(const std::string& value);
/// What a picture stands for, "Wear 0.4, Salt 0.1".
std::string sheet_words(const SheetPlan& plan, int index);

/// 3 bytes a pixel, sRGB.
using SheetPicture = std::vector<std::uint8_t>;
/// Draws all that are wanted, several at once; `made` is called from any thread, in no order but nearly row by row.
/// Error   the first fault of a state; cancelled.
Result<Done> draw_sheet(const Material& material, const Catalogue& catalogue, const SheetPlan& plan,
                        const std::vector<int>& wanted, const std::function<void(int index, SheetPicture)>& made,
                        const Stop& stop);

/// The sheet as one picture with the values on its axes.
struct PrintedSheet {
  int width = 0, height = 0;
  SheetPicture pixels;
};
PrintedSheet print_sheet(const SheetPlan& plan, const std::vector<SheetPicture>& pictures);

}  // namespace loom
