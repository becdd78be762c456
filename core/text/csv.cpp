#include "text/csv.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"

namespace fexel {

std::vector<std::string> csv_cells(const std::string& line) {
  std::vector<std::string> out(1);
  bool quoted = false;
  for (std::size_t i = 0; i < line.size(); ++i) {
    if (line[i] == '"') {
      if (quoted && i + 1 < line.size() && line[i + 1] == '"')
        out.back() += line[++i];
      else
        quoted = !quoted;
    } else if (line[i] == ',' && !quoted) {
      out.emplace_back();
    } else {
      out.back() += line[i];
    }
  }
  for (std::string& cell : out) {
    const auto first = cell.find_first_not_of(" \t\r"), last = cell.find_last_not_of(" \t\r");
    cell = first == std::string::npos ? "" : cell.substr(first, last - first + 1);
  }
  return out;
}

std::string csv_place(int row) {
  return fmt::format("row {}", row);
}

std::vector<CsvRow> csv_rows(const std::string& text, const std::string& remedy) {
  std::vector<CsvRow> out;
  int number = 0;
  for (std::size_t begin = 0; begin < text.size();) {
    const auto end = std::min(text.find('\n', begin), text.size());
    std::string line = text.substr(begin, end - begin);
    begin = end + 1;
    ++number;
    if (number == 1 && line.starts_with("\xEF\xBB\xBF")) line.erase(0, 3);
    if (line.find_first_not_of(" \t\r,") == std::string::npos) continue;
    out.push_back({number, csv_cells(line)});
    if (out.back().cells.size() != out.front().cells.size())
      throw call_error(fmt::format("This row has {} cells, and the first one has {}.", out.back().cells.size(),
                                   out.front().cells.size()),
                       csv_place(number), remedy);
  }
  return out;
}

}  // namespace fexel
