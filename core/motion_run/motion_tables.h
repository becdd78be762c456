#pragma once
/// Fields of movement as text: a table with a row a point, and files for viewers of flows.
#include "motion_run/motion_run.h"

namespace fexel {

/// How places in tables count: px are added to all of them.
struct MotionTable {
  double shift = 0;       ///< 0: the outer corner of the first pixel is (0, 0); -0.5: its centre is
  bool strain = false;    ///< with columns of strain
  bool back = false;      ///< with the column of the way back
  bool flow = false;      ///< with vorticity, divergence, shear rate and peak ratio in place of strain
  bool velocity = false;  ///< with velocities, at the end
};
/// What a table of these settings has.
MotionTable table_of(const MotionSettings& settings, const MotionUnits& units, double shift);

/// frame, x, y, dx, dy, score, status, x_real, y_real, dx_real, dy_real, unit, uncertainty, and what is asked for, then
/// reason and reference. x, y are in the first frame (in a, of pairs), dx, dy lead from there to the frame; reference
/// is the frame that was matched against, from 1. Of flows x, y are where what moved is half of the way; vorticity
/// (counter- clockwise on the screen), divergence and shear rate are a unit of time, or a frame where none is known.
/// Numbers that are not there are empty.
std::string motion_csv_head(const MotionTable& table);
std::string motion_csv_rows(const MotionResultFrame& result, const MotionUnits& units, const MotionTable& table);

/// A field as a structured grid of the VTK legacy text format, version 3.0: points, displacement, velocity where the
/// time step is known, strain (of flows vorticity and divergence) where it was asked for, uncertainty, and status as a
/// number (0 ok, 1 weak, 2 masked, 3 rejected, 4 filled). y counts up, as in viewers, unless the chain's axes say
/// otherwise; what is not known is 0.
std::string motion_vtk(const MotionResultFrame& result, const MotionUnits& units, const std::string& title,
                       bool flow = false);

}  // namespace fexel
