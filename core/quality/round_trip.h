#pragma once
/// What the geometry of a chain did to detail, found by going there and back.
#include "chain/evaluate.h"

namespace fexel {

struct RoundTripError {
  Image before;     ///< the spot, as the source has it
  Image after;      ///< the same, carried to the result and back, each time with the chain's own kernel
  double rms = 0;   ///< of the difference, in samples, over all bands
  double kept = 1;  ///< share of the spot's contrast (its variance) that came back, 0 to 1
};

/// The loss at a spot of the source of `side` pixels about a place. It is twice what the result has lost: there, and
/// back. Chains whose pixels are computed on the way are followed up to there. Nothing where the spot is too close to
/// the border, or where less than half of it can be seen in the result.
std::optional<RoundTripError> round_trip_at(const Chain& chain, const Layout& layout, const Pyramid& source,
                                            Point place, int side, const Job& job);

}  // namespace fexel
