#pragma once
/// Where the frames of a mosaic lie.
#include <optional>

#include "align/match.h"
#include "stacks/frame_stack.h"

namespace fexel {

struct PlacedFrame {
  std::optional<Matrix3> matrix;  ///< to the reference; nothing where nothing joins the frame to it
  double uncertainty_px = 0;
  std::string reason;  ///< why there is nothing
};

/// Frames matched in pairs: each with the one before it, then those that lie over each other by what is known so far,
/// then those that nothing joins yet with all others; and adjusted together, so that rings of frames close. The
/// reference is frame 0 of the stack, or the first that can be read.
class MosaicPlaces {
 public:
  MosaicPlaces(const FrameStack& frames, const MatchOptions& match, int band, std::int64_t memory);
  ~MosaicPlaces();
  void search(const Job& job);
  /// All pairs of these frames are forgotten, and the others adjusted anew.
  void drop(const std::vector<int>& frames);
  int reference() const;
  const std::vector<PlacedFrame>& frames() const;

 private:
  class Pairs;
  std::unique_ptr<Pairs> pairs_;
};

}  // namespace fexel
