#pragma once
/// Places that two pictures have in common, found without a start.
#include <vector>

#include "base/job.h"
#include "fit/fit.h"
#include "image/image.h"

namespace fexel {

struct ProposedPair {
  PointPair pair;    ///< `to` in pixels of the second picture, with what is stated of the match
  double sigma = 0;  ///< standard uncertainty of `to` per axis, in its pixels
  double score = 0;  ///< correlation of the patches
};

struct Proposal {
  std::vector<ProposedPair> pairs;  ///< the best first
  Map map;                          ///< projective, through all of them
  double rms = 0;                   ///< of the pairs about it, in pixels of the second picture
  int tried = 0;                    ///< places whose patches were looked for
  bool unlike = false;              ///< light and dark were let change places
};

/// At most `most` pairs of places of two pictures of one plane surface, or of one camera's turn: distinctive places
/// (see features_of()) are paired by their descriptors, sorted out by consensus of random samples (M. A. Fischler, R.
/// C. Bolles, 1981, "Random sample consensus"), kept only where so many could hardly agree by chance (L. Moisan, B.
/// Stival, 2004, "A probabilistic criterion to detect rigid point matches"), and then places spread over what both show
/// are matched each by its patch (matched_patch()) about where the consensus expects them. Both pictures are f32 with
/// one band. The same pictures give the same pairs.
///
/// Raises an input error where the pictures have nothing in common that could be relied on, or where two transforms
/// explain them as well.
Proposal propose_pairs(const Image& first, const Image& second, int most, const Job& job);

}  // namespace fexel
