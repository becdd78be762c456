#pragma once
/// What is worked out of fields of a flow: means over frames, streamlines, flow through lines.
#include "base/job.h"
#include "motion/field.h"

namespace fexel {

/// The displacement between points, linear; nothing where one of the four around has none.
std::optional<Point> moved_at(const MotionField& field, Point place);

/// At one point, over all fields in which it is ok, in px a step from frame to frame.
struct FlowAt {
  int n = 0;
  Point mean, median;
  Point rms;               ///< of the fluctuations: standard deviations along x and y
  double shear = 0;        ///< mean product of the two fluctuations, px²: the Reynolds stress without density
  Point mean_uncertainty;  ///< standard, from the scatter
  Point rms_uncertainty;   ///< of normally distributed fluctuations
  double shear_uncertainty = 0;
  /// Works the uncertainties out of n, rms and shear.
  void spread_uncertainties();
  Point stated;  ///< RMS of what the points state: the part of rms that is the measurement's own
};

/// Adds fields of one grid up.
class FlowStatistics {
 public:
  explicit FlowStatistics(MotionGrid grid);
  void add(const MotionField& field);
  int fields() const { return fields_; }
  const MotionGrid& grid() const { return grid_; }
  /// Points with fewer than two fields have n alone. Uncertainties: L. H. Benedict, R. D. Gould, 1996, "Towards better
  /// uncertainty estimates for turbulence statistics", for fields that are independent.
  std::vector<FlowAt> points() const;
  /// The mean as a field: its points are ok where half of the fields are, and weak with fewer; their uncertainty is
  /// that of the mean.
  MotionField mean() const;

 private:
  MotionGrid grid_;
  int fields_ = 0;
  MotionField last_;
  std::vector<std::vector<Point>> moved_;  // of each point
  std::vector<Point> squares_;             // of what is stated
};

/// Lines that go along with the flow, evenly apart: each begins where no other is within `apart` px, and ends within
/// half of that, where nothing is known, and where the flow stands still (B. Jobard, W. Lefer, 1997, "Creating
/// evenly-spaced streamlines of arbitrary density").
std::vector<std::vector<Point>> streamlines(const MotionField& field, double apart, const Job& job);

/// An integral along a line, in px² a frame, or in unit² where a pixel has a size.
struct LineFlow {
  double value = 0;
  double uncertainty = 0;  ///< standard: vectors within one window share their errors
  double known = 0;        ///< share of the line's length with vectors; the value is that part's
};
/// The flow through a line, for each unit of depth; positive from its left to its right, seen from its beginning.
/// `pixel` is the size of a pixel, `size` that of the windows in px.
LineFlow flow_through(const MotionField& field, const std::vector<Point>& line, Point pixel, int size);
/// The circulation round a polygon; positive counter-clockwise on the screen.
LineFlow circulation_round(const MotionField& field, std::vector<Point> polygon, Point pixel, int size);

}  // namespace fexel
