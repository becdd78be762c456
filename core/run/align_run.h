#pragma once
/// Sequences and bands in files: an align step is searched, and its chain is run.
#include "run/align_search.h"
#include "run/axes.h"
#include "run/write_frames.h"

namespace fexel {

struct AlignRunOptions {
  AlignStep step;                ///< what is searched, and how
  bool bands = false;            ///< the frames are bands that look unlike
  std::filesystem::path mask;    ///< a picture as large as the reference: where it is zero, nothing is matched
  std::vector<Mask> masks = {};  ///< of the frames
  std::filesystem::path out;     ///< a TIFF, or numbered files
  std::vector<std::filesystem::path> carry = {};  ///< stacks that get the same transforms
  AxisChoice choice = {};                         ///< what is matched of a file with axes; all of it is written
  bool trim = false;                              ///< to the largest rectangle that all frames share
  bool leave_out_failed = false;                  ///< frames that did not match have no page
  bool compress = false;
  bool replace = false;
  Resampling resampling = {};
  Limits limits = {};
  std::int64_t memory = memory_to_use();
  /// The I-th of N blocks of the frames alone, written to numbered files that count through all of them.
  std::pair<int, int> part = {1, 1};
  std::filesystem::path report = {};  ///< that the caller will write: checked before the work
  ProtectedPaths keep = {};           ///< what the run reads beside its inputs and what is named here
};

struct AlignRunResult {
  std::vector<FrameFile> files;
  Chain chain;  ///< with the step, all of its frames found, and the crop behind it
  AlignStep step;
  Size reference;
  CropRectangle common;           ///< the largest rectangle of the reference that every frame which did not fail covers
  std::vector<RunResult> stacks;  ///< the sequence, and each that was carried
  std::vector<std::filesystem::path> written;
  double seconds = 0;  ///< from the first read to the last byte
  bool all_matched() const;
};

/// The stacks that a run writes, in the order of AlignRunResult::stacks, with all their files.
std::vector<Target> align_targets(const AlignRunOptions& options, int frames, int first_number = 1);

/// Searches, then writes every frame as the reference lies, with its depth and bands, one page each (or, for the bands
/// of one file, one page with all). A frame that failed is written where it is, and is empty where it cannot be read or
/// has another depth. Checks all names before it reads a pixel. Frames are read, and read again, one after the other: a
/// stack may be larger than memory.
AlignRunResult align_files(const std::vector<std::filesystem::path>& inputs, const AlignRunOptions& options,
                           const Job& job);

/// The trial of a run on its reference, with the same region and masks; see try_known_motions(). ReferenceMode a
/// picture or a mean it is the first frame.
SelfTest run_self_test(const AlignRunOptions& options, const AlignRunResult& result, int rounds, const Job& job);

}  // namespace fexel
