#pragma once
/// Where a match may begin, when nothing is known.
#include <optional>

#include "motion/subset.h"

namespace fexel {

struct SearchStart {
  SubsetMotion motion;
  double score = 0;  ///< normalised correlation at whole pixels
};

/// Where what the reference shows about a place is in the frame: normalised correlation at whole pixels, from the
/// frames' halves to full size, `reach` px and less away from where `expected` says; turned by up to 18° where nothing
/// is found without a turn. Nothing where the place is too near the border, or no correlation is over 0.3.
std::optional<SearchStart> search_place(const MotionFrame& reference, const MotionFrame& frame, Point place, int size,
                                        double reach, const SubsetMotion& expected);

}  // namespace fexel
