#pragma once
/// How well pairs cover a picture: the uncertainty of carried points, and where more pairs would help most.
#include <Eigen/Core>
#include <functional>
#include <memory>
#include <vector>

#include "fit/fit.h"

namespace fexel {

/// The standard uncertainty, in `to` pixels, both axes together, of where each of some places is carried, when each
/// coordinate of a pair is uncertain by `sigma`; infinite where the pairs do not determine it. Of a thin-plate spline
/// that of the affine map closest to it, which is less.
/// The covariance of the first eight numbers of a fit's matrix, row by row, whose last is 1, when each coordinate of a
/// pair of weight 1 is uncertain by `sigma` `to` pixels. Empty for maps with curves, and where the pairs do not
/// determine it.
Eigen::MatrixXd matrix_covariance(Model model, const std::vector<PointPair>& pairs, const Fit& fit, double sigma);

std::vector<double> uncertainty_at(Model model, const std::vector<PointPair>& pairs, const Fit& fit,
                                   const std::vector<Point>& places, double sigma);

class FitQuality;

/// The same for many places of one fit, with the area of its pairs.
class Coverage {
 public:
  Coverage(Model model, std::vector<PointPair> pairs, const Fit& fit, double sigma);
  Coverage(const Coverage&) = delete;
  Coverage& operator=(const Coverage&) = delete;
  ~Coverage();
  double uncertainty(Point from) const;
  /// Whether the place lies among the pairs; elsewhere the fit extrapolates.
  bool among_pairs(Point from) const;

 private:
  std::vector<PointPair> pairs_;
  std::vector<Point> hull_;
  double sigma_;
  std::unique_ptr<const FitQuality> quality_;
};

/// The corners of the smallest convex area that holds the `from` of all pairs that the fit used, clockwise on the
/// screen; fewer than three where they lie on a line. Source: A. M. Andrew, 1979.
std::vector<Point> hull_of(const std::vector<PointPair>& pairs, const Fit& fit);
/// Whether a place lies in the area, or on its rim.
bool inside_hull(const std::vector<Point>& hull, Point place);

/// Where further pairs would make the mean variance of carried points over the picture least, one after the other, of
/// places on a grid that keep clear of the border. For a thin-plate spline the places farthest from all pairs.
/// With `allowed` only the places that it allows get a pair, and matter.
std::vector<Point> helpful_places(Model model, const std::vector<PointPair>& pairs, const Fit& fit, double width,
                                  double height, int count, const std::function<bool(Point)>& allowed = {});

}  // namespace fexel
