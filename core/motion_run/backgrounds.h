#pragma once
/// What stays where it is over the frames of a sequence.
#include <memory>

#include "motion_run/motion_run.h"

namespace fexel {

/// The background of the frames with these numbers, from 0: the mean, median or minimum of each pixel over the frames
/// in which it is there, NaN where it is in none; of one band, from 0, or of the mean of all below 0; float. Reads each
/// frame once, or, for the median of more frames than memory holds, once for each part of the picture. Frames that
/// cannot be read are left out. Raises an input error where fewer than two are left.
std::shared_ptr<const Image> background_of(const MotionFrames& frames, const std::vector<std::size_t>& numbers,
                                           MotionBackground kind, std::int64_t memory, const Job& job, int band = -1);

/// One background for all frames, or one each for the first and second frames of pairs; nothing where the settings ask
/// for none. `kept` are the frames that are not left out.
std::pair<std::shared_ptr<const Image>, std::shared_ptr<const Image>> backgrounds_for(
    const MotionFrames& frames, const std::vector<std::size_t>& kept, const MotionSettings& settings,
    std::int64_t memory, const Job& job);

/// A frame as one float plane, with a background taken off; the background may be null.
Image without_background(const Image& frame, const Image* background, const Job& job);

}  // namespace fexel
