#pragma once
/// The ways to make the pixels of a result, from the simplest to the fastest. choose_path() decides; README.md has
/// their table.
#include <array>
#include <cstdint>
#include <string_view>

namespace fexel {

enum class Path {
  sampler,        ///< each sample by itself: any kernel, border mode and map
  row_float,      ///< rows in floating point
  digital_lines,  ///< bytes under maps that rotate: 16-bit numbers along digital lines of the result
  int16,          ///< bytes under maps that rotate and scale little: 32 pixels at a time in 16-bit numbers
  separable,      ///< pure scaling, by rows and then by columns
  copy            ///< whole-pixel moves
};
inline constexpr std::array all_paths{Path::sampler, Path::row_float, Path::digital_lines,
                                      Path::int16,   Path::separable, Path::copy};
constexpr std::string_view name_of(Path path) {
  constexpr std::array<std::string_view, all_paths.size()> names{"sampler", "row_float", "digital_lines",
                                                                 "int16",   "separable", "copy"};
  return names[static_cast<std::size_t>(path)];
}

/// How many pixels of a result were made in which way. What a path cannot do at the border of a picture it leaves to
/// simpler ones; it is counted for the path of its tile.
struct PathPixels {
  std::array<std::int64_t, all_paths.size()> by_path{};
  std::int64_t widened = 0;  ///< of them in tiles where the widened kernel has a share
  std::int64_t operator[](Path path) const { return by_path[static_cast<std::size_t>(path)]; }
  bool operator==(const PathPixels&) const = default;
};

}  // namespace fexel
