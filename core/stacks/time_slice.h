#pragma once
/// A line through all frames, as a picture.
#include "resample/kernels/kernel.h"
#include "stacks/frame_stack.h"

namespace fexel {

struct TimeSlice {
  Image picture;       ///< f32; column i is the place i + 0.5 px along the line, row k is frame k
  double step_px = 1;  ///< from column to column
  std::vector<std::string> notes;
};

/// Samples along the line, a pixel apart, from its beginning; with `across` above 1 the mean over so many lines beside
/// each other, a pixel apart, in the middle of which it lies. Places outside a frame, and frames that cannot be read,
/// are empty. Raises a call error for a line shorter than a pixel, or that lies outside of the frames.
TimeSlice slice_along_time(const FrameStack& frames, Point from, Point to, int across, Kernel kernel, const Job& job);

}  // namespace fexel
