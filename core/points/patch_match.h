#pragma once
/// The place of one picture that shows what another picture shows at a given place.
#include <Eigen/Core>

#include "base/job.h"
#include "geometry/point.h"
#include "image/image.h"

namespace fexel {

/// What is compared. brightness: the samples, up to a gain and an offset. edges: how strongly they change, whichever
/// way, for bands that look unlike. automatic: brightness, and edges where that does not match.
enum class PatchMetric { automatic, brightness, edges };

struct PatchSettings {
  int radius = 12;   ///< of the patch, in pixels of the coarser picture
  double reach = 6;  ///< how far the match may lie from where it is expected, in pixels of the coarser picture
  PatchMetric metric = PatchMetric::automatic;
  double shape = 0.05;  ///< standard uncertainty of `local`, for each of its numbers
};

struct PatchMatch {
  Point to;
  double sigma = 0;  ///< standard uncertainty per axis, in pixels of the second picture: of the worse axis
  double score = 0;  ///< correlation of the two patches
  bool edges = false;
  Eigen::Matrix2d local = Eigen::Matrix2d::Identity();  ///< how the patch lies in the second picture
};

/// What the first picture shows at `from` is looked for in the second about `expected`; `local` says how a small step
/// in the first lies in the second. First by normalised correlation over the reach, then by least squares for shift,
/// turn, scales, shear, gain and offset (A. W. Gruen, 1985, "Adaptive least squares correlation: a powerful image
/// matching technique"), on both pictures smoothed alike; the shape is held to what is known of it. The uncertainty is
/// that of white noise in both, carried through the smoothing, of as much as the patches differ. Both pictures are f32
/// with one band; empty pixels do not count.
///
/// Raises an input error that says why there is no match: the place is at the border, nothing there can be held on to
/// (flat, or a straight edge), nothing alike is in reach, two places are alike, or the match walked out of reach.
PatchMatch matched_patch(const Image& first, const Image& second, Point from, Point expected,
                         const Eigen::Matrix2d& local, const PatchSettings& settings);

/// What a match to `sigma` pixels says of a pair. How far the two pictures differ in what no match sees, such as
/// relief, is not in it: no pair is taken for better known than 0.02 px.
double stated_uncertainty(double sigma);

}  // namespace fexel
