#pragma once
/// The warp engine: one resampling of a source through a map, for any region of the result.
#include <optional>

#include "base/job.h"
#include "geometry/clip.h"
#include "image/pyramid.h"
#include "resample/kernels/kernel.h"
#include "resample/path.h"
#include "resample/paths/copy.h"

namespace fexel {

/// Where the pixels of a result come from.
struct WarpPlan {
  Matrix3 inverse_map = Matrix3::Identity();  ///< result coordinates to source coordinates
  Clip clip;                                  ///< in result coordinates: a pixel is valid when its centre is inside
  Size result;                                ///< size of the whole result
  Stride stride = {};                         ///< of samples that are taken on purpose: kernels are not widened for it
  std::optional<Map> curved = {};             ///< instead of `inverse_map`, where no matrix gives it
  /// Where the first pixel stands in a larger result that this is a part of. Where a matrix gives the map, a pixel then
  /// comes out the same in all parts, but for what lies within 1e-5 of a rounding.
  int whole_x = 0, whole_y = 0;
  Size whole = {};  ///< its size, where it is not this result
  /// For tests and benches: the path that makes the pixels, whatever would be chosen.
  std::optional<Path> forced = {};
  bool operator==(const WarpPlan&) const = default;
};

/// final is what is written. draft is for a picture that moves under the hand: linear, from the nearest pyramid level.
enum class Quality { final, draft };

struct WarpReport {
  bool exact = false;        ///< pixels were copied, not computed
  std::int64_t clamped = 0;  ///< samples that the depth could not hold
  std::int64_t empty = 0;    ///< pixels whose centre is outside the source
  PathPixels paths = {};     ///< how the pixels were made
};

/// Whether the plan moves pixels bit for bit.
bool is_exact(const WarpPlan& plan);

/// Computes `region` of the result. A pixel whose centre lies in an empty pixel of the source is empty too, and NaN in
/// f32. Samples above the source's largest value become that value. What the source holds in empty pixels must be
/// painted (paint_empty()), for kernels read it. The picture has the source's bands and depth, and a mask when any of
/// its pixels is empty. Empty pixels hold the fill value, or extend the edge, as `resampling` says. Runs on all cores;
/// raises the cancelled error when the job is stopped, and a call error where a path is forced that cannot serve.
Image warp(const Pyramid& source, const WarpPlan& plan, Region region, const Resampling& resampling, Quality quality,
           const Job& job, WarpReport* report = nullptr);

}  // namespace fexel
