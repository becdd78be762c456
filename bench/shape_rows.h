#pragma once
/// Rows of the table of speeds for steps that bend a picture or change its samples.

namespace fexel {

/// Prints them: maps as multiples of a mild perspective in the same run, pixel steps as multiples of a memcpy of the
/// same bytes; the median of `runs`.
void print_shape_rows(int runs);

}  // namespace fexel
