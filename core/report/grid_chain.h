#pragma once
/// What the grid of one picture, or the lens of several, becomes in chains and in the library.
#include "calibrate/grid_target.h"
#include "chain/chain.h"

namespace fexel {

/// The lens undone, where it does anything; empty where the view has no terms.
std::optional<LensStep> lens_step_of(const GridView& view);
LensStep lens_step_of(const LensCalibration& lens);
/// What the steps of a grid are called.
inline constexpr const char *lens_of_grid = "lens of the grid", *plane_of_grid = "plane of the grid";
/// A chain that undoes the lens and lays the grid square: the rectangle from the first node to the last, `pitch` from
/// node to node.
Chain chain_of_grid(const GridTarget& target, double pitch, const std::string& unit);

/// A lens in the library, beside the pixel sizes.
struct LensEntry {
  std::string name, lens, made;
  LensCalibration calibration;
};
LensEntry parse_lens(const std::string& text);
std::filesystem::path lens_file(const std::string& name);
void save_lens(const LensEntry& entry, const std::filesystem::path& file, bool replace);
/// A name in the library, or a file. Raises a call error that names what there is.
LensEntry lens_named(const std::string& name_or_file);
std::vector<std::string> lenses_in_library();

}  // namespace fexel
