#include "text/csv.h"

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

}  // namespace fexel
