#pragma once
/// Means over the fields of a flow, as a table.
#include "motion/flow.h"
#include "motion_run/motion_run.h"

namespace fexel {

/// What displacements are told in: velocities where the time step is known. From px of displacement to that.
struct FlowUnits {
  double across = 1, down = 1;  ///< factors of x and y
  std::string unit;             ///< "mm/s", "px", ...
};
/// `steps` is the number of frames that a displacement goes over.
FlowUnits flow_units(const MotionUnits& units, int steps);

/// A point's numbers in that unit, on the chain's axes.
FlowAt on_axes(const FlowAt& point, const MotionUnits& units, const FlowUnits& to_unit);

/// A row a point: x, y, n, means, medians, RMS of the fluctuations and their mean product, each with its uncertainty.
/// `shift` is added to x and y, in px, for other pixel origins.
std::string flow_csv(const FlowStatistics& flow, const MotionUnits& units, double shift);

}  // namespace fexel
