#pragma once
/// The transform between two frames, to a hundredth of a pixel.
#include <optional>
#include <string>
#include <vector>

#include "align/prepared.h"
#include "align/steps.h"
#include "filter/fft_plans.h"

namespace fexel {

/// ok: matched. weak: matched, but little speaks for it or something speaks against it. ambiguous: another transform
/// fits about as well. failed: not matched.
enum class MatchStatus { ok, weak, ambiguous, failed };
const char* name_of(MatchStatus status);
const std::vector<std::string>& match_status_names();
/// Raises a call error for a word that is none of them.
MatchStatus match_status_named(const std::string& word);

struct Match {
  Matrix3 matrix = Matrix3::Identity();  ///< carries the frame's places to the reference's; the identity when it failed
  MatchStatus status = MatchStatus::failed;
  double score = 0;             ///< normalised correlation over the overlap
  double detail = 0;            ///< the same of what varies within 32 pixels, which shading cannot feign
  double overlap = 0;           ///< share of the reference that the frame shows
  double uncertainty_px = 0;    ///< RMS over the reference of the standard uncertainty per axis
  StepMatrix covariance;        ///< of a step at the reference
  double sureness = 0;          ///< that it is no chance, see sureness(); of one that matched
  double misfit_px = 0;         ///< RMS over the reference of what a larger model would change; 0 where nothing
  double parts_px = 0;          ///< RMS of how parts of the frame move against the whole
  double blind_px = 0;          ///< of the uncertainty, what no scatter shows: aliasing, compression, fixed patterns
  double gain = 1, offset = 0;  ///< reference = gain x frame + offset, in samples
  std::string reason;           ///< why it is not ok, and what to do, in a sentence or two
};

/// What a search may do.
struct MatchOptions {
  Model model = Model::rigid;  ///< translation, rigid, similarity, affine or projective
  bool any_turn = true;        ///< look for turns of any angle when shifts do not agree
};

/// Finds how `frame` lies on `reference`: from `start` (a transform like Match::matrix) where one is given and good, or
/// from phase correlation; then, from coarse to fine, least squares on the reference's gradient with each frame's light
/// evened out (inverse composition: S. Baker, I. Matthews, 2004, "Lucas-Kanade 20 years on: a unifying framework"),
/// pixels that disagree weighted down (J. W. Tukey's biweight), the frame read through the cubic spline at full size.
/// The uncertainty comes from the scatter between blocks of 32 px (a sandwich, for residuals are alike within one), and
/// from what no scatter shows: a model that is slightly too small, and how far a search of smoothed frames leads away.
/// It is ok when none of the tests in align/doubts.h speaks against it.
/// Several threads may match at the same time. Raises only the cancelled error.
Match match_frames(const PreparedFrame& reference, const PreparedFrame& frame, const MatchOptions& options,
                   const FftPlans& transforms, const std::optional<Matrix3>& start, const Job& job);

}  // namespace fexel
