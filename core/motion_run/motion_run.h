#pragma once
/// Movement over the frames of a chain.
#include <filesystem>
#include <functional>

#include "chain/layout.h"
#include "motion/sequence.h"
#include "run/frames.h"

namespace fexel {

/// What a field is told with: where it lies in real units.
struct MotionUnits {
  std::optional<PixelSize> pixel;  ///< of the station
  std::optional<AxesHere> axes;    ///< the chain's, there
  std::optional<TimeStep> time;    ///< from frame to frame
  /// Coordinates of a place in px: on the axes, in the unit of the pixel size; px where that is unknown.
  Point coordinates(Point place) const;
  /// A displacement in px as it is in these coordinates.
  Point displacement(Point moved) const;
  std::string unit() const { return pixel ? pixel->unit : "px"; }
};

struct MotionRunOptions {
  MotionProbe probe;
  Limits limits = {};
  std::optional<std::filesystem::path> mask;  ///< a picture as large as the station: where it is 0 nothing is measured
  /// Of the fields, those with these numbers, from 1: a part of the work that another run has the rest of.
  /// Displacements that are added up need all frames before them, which are then matched and not kept.
  std::optional<std::pair<int, int>> shard;
  /// These two frames alone, from 0: what one frame shows against another.
  std::optional<std::pair<int, int>> only;
};

/// One field, of one frame.
struct MotionResultFrame {
  MotionField matched;                        ///< before any rule
  MotionField field;                          ///< after the rules; see finish()
  std::vector<std::optional<Strain>> strain;  ///< empty where none was asked for
  int number = 0;                             ///< of the frame, from 1, as files count them
  std::filesystem::path file;
  int page = 1;
};

/// Carries out the rules on what was matched, fills holes, and works out the strain, as the settings say.
void finish(MotionResultFrame& result, const MotionSettings& settings, const MotionUnits& units, const Job& job,
            std::vector<CleanEffect>* effects = nullptr);
/// The settings of strain, in the unit of the pixel size.
StrainSettings strain_settings(const MotionSettings& settings, const MotionUnits& units);

struct MotionRunSummary {
  MotionGrid grid;
  MotionUnits units;
  Size size;  ///< of the station
  int fields = 0;
  std::vector<std::string> notes;  ///< frames that were left out, and why
};

/// The frames that are measured, from 0, in order: those that are not left out, and of pairs both or none. Pairs are
/// those that the sequence has, by its names (a, b) or its order; else those whose names tell, else frames that follow
/// each other. `notes` gets a sentence for each frame without its other one.
std::vector<std::size_t> measured_frames(const Chain& chain, const std::vector<FrameFile>& frames,
                                         const MotionSettings& settings, std::vector<std::string>* notes = nullptr);

/// The frames that fields lead to, from 0: all but the first, or the second of each pair. Raises a call error where
/// there are not enough.
std::vector<int> motion_targets(const MotionSettings& settings, std::size_t frames);

/// Frames as they are at the probe's station, through the cubic spline where a step resamples them: cheaper kernels
/// pull at parts of a pixel.
class MotionFrames {
 public:
  /// `as_written`: by the chain's own kernel instead, and whatever its masks leave out of measuring.
  /// Raises a call error for a chain that does not fit, or an align step that was not searched for as many frames.
  MotionFrames(Chain chain, int station, std::vector<FrameFile> frames, const Limits& limits, bool as_written = false);
  std::size_t count() const { return frames_.size(); }
  const FrameFile& file(std::size_t i) const { return frames_[i]; }
  bool skipped(std::size_t i) const { return skipped_[i]; }
  std::vector<std::size_t> measured(const MotionSettings& settings, std::vector<std::string>* notes = nullptr) const {
    return measured_frames(chain_, frames_, settings, notes);
  }
  Size size() const { return layout_.stations[static_cast<std::size_t>(station_)].size; }
  MotionUnits units() const;
  /// Raises input errors that name the file.
  Image read(std::size_t i, const Job& job) const;

 private:
  Layout layout_of(std::size_t i) const;
  Chain chain_;
  int station_;
  std::vector<FrameFile> frames_;
  std::vector<bool> skipped_;
  Limits limits_;
  Layout layout_;
};

/// grain_signs() of the first pair of frames, or of the pair that is given, made ready as the settings say.
GrainSigns grains_in(const MotionFrames& frames, const MotionSettings& settings,
                     std::optional<std::pair<std::size_t, std::size_t>> pair, const Job& job);

/// A frame with what is known of its noise, made ready as the settings say: what texture checks and trials go by.
struct ReadyFrame {
  Image image;  ///< a plane, without the background
  std::shared_ptr<const MotionFrame> frame;
  double noise = 0;  ///< of one frame, at most, grey levels
};
ReadyFrame ready_frame(const MotionFrames& frames, std::size_t number, const MotionSettings& settings, const Job& job);

/// Measures what the probe says on all frames, one after the other, and hands over each field as it
/// was matched, as it comes. Raises what
/// went wrong before the first; a frame that cannot be used later is left out, and noted, where the way of matching
/// allows for it.
MotionRunSummary run_motion(const MotionFrames& frames, const MotionRunOptions& options,
                            const std::function<void(const MotionResultFrame&)>& found, const Job& job);

}  // namespace fexel
