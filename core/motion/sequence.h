#pragma once
/// Movement over a sequence: frames are given one after the other, and none is kept longer than it is needed.
#include <memory>

#include "motion/settings.h"

namespace fexel {

class MotionSequence {
 public:
  /// Frames have this size; `use` marks the pixels that count in all of them (where it is not zero), and may be null.
  MotionSequence(MotionSettings settings, Size size, std::shared_ptr<const Image> use);
  ~MotionSequence();
  const MotionGrid& grid() const { return grid_; }
  /// Takes the next frame. Gives the field that leads to it, as it was matched and before any rule; nothing for a frame
  /// that is only a reference. Raises a call error for a frame of another size, and the cancelled error, after which it
  /// cannot go on.
  std::optional<MotionField> next(const Image& frame, const Job& job);
  /// What is taken off first and second frames of pairs; of other sequences the first of the two counts.
  void set_backgrounds(std::shared_ptr<const Image> first, std::shared_ptr<const Image> second);
  /// A frame made ready as next() does; `second` of a pair.
  std::shared_ptr<const MotionFrame> prepared(const Image& frame, bool second, const Job& job) const;
  /// Leaves a frame out: it counts, and is not looked at.
  void skip() { ++frames_; }
  int frames() const { return frames_; }

 private:
  MotionField against_reference(std::shared_ptr<const MotionFrame> frame, const Job& job);
  bool renews(const MotionField& field) const;
  MotionSettings settings_;
  Size size_;
  std::shared_ptr<const Image> use_, backgrounds_[2];
  MotionGrid grid_;
  int frames_ = 0, reference_index_ = 0, last_index_ = 0, from_ = 0;
  std::shared_ptr<const MotionFrame> reference_, last_;
  std::optional<MotionField> base_;    // from the first frame to the reference, where that is another one
  std::optional<MotionField> before_;  // the last field, from the reference
  int found_at_first_ = 0;             // points, by the first match with this reference
};

/// The field with the rules of the settings carried out.
MotionField finished(const MotionField& matched, const MotionSettings& settings,
                     std::vector<CleanEffect>* effects = nullptr);

/// What two frames show in which nothing moved: the scatter of displacement and, where it is asked for, of strain.
struct StillNoise {
  int points = 0;
  Point mean, deviation;  ///< px; by medians
  double stated = 0;      ///< median of what the points state, px
  std::optional<double> strain;
};
StillNoise still_noise(const MotionField& field, const std::optional<StrainSettings>& strain, int size, const Job& job);

/// A frame moved by a known field, and measured with the same settings.
struct MotionTrial {
  double rms = 0;      ///< px, of points that are ok, per axis
  double bias = 0;     ///< the largest mean over an eighth of the cycle of a pixel, px, without noise
  double ratio = 0;    ///< of the error to what is stated, both as RMS
  double found = 0;    ///< share of the points that are ok
  double largest = 0;  ///< error of a point that is ok, px
};
/// The field is a shift that goes through a whole pixel from left to right, with a strain of 0.2 %; noise as the frame
/// has it is added to both.
MotionTrial motion_trial(const Image& frame, const MotionSettings& settings, double noise, const Job& job);

}  // namespace fexel
