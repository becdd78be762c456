#pragma once
/// Control points as a table: columns from_x, from_y, to_x, to_y, and name, use, check and
/// uncertainty where they are.
#include <string>
#include <vector>

#include "fit/fit.h"

namespace fexel {

/// `shift` is added to all four numbers: for tables whose first pixel's centre is not at 0.5. Raises a call error that
/// names the row for a wrong head, a number that is none, or a row of another length.
std::vector<PointPair> pairs_from_csv(const std::string& text, double shift);
/// The same table as text, with all eight columns; numbers to a millionth of a pixel.
std::string csv_of_pairs(const std::vector<PointPair>& pairs);

}  // namespace fexel
