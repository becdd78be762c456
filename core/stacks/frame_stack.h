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
  /// The files that frames come from, each once, watched since the stack was made.
  const std::vector<WatchedFile>& sources() const { return sources_; }
  /// Frames that were left out, and why.
  const std::vector<std::string>& notes() const { return notes_; }
  /// What may be wrong with the films among them.
  const std::vector<std::string>& remarks() const { return remarks_; }

  /// Raises input errors that name the file; also where a frame is not any more what it was when the stack was made.
  Image read(std::size_t i, const Job& job) const;
  /// Rows [top, bottom) of a frame. A frame that can only be read whole is.
  Image rows(std::size_t i, int top, int bottom, const Job& job) const;

 private:
  void take(std::vector<FrameFile> frames, const std::vector<bool>& skip);
  void check(const Image& image, std::size_t i, int rows) const;
  std::vector<FrameFile> frames_;
  std::vector<int> numbers_;
  std::vector<std::size_t> places_;  // in the chain's sequence
  Limits limits_;
  Size size_;
  int bands_ = 1;
  Depth depth_ = Depth::u8;
  std::optional<PixelSize> pixel_;
  std::vector<std::string> notes_, remarks_;
  std::vector<WatchedFile> sources_;
  std::unique_ptr<MotionFrames> made_;
};

/// Some rows of a picture, with their mask.
Image rows_of_image(const Image& image, int top, int bottom);

}  // namespace fexel
