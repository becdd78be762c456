#pragma once
/// Strain and rotation from a field of movement.
#include <cmath>

#include "base/job.h"
#include "motion/field.h"

namespace fexel {

enum class StrainMeasure { small, green_lagrange };

/// At one point. x to the right, y down the picture; of lengths in units, where pixels are not square.
struct Strain {
  double xx = 0, yy = 0, xy = 0;
  double first = 0, second = 0;  ///< principal values, the larger first
  double direction = 0;          ///< of the first, degrees counter-clockwise from the right on the screen
  double shear = 0;              ///< the largest: half of their difference
  double rotation = 0;           ///< degrees, counter-clockwise on the screen
  double sigma = 0;              ///< standard uncertainty of xx and yy, the worse of the two, from the points' own
  Eigen::Matrix2d gradient = Eigen::Matrix2d::Zero();  ///< d moved / d place
  /// Of flows, a frame: counter-clockwise on the screen; what spreads; twice the largest shear.
  double vorticity() const { return gradient(0, 1) - gradient(1, 0); }
  double divergence() const { return gradient(0, 0) + gradient(1, 1); }
  double shear_rate() const { return std::hypot(gradient(0, 0) - gradient(1, 1), gradient(0, 1) + gradient(1, 0)); }
};

struct StrainSettings {
  int window = 5;  ///< points along a side, odd
  StrainMeasure measure = StrainMeasure::small;
  Point pixel{1, 1};   ///< width and height of a pixel
  bool breaks = true;  ///< nothing where a crack runs through; flows have none
  bool operator==(const StrainSettings&) const = default;
};

/// The strain at every point that is found: from the plane that fits the displacements of the points around best, with
/// their uncertainties carried through; neighbours whose subsets overlap share some of their noise. Nothing where less
/// than half of the window's points are there, where they lie on a line, and where a crack runs through: where they
/// differ from the plane by more than 0.1 px and ten times their uncertainty. `size` is the subsets', px.
std::vector<std::optional<Strain>> strain_of(const MotionField& field, const StrainSettings& settings, int size,
                                             const Job& job);

/// The length over which strain is averaged, in px along x and y: the virtual gauge length.
Point gauge_length(const MotionGrid& grid, const StrainSettings& settings, int size);

/// Strain of a known gradient of displacement, d moved / d place.
Strain strain_from(const Eigen::Matrix2d& gradient, StrainMeasure measure);

}  // namespace fexel
