#pragma once
/// Cells of tables.
#include <string>
#include <string_view>
#include <vector>

namespace fexel {

/// A text as a cell of a CSV table: in quotes, with its own quotes doubled.
inline std::string csv_quoted(std::string_view text) {
  std::string out = "\"";
  for (const char c : text) {
    if (c == '"') out += '"';
    out += c;
  }
  return out + '"';
}

/// The cells of a row: apart by commas, with blanks around them and quotes taken off.
std::vector<std::string> csv_cells(const std::string& line);

}  // namespace fexel
