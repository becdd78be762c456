#pragma once
/// Sequences whose file has axes: channels, planes of the depth, and times.
#include "run/frames.h"

namespace fexel {

/// One channel and one plane, from 1; 0 is all of them.
struct AxisChoice {
  int channel = 0, plane = 0;
  bool operator==(const AxisChoice&) const = default;
};

/// The axes of frames that are the pages of one file with more than one channel, plane or time; nothing for others.
std::optional<StackAxes> axes_of(const std::vector<FrameFile>& frames);
/// Which frames are of a choice.
std::vector<bool> of_choice(const std::vector<FrameFile>& frames, const AxisChoice& choice);
/// For each frame the first of `chosen` that was taken at the same moment (and in the same plane, or channel, where all
/// of them are chosen); nothing where there is none.
std::vector<std::optional<std::size_t>> same_moment(const std::vector<FrameFile>& frames,
                                                    const std::vector<FrameFile>& chosen, const AxisChoice& choice);
/// The choice by which frames are left out of the chain; nothing where they are left out otherwise.
std::optional<AxisChoice> choice_in(const Chain& chain, const std::vector<FrameFile>& frames);
/// The chain with all other frames left out.
Chain with_choice(Chain chain, const std::vector<FrameFile>& frames, const AxisChoice& choice);
/// Every frame takes part, and those that were left out lie as the one of the same moment does. Raises a call error
/// where no frame has been aligned yet.
Chain with_transforms_carried(Chain chain, const std::vector<FrameFile>& frames);
/// The description for pages of these frames, in their order; empty where they do not fill their axes.
std::string description_of(const std::vector<const FrameFile*>& pages, Size size, Depth depth,
                           const std::optional<PixelSize>& pixel);

}  // namespace fexel
