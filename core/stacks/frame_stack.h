#pragma once
/// The frames that pictures of many frames are made of.
#include <memory>

#include "files/parts.h"
#include "motion_run/motion_run.h"

namespace fexel {

/// Frames of one size and number of bands: that of the first which can be read. Others are left out, and noted.
/// Several threads may read.
class FrameStack {
 public:
  /// As they lie in files, without those that `skip` names (it may be shorter).
  FrameStack(std::vector<FrameFile> frames, const Limits& limits, const std::vector<bool>& skip = {});
  /// As a chain's result shows them, in its resampling. Raises a call error for a chain that does not fit.
  FrameStack(const Chain& chain, std::vector<FrameFile> frames, const Limits& limits);
  ~FrameStack();

  std::size_t count() const { return frames_.size(); }
  const FrameFile& file(std::size_t i) const { return frames_[i]; }
  /// The number of a frame in its sequence, from 1.
  int number(std::size_t i) const { return numbers_[i]; }
  Size size() const { return size_; }
  int bands() const { return bands_; }
  Depth depth() const { return depth_; }
  const std::optional<PixelSize>& pixel() const { return pixel_; }
  /// Frames that were left out, and why.
  const std::vector<std::string>& notes() const { return notes_; }

  /// Raises input errors that name the file.
  Image read(std::size_t i, const Job& job) const;
  /// Rows [top, bottom) of a frame. A frame that can only be read whole is.
  Image rows(std::size_t i, int top, int bottom, const Job& job) const;

 private:
  void take(std::vector<FrameFile> frames, const std::vector<bool>& skip);
  std::vector<FrameFile> frames_;
  std::vector<int> numbers_;
  std::vector<std::size_t> places_;  // in the chain's sequence
  Limits limits_;
  Size size_;
  int bands_ = 1;
  Depth depth_ = Depth::u8;
  std::optional<PixelSize> pixel_;
  std::vector<std::string> notes_;
  std::unique_ptr<MotionFrames> made_;
};

/// Some rows of a picture, with their mask.
Image rows_of_image(const Image& image, int top, int bottom);

}  // namespace fexel
