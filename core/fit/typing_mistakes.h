#pragma once
/// The usual mistakes in tables of control points, found by what would mend them.
#include <optional>
#include <string>
#include <vector>

#include "fit/fit.h"

namespace fexel {

struct TypingMistake {
  enum class Kind {
    used_twice,    ///< two pairs have one and the same point
    exchanged,     ///< the targets of two pairs are exchanged
    swapped_from,  ///< x and y of one pair's `from`
    swapped_to,    ///< x and y of one pair's `to`
    other_unit,    ///< one pair's `to` is in another unit
    all_swapped,   ///< x and y of every `to`
    y_upward       ///< every `to` counts y upward
  };
  Kind kind;
  int pair = 0, other = 0;  ///< from 0; `other` of used_twice and exchanged
  double factor = 1;        ///< of other_unit: what mends it
  bool operator==(const TypingMistake&) const = default;
};

/// What explains pairs that do not fit: a mistake is named only where mending it makes the pair agree with all others,
/// and where it disagreed by five times as much before. Of the mistakes of the whole table only where the pairs are
/// laid mirrored, which no camera does. `to` is in whatever unit; models with curves are judged by the affine one.
std::vector<TypingMistake> typing_mistakes(Model model, const std::vector<PointPair>& pairs);

/// The pairs without the mistake. What was used twice is left out the second time. `height` is that of what `to` lies
/// in, from which y is then counted downward; without it the middle of all targets stays where it is.
std::vector<PointPair> mended(std::vector<PointPair> pairs, const TypingMistake& mistake,
                              std::optional<double> height = {});

/// What is wrong, in a sentence, with pairs called by their labels; and what mending does, in two or three words.
std::string sentence_of(const TypingMistake& mistake, const std::vector<std::string>& labels);
std::string remedy_of(const TypingMistake& mistake);

}  // namespace fexel
