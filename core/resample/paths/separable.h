#pragma once
/// Pure scaling, where the resampling falls into columns and rows: each row of the result is summed over the source's
/// rows first and over its columns then.
#include <optional>

#include "geometry/clip.h"
#include "image/image.h"
#include "resample/kernels/kernel.h"

namespace fexel {

/// Source coordinates = scale x result coordinates + offset along each axis, both scales positive.
struct Scaling {
  double scale_x, offset_x, scale_y, offset_y;
};
/// The scaling that a map (result to source) is, without turn, shear, mirror or perspective; otherwise nothing.
std::optional<Scaling> pure_scaling(const Matrix3& inverse_map);

/// Taps along one axis: result pixel i reads source pixels first[i] to first[i] + taps − 1, `weights` holding `taps`
/// numbers for each pixel, which sum to one.
struct Taps {
  float largest = 1;  ///< no weight is larger, wherever a result pixel stands: the same for all parts of a result
  int taps = 0;
  std::vector<int> first;
  std::vector<float> weights;
};

/// The taps of result pixels [begin, end). Where the axis shrinks and `resampling` asks for it, the kernel is
/// widened as kernel.h says, by shrinking_share(); each axis by itself. Area is the mean over the result pixel. The
/// kernel is not nearest; `spline` stands for the plain spline on coefficients.
Taps axis_taps(const Resampling& resampling, bool spline, double scale, double offset, int begin, int end);

/// The same taps in whole numbers of 2^-bits, two side by side in a word each: the first one in its lower half. Each
/// pixel's numbers sum to 2^bits. Pixel i begins with source pixel first[i].
struct TapPairs {
  int pairs = 0, bits = 0;
  std::vector<int> first;
  std::vector<std::int32_t> weights;  ///< `pairs` for each pixel
};
/// With as many bits as 16-bit numbers hold, but at most `max_bits`; `even` has every pixel begin with an even one.
TapPairs tap_pairs(const Taps& taps, int max_bits, bool even);

/// Whether every result pixel is the mean of two source pixels, side by side with the next one's.
bool halves(const Taps& taps);

/// What is scaled, and how. `source` may be spline coefficients, whose pixel (0, 0) stands `margin` pixels inside.
struct ScalePlan {
  const Image* source = nullptr;
  int margin = 0;
  BorderMode edge = BorderMode::fill;
  Region region;  ///< the part of the result that the taps are for
  Taps columns, rows;
  TapPairs column_pairs, row_pairs;  ///< for bytes
  bool halves = false;               ///< both taps do
  /// Works out the pairs, where the source is of bytes.
  void pair_up();
};

/// Scales rows [y0, y1) and columns [x0, x1) of the plan's region into `out`, which holds the region; of each row only
/// what is inside `painted` is written. Returns how many samples were clamped.
std::int64_t scale_tile(const ScalePlan& plan, int x0, int y0, int x1, int y1, const Clip& painted, Image& out);

}  // namespace fexel
