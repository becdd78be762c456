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

/// A row that is not empty.
struct CsvRow {
  int number = 0;  ///< of the line, from 1
  std::vector<std::string> cells;
};
/// The rows of a table, without a mark of the byte order. Raises a call error that names the row for one with another
/// number of cells than the first.
std::vector<CsvRow> csv_rows(const std::string& text, const std::string& remedy);
/// "row 3": where a row is, for messages.
std::string csv_place(int row);

}  // namespace fexel
