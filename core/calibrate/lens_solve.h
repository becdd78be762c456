#pragma once
/// Perspective and lens from the nodes of a plane grid.
#include <vector>

#include "geometry/lens.h"

namespace fexel {

/// A node of a grid, by its numbers, where it is seen.
struct GridNode {
  int column = 0, row = 0;
  Point at;  ///< in pixels
  Point shift =
      {};  ///< by how much what is measured lies off the node itself: of a dot, whose middle perspective moves
  Point residual = {};  ///< what the solved view says, less what was measured, in pixels
  bool operator==(const GridNode&) const = default;
};

/// A plane seen by a camera: the plane's coordinates are columns and rows of the grid.
struct GridView {
  Matrix3 to_ideal = Matrix3::Identity();  ///< from the plane to the picture without distortion
  Lens::Terms terms;                       ///< what the lens then does
  Point centre;
  double focal = 1;         ///< the unit of the terms: the picture's width, in pixels
  bool own_centre = false;  ///< the centre of distortion was solved for; else it is the middle
  double rms = 0;           ///< of the nodes' residuals, per axis, in pixels
  /// Standard uncertainty of where the four outermost nodes are seen by all nodes together, RMS per axis, in pixels,
  /// with that of the choice of terms (K. P. Burnham, D. R. Anderson, 2002, "Model selection and multimodel
  /// inference").
  double corner_sigma = 0;
  /// Where a point of the plane is seen; nothing behind the horizon.
  std::optional<Point> seen(Point plane) const;
};

/// Solves for perspective and as many terms of the lens as the nodes support: none, k1, k2, the centre of distortion,
/// chosen by the corrected Akaike criterion (C. M. Hurvich, C.-L. Tsai, 1989). Least squares on the distances, by K.
/// Levenberg, 1944, and D. Marquardt, 1963. Raises an input error for fewer than 9 nodes, or nodes on a line.
GridView solve_view(std::vector<GridNode>& nodes, Size size);

/// A value with its standard uncertainty.
struct Estimate {
  double value = 0, sigma = 0;
};

/// A lens from several views of one grid.
struct LensCalibration {
  Size size;       ///< of the pictures
  Estimate focal;  ///< in pixels
  Estimate centre_x, centre_y;
  Lens::Terms terms;  ///< in units of the focal length
  Lens::Terms sigma;  ///< standard uncertainties of the terms; 0 for those that were not solved for
  double rms = 0;     ///< of the nodes' residuals, per axis, in pixels
  int views = 0, nodes = 0;
  std::vector<double> tilts = {};  ///< of the target in each view, in degrees
};

/// Focal length, centre and distortion from the nodes of several views, with square pixels. Begins with the closed form
/// (Z. Zhang, 2000, "A flexible new technique for camera calibration") and ends with least squares over all. Raises an
/// input error with the remedy where the views do not tell: fewer than three, or the target square to the camera in
/// all.
LensCalibration solve_lens(std::vector<std::vector<GridNode>>& views, Size size);

}  // namespace fexel
