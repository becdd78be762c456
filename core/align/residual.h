#pragma once
/// What still moves between two frames that were aligned: a coarse field of small shifts.
#include <vector>

#include "align/prepared.h"

namespace fexel {

/// One window of the field.
struct ResidualShift {
  Point at;                   ///< the window's middle
  Point moved;                ///< what stands at `at` in the reference stands at at + moved in the frame, in px
  double uncertainty_px = 0;  ///< standard uncertainty per axis
  double score = 0;           ///< normalised correlation of the window after the shift
  bool sound = false;         ///< enough pixels, texture and agreement; the numbers of the others mean nothing
};

struct ResidualField {
  int window = 0;  ///< side, in px
  std::vector<ResidualShift> shifts;
  int sound = 0;
  double usual_px = 0;     ///< median length over the sound windows
  double expected_px = 0;  ///< what it would be from the windows' uncertainties alone
  int moving = 0;  ///< sound windows that moved by more than `significance` times their uncertainty, and by 0.02 px
  Point mean;      ///< of the sound windows: what all of them have in common
  ResidualShift farthest;  ///< the sound window that moved most
};

/// How many times its uncertainty a window has to move by to be counted as moving.
inline constexpr double significance = 4;

/// Windows of `window` px side by side over frames of the same size, each matched as a subset of movement from where it
/// is (see SubsetMatcher); what moved by more than a quarter of its side is not sound. Empty pixels and two around them
/// do not count. `band` counts from 1; 0 is the mean of all. Raises a call error when the sizes differ, and the
/// cancelled error.
ResidualField residual_field(const Image& reference, const Image& frame, int band, SimilarityMetric likeness,
                             int window, const Job& job);

}  // namespace fexel
