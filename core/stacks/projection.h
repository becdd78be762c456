#pragma once
/// One picture of many frames, pixel by pixel.
#include "stacks/frame_stack.h"

namespace fexel {

/// What is taken of each pixel over the frames. deviation: the standard deviation of a single frame, with n - 1; of one
/// frame there is none. range: the largest minus the least.
enum class Projection { mean, median, least, largest, deviation, range, sum };
const std::vector<std::string>& projection_words();  ///< mean, median, min, max, std, range, sum

struct Projected {
  Image picture;                   ///< least, largest and range have the frames' depth, the others are f32
  Image counts;                    ///< f32, one band: in how many frames each pixel is there
  int frames = 0;                  ///< that were read
  std::vector<std::string> notes;  ///< frames that could not be read, and why
};

/// Pixels that are empty in a frame, and samples that are not finite, are left out; where nothing is left the result is
/// empty. Frames are read once each, or, where their rows take more than `memory` bytes together, once for each part of
/// the picture; parts of TIFF files are read by themselves. Sums are in doubles; the deviation by updates of the mean
/// (B. P. Welford, 1962, "Note on a method for calculating corrected sums of squares and products"). `numbers` count
/// from 0. Raises an input error where no frame can be read.
Projected project(const FrameStack& frames, const std::vector<std::size_t>& numbers, Projection what,
                  std::int64_t memory, const Job& job);

/// The numbers 0 to count - 1 in groups of `every`, the last one with what is left; all in one for 0.
std::vector<std::vector<std::size_t>> groups_of(std::size_t count, int every);

}  // namespace fexel
