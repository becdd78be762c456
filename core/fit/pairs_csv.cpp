#include "fit/pairs_csv.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <optional>

#include "base/error.h"
#include "base/printable.h"
#include "text/csv.h"

namespace fexel {
std::vector<PointPair> pairs_from_csv(const std::string& text, double shift) {
  constexpr const char* numbers[] = {"from_x", "from_y", "to_x", "to_y"};
  const std::string remedy =
      "The first row names the columns: from_x,from_y,to_x,to_y, and name, use, check and uncertainty if you like.";
  std::vector<PointPair> out;
  std::optional<std::size_t> columns[4], name, use, check, uncertainty;
  std::size_t width = 0;
  for (const auto& [row, cells] : csv_rows(text, remedy)) {
    if (width == 0) {
      width = cells.size();
      for (std::size_t i = 0; i < width; ++i) {
        for (std::size_t k = 0; k < 4; ++k)
          if (cells[i] == numbers[k]) columns[k] = i;
        if (cells[i] == "name") name = i;
        if (cells[i] == "use") use = i;
        if (cells[i] == "check") check = i;
        if (cells[i] == "uncertainty") uncertainty = i;
      }
      for (std::size_t k = 0; k < 4; ++k)
        if (!columns[k])
          throw call_error(fmt::format("The table has no column {}.", numbers[k]), csv_place(row), remedy);
      continue;
    }
    const auto number_of = [&](std::size_t column, const char* what) {
      const std::string& cell = cells[column];
      double value = 0;
      const auto [stop, code] = std::from_chars(cell.data(), cell.data() + cell.size(), value);
      if (code != std::errc() || stop != cell.data() + cell.size() || !std::isfinite(value) || std::abs(value) > 1e9)
        throw call_error(fmt::format("\"{}\" is not a number for {}.", printable(cell.substr(0, 60)), what),
                         csv_place(row), "Give numbers with a point, such as 12.5.");
      return value;
    };
    const auto number = [&](std::size_t k) { return number_of(*columns[k], numbers[k]) + shift; };
    PointPair pair{{number(0), number(1)}, {number(2), number(3)}, name ? cells[*name] : "", true};
    const auto truth = [&](std::size_t column, bool otherwise, const char* what) {
      const std::string& cell = cells[column];
      if (cell != "true" && cell != "false" && cell != "1" && cell != "0" && !cell.empty())
        throw call_error(fmt::format("\"{}\" does not say whether the pair {}.", printable(cell.substr(0, 60)), what),
                         csv_place(row), fmt::format("Give true or false, or leave it empty for {}.", otherwise));
      return cell.empty() ? otherwise : cell == "true" || cell == "1";
    };
    if (use) pair.use = truth(*use, true, "is used");
    if (check) pair.check = truth(*check, false, "checks the others");
    if (uncertainty && !cells[*uncertainty].empty()) {
      pair.uncertainty = number_of(*uncertainty, "uncertainty");
      if (!(*pair.uncertainty >= least_stated && *pair.uncertainty <= most_stated))
        throw call_error("The uncertainty of a pair is from 1e-6 to 1e6 px.", csv_place(row),
                         "Leave it empty if unknown.");
    }
    out.push_back(std::move(pair));
  }
  if (width == 0) throw call_error("The table is empty.", "row 1", remedy);
  return out;
}

std::string csv_of_pairs(const std::vector<PointPair>& pairs) {
  std::string out = "from_x,from_y,to_x,to_y,name,use,check,uncertainty\n";
  for (const PointPair& p : pairs) {
    std::string name = p.name;
    std::ranges::replace_if(
        name, [](char c) { return c == '\n' || c == '\r'; }, ' ');
    for (std::size_t at = 0; (at = name.find('"', at)) != std::string::npos; at += 2) name.insert(at, 1, '"');
    out += fmt::format("{:.6f},{:.6f},{:.6f},{:.6f},\"{}\",{},{},{}\n", p.from.x, p.from.y, p.to.x, p.to.y, name, p.use,
                       p.check, p.uncertainty ? fmt::format("{:.6g}", *p.uncertainty) : std::string());
  }
  return out;
}

}  // namespace fexel
