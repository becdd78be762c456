#pragma once
/// Frames that overlap, on one canvas that holds all of them.
#include "align/match.h"
#include "resample/kernels/kernel.h"
#include "stacks/frame_stack.h"

namespace fexel {

/// What a pixel becomes that several frames show. first, last: in their order. feathered: their mean, each weighted by
/// how far the place is from the frame's own edge, so that no seam shows.
enum class Blend { first, last, mean, median, feathered };
const std::vector<std::string>& blend_words();

struct MosaicOptions {
  MatchOptions match = {Model::translation, true};
  int band = 0;  ///< that is matched on, from 1; 0 is the mean of all
  Blend blend = Blend::feathered;
  bool keep_doubtful = false;  ///< frames that no overlap confirms are on the canvas all the same
  bool even_gain = true;       ///< frames get gains that make them alike where they overlap
  Resampling resampling = {};
  std::int64_t memory = 1 << 30;  ///< bytes of the canvas while it is made
};

struct MosaicFrame {
  Matrix3 to_canvas = Matrix3::Identity();
  double uncertainty_px = 0;                 ///< of its place against the reference
  double gain = 1;                           ///< its samples were multiplied by this
  bool placed = false;                       ///< it is on the canvas
  MatchStatus status = MatchStatus::failed;  ///< ok: overlaps that fit join it to the reference
  std::string reason;                        ///< why it is not
};

/// What an overlap of two frames says of how well they fit there.
struct MosaicSeam {
  int first = 0, second = 0;                 ///< frames of the stack, from 0
  Region part;                               ///< of the canvas, in which both lie
  double pixels = 0;                         ///< of the canvas that both show
  Point left_over;                           ///< by how much the second still lies off the first there, px
  double uncertainty_px = 0;                 ///< of that, per axis
  double rms = 0;                            ///< of the difference of their samples, gains evened
  MatchStatus status = MatchStatus::failed;  ///< of the match of the overlap
};

struct Mosaic {
  Image picture;      ///< the frames' depth; empty where no frame is
  int reference = 0;  ///< the frame that the others were brought to, from 0
  Point origin;       ///< of the canvas, in the reference's px
  std::vector<MosaicFrame> frames;
  std::vector<MosaicSeam> seams;
  double largest_seam_px = 0;  ///< of those that matched
  std::int64_t clamped = 0;
  std::vector<std::string> notes;
};

/// Frames are matched in pairs, whichever lie over each other, and all transforms adjusted together, so that rings of
/// frames close; the reference's grid is kept, so it is copied and not resampled. Each overlap is then matched by
/// itself: a frame without one that fits is left out, and noted, unless doubtful ones are kept. Raises an input error
/// where fewer than two frames lie together, or the canvas would be larger than pictures may be.
Mosaic make_mosaic(const FrameStack& frames, const MosaicOptions& options, const Job& job);

/// Gains that make frames alike where they overlap: `ratios` are, for pairs of frames, the mean of the first's samples
/// over that of the second's there, and how many samples that is of. Least squares of their logarithms, weighted;
/// together the gains change nothing (their product is 1). Frames without an overlap get 1.
struct GainRatio {
  int first, second;
  double ratio, weight;
};
std::vector<double> evened_gains(int frames, const std::vector<GainRatio>& ratios);

}  // namespace fexel
