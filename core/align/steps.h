#pragma once
/// Small steps of a motion model: what the search adds to a transform, and what covariances are of.
#include <Eigen/Core>

#include "fit/fit.h"

namespace fexel {

/// Up to eight numbers, in pixels: what the step moves points by at half the frame's longer side from its middle.
using SmallStep = Eigen::Matrix<double, Eigen::Dynamic, 1, 0, 8, 1>;
using StepMatrix = Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, 0, 8, 8>;

/// The steps that a model may take in a frame. Models are translation, rigid, similarity, affine and projective.
class StepBasis {
 public:
  StepBasis(Model model, Size frame);
  int count() const { return count_; }
  /// What each number of a step moves a point by, to first order: one column each.
  Eigen::Matrix<double, 2, Eigen::Dynamic, 0, 2, 8> at(Point p) const;
  /// The transform that a step is.
  Matrix3 transform(const SmallStep& step) const;
  /// The step that comes nearest to a transform which is nearly the identity, over the frame.
  SmallStep step_of(const Matrix3& transform) const;
  /// The standard uncertainty per axis of points that a step with this covariance moves, as RMS over the frame, in px.
  double uncertainty(const StepMatrix& covariance) const;
  Size frame() const { return frame_; }

 private:
  Model model_;
  int count_;
  Size frame_;
  Point middle_;
  double unit_;
};

/// What a transform does to a frame, for people: where it takes the frame's middle, and by how much it turns
/// (counter-clockwise on the screen) and scales.
struct Motion {
  Point shift;
  double degrees = 0, scale = 1;
};
Motion motion_of(const Matrix3& transform, Size frame);

/// RMS over a frame of the distance between where two transforms put its places.
double rms_distance(const Matrix3& a, const Matrix3& b, Size frame);

}  // namespace fexel
