#pragma once
/// Tests on a match before it is called ok: what else could have made the frames agree, and what the model leaves.
#include <string>

#include "align/match.h"
#include "align/search.h"

namespace fexel {

/// How sure it is that chance does not give such an agreement anywhere within the freedom of a search: minus the
/// logarithm of the number of places where it would, from the correlation and the number of independent places of the
/// overlap (R. A. Fisher, 1921, "On the probable error of a coefficient of correlation deduced from a small sample").
double sureness(const Pass& judged, double correlation, double overlap, const MatchOptions& options);

/// What a larger model would change.
struct Misfit {
  double px = 0;            ///< RMS over the frame of what it moves
  double significance = 0;  ///< chi squared of the numbers that it adds
  SmallStep step;           ///< of the projective model
  int blocks = 0;           ///< that told it
};

/// From the last pass of a search; nothing is left where the model is projective.
Misfit misfit_of(const Search& search, Model model, Size frame, int level);
/// The same from a search with the projective model and where it led.
Misfit misfit_between(const Matrix3& inverse_map, const Search& larger, Size frame, int level);
/// Whether a misfit is there beyond chance.
bool significant(const Misfit& misfit, Model model);
/// What to do about it, in a sentence.
std::string remedy_of(const Misfit& misfit, Model model, Size frame);

/// How parts of the frame move against the whole.
struct Parts {
  double px = 0;     ///< the largest shift of a part
  double rms = 0;    ///< over the parts
  double share = 0;  ///< of the parts that move beyond chance
};
Parts parts_of(const Search& search, const Misfit& misfit, Size frame, int level);

/// Blocks that agree where they stand and not where the rest of the frame moved, both judged at `level`.
LeftOut still_blocks(const std::vector<BlockSums>& moved, const std::vector<BlockSums>& standing, Size frame,
                     int level);
/// How far, in px, pixels seem to be from where they should be, each for itself: the part of the residuals that grows
/// with the gradient, over the gradient. Noise does not; what sampling cannot carry, other blur and pixels that do not
/// move with the scene do.
double jitter_of(const Pass& judged, const Expectation& light);
/// The share of blocks with texture that agree much less than the usual one.
double share_apart(const std::vector<BlockSums>& judged, double noise);

/// By how much blocks judged under one transform fit better than under another, over the blocks that both show, as a
/// multiple of what noise alone gives: twice the logarithm of the ratio of likelihoods over the root of the number of
/// pixels. Nothing where both show less than a third of the first one's.
std::optional<double> evidence(const std::vector<BlockSums>& one, const std::vector<BlockSums>& other,
                               const Expectation& light);

}  // namespace fexel
