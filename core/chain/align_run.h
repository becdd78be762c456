#pragma once
/// Sequences and bands in files, aligned and written.
#include "align/residual.h"
#include "align/sequence.h"
#include "align/trial.h"
#include "chain/frames.h"
#include "chain/run.h"
#include "chain/step.h"

namespace fexel {

/// The place of the first align step that is on; nothing where there is none.
std::optional<int> align_step_of(const Chain& chain);
/// The chain as it lays out the frame at `index` (from 0) of its sequence.
Chain for_frame(Chain chain, int index);
/// The chain as it goes for frames [first, first + count) of its sequence alone.
Chain for_frames(Chain chain, int first, int count);

/// Searches what the align step at `index` asks for: `frames` are source frames, matched as they are at the station
/// that the step gets. Raises what align_frames() does, and a call error at the step's key where it cannot be followed.
/// `found` is told of frames as AlignOptions::found is.
AlignStep searched(const Chain& chain, int index, const FrameReader& frames, const Job& job,
                   const std::function<void(int, const FoundFrame&)>& found = {});

/// What still moves, in windows of 64 px, between two source frames as the chain's align step at `index` lays them.
/// Frames count from 0.
ResidualField still_moving(const Chain& chain, int index, Image reference, int reference_frame, Image shown,
                           int shown_frame, const Job& job);

/// The trial of an align step on one source frame, as it is at the station that the step gets; see
/// try_known_motions().
Trial tried(const Chain& chain, int index, Image source, int rounds, const Job& job);

struct AlignRunOptions {
  AlignOptions align;             ///< `picture` and `use` are set by the run
  bool bands = false;             ///< the frames are bands that look unlike
  std::filesystem::path picture;  ///< what the frames are matched against, where align.against says so
  std::optional<Region> region;   ///< of the reference, that is matched on
  std::filesystem::path mask;     ///< a picture as large as the reference: where it is zero, nothing is matched
  std::vector<Mask> masks;        ///< of the frames
  std::filesystem::path out;      ///< a TIFF, or numbered files: see SequenceWriter
  std::vector<std::filesystem::path> carry;  ///< stacks that get the same transforms
  bool trim = false;                         ///< to the largest rectangle that all frames share
  bool compress = false;
  bool replace = false;
  Resampling resampling;
  Limits limits;
};

struct AlignRunResult {
  std::vector<FrameFile> files;
  Alignment alignment;
  CropRectangle common;  ///< the largest rectangle of the reference that every frame which did not fail covers
  std::vector<std::filesystem::path> written;
  double seconds = 0;  ///< from the first read to the last byte
  bool all_matched() const;
};

/// The largest upright rectangle of whole pixels that all frames which did not fail share. Raises an input error when
/// there is none. `sizes` are the frames'.
CropRectangle common_area(const Alignment& alignment, const std::vector<Size>& sizes);

/// Searches, then writes every frame as the reference lies, with its depth and bands, one page each (or, for the bands
/// of one file, one page with all). A frame that failed is written where it is, and is empty where it cannot be read or
/// has another depth. Checks all names before it reads a pixel. Frames are read, and read again, one after the other: a
/// stack may be larger than memory.
AlignRunResult align_files(const std::vector<std::filesystem::path>& inputs, const AlignRunOptions& options,
                           const Job& job);

/// The trial of a run on its reference, with the same region and masks; see try_known_motions(). Against a picture or a
/// mean it is the first frame.
Trial tried(const AlignRunOptions& options, const AlignRunResult& result, int rounds, const Job& job);

/// What came of searching a sequence in one way.
struct Way {
  AlignStep step;  ///< with the frames that were found
  int matched = 0;
  double score = 0;           ///< mean over the matched frames
  double uncertainty_px = 0;  ///< of the least certain of them
  double still_px = 0;        ///< what still moves: the usual window of up to six frames, against the first
  double seconds = 0;         ///< of the search
  std::string trouble;        ///< why it could not be searched like this
};
/// The ways that a step can be compared with: it itself, against the first frame, the one before, the mean and all
/// pairs, and with the other motions.
std::vector<AlignStep> ways_of(const AlignStep& step);
/// Searches the align step at `index` in each of these ways.
std::vector<Way> ways_compared(const Chain& chain, int index, const std::vector<AlignStep>& ways,
                               const FrameReader& frames, const Job& job);

/// The chain for another stack whose frames belong to those of the open one, in order: the same transforms, and the
/// same frames left out (of both `chain` and `others`). Raises a call error when there are not as many frames.
Chain carried_to(Chain chain, const std::vector<FrameFile>& frames, std::vector<FrameFile>& others);

/// Evaluates the chain for every frame and writes the results one after the other, as SequenceWriter does. A frame that
/// cannot be read is an empty page, one that is left out has none; one whose result has another size, bands or depth
/// raises an input error.
RunResult write_sequence(const Chain& chain, const std::vector<FrameFile>& frames, const std::filesystem::path& out,
                         const WriteOptions& options, const Job& job);

}  // namespace fexel
