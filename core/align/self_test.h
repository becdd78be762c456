#pragma once
/// How far to trust a search on a person's own material: a frame is moved by known amounts and searched again.
#include <vector>

#include "align/sequence.h"

namespace fexel {

/// What a trial moves a frame by at most, in pixels, where nobody says.
inline constexpr double self_test_px = 20;

struct SelfTestRound {
  Matrix3 moved = Matrix3::Identity();  ///< the frame's places in the moved copy
  Match found;                          ///< of the copy against the frame; found.matrix x moved is near the identity
  double error_px = 0;                  ///< RMS over the frame of the distance between what was found and what is true
  double seconds = 0;
};

struct SelfTest {
  std::vector<SelfTestRound> rounds;
  double noise = 0;      ///< standard deviation that was taken for the frame's noise, in samples
  double error_px = 0;   ///< RMS over the rounds that matched
  double stated_px = 0;  ///< what the search said that it would be
  int failed = 0;
  double seconds = 0;  ///< of one search, on average
  int halves = 0;      ///< pairs of pictures of every second pixel that were searched
  int halves_failed = 0;
  double halves_error_px = 0;  ///< RMS over those that matched, in their pixels
  double halves_stated_px = 0;
  /// Detail finer than the pixels makes the search less sure than it says.
  bool aliased() const { return halves > halves_failed && halves_error_px > 2 * halves_stated_px; }
};

/// Moves the frame by random shifts of up to `reach` px and, where the model has them, turns of up to 1 degree and
/// scales of up to 1 %, and searches. The frame is smoothed by 1 px before, so that its own noise does not move along
/// and the cubic spline moves what is left to better than a thousandth of a pixel; frame and copy each get fresh noise
/// as strong as the frame's own, which is estimated from what is left of it by a second difference (J. Immerkaer, 1996,
/// "Fast noise variance estimation"). What is moved so has no detail finer than its pixels. Therefore every second
/// pixel of the frame is taken as a picture of its own, too, in three pairs that lie half of its pixels apart: nothing
/// is interpolated, noise and detail between the pixels are the frame's own, and coarser than in the frame itself.
/// Frames that are too small for that have no halves. The same seed gives the same motions. Raises what preparing the
/// frame raises, and the cancelled error.
SelfTest try_known_motions(const Image& frame, const AlignOptions& options, int rounds, double reach, unsigned seed,
                           const Job& job);

}  // namespace fexel
