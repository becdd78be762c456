#pragma once
/// Searching what an align step asks for, over frames in files.
#include "align/residual.h"
#include "align/self_test.h"
#include "align/sequence.h"
#include "run/frames.h"
#include "steps/steps.h"

namespace fexel {

/// The place of the first align step that is on; nothing where there is none.
std::optional<int> align_step_of(const Chain& chain);
/// The chain as it goes for frames [first, first + count) of its sequence alone.
Chain for_frames(Chain chain, int first, int count);

/// Searches what the align step at `index` asks for: `frames` are source frames, matched as they are at the station
/// that the step gets. Raises what align_frames() does, and a call error at the step's key where it cannot be followed.
/// `found` is called for frames as AlignOptions::found is. `use` is a picture as large as the reference: where it is
/// zero, nothing is matched.
AlignStep searched(const Chain& chain, int index, const FrameReader& frames, const Job& job,
                   const std::function<void(int, const FoundFrame&)>& found = {}, const Image* use = nullptr);

/// What still moves, in windows of 64 px, between two source frames as the chain's align step at `index` lays them.
/// Frames count from 0.
ResidualField residual_displacements(const Chain& chain, int index, Image reference, int reference_frame, Image shown,
                                     int shown_frame, const Job& job);

/// The trial of an align step on one source frame, as it is at the station that the step gets; see
/// try_known_motions().
SelfTest run_self_test(const Chain& chain, int index, Image source, int source_frame, int rounds, const Job& job,
                       const Image* use = nullptr);

/// The largest upright rectangle of whole pixels of the reference that all frames which did not fail share. A frame
/// that shares nothing with those nearer to the reference is left out of it, and is weak, with that reason. `sizes` are
/// the frames'.
CropRectangle common_area(AlignStep& step, Size reference, const std::vector<Size>& sizes);

/// What came of searching a sequence in one way.
struct AlignVariant {
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
std::vector<AlignStep> variants_of(const AlignStep& step);
/// Searches the align step at `index` in each of these ways.
std::vector<AlignVariant> compare_variants(const Chain& chain, int index, const std::vector<AlignStep>& ways,
                                           const FrameReader& frames, const Job& job);

/// The chain for another stack whose frames belong to those of the open one, in order: the same transforms, and the
/// same frames left out (of both `chain` and `others`). Raises a call error when there are not as many frames.
Chain carried_to(Chain chain, const std::vector<FrameFile>& frames, std::vector<FrameFile>& others);

}  // namespace fexel
