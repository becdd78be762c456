#pragma once
/// A short run of pixels by their places in the source.
#include <array>

namespace fexel {

inline constexpr int points_at_once = 64;

/// Source coordinates of `count` neighbouring result pixels.
struct SourcePoints {
  int count = 0;
  std::array<double, points_at_once> x, y;
};

}  // namespace fexel
