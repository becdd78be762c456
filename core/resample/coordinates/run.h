#pragma once
/// A short run of pixels by their places in the source.
#include <array>

namespace fexel {

inline constexpr int run_length = 64;

/// Source coordinates of `count` neighbouring result pixels.
struct Run {
  int count = 0;
  std::array<double, run_length> x, y;
};

}  // namespace fexel
