#include "batch/values.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <filesystem>
#include <set>
#include <sstream>

#include "base/error.h"
#include "base/printable.h"
#include "text/csv.h"
#include "text/json.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

const char* const table_remedy =
    "The first row is file,PATH,..., with paths into the chain, such as /steps/0/degrees; then a row a file.";

std::optional<double> number_in(std::string_view text) {
  double value = 0;
  const auto [stop, code] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (code != std::errc() || stop != text.data() + text.size()) return std::nullopt;
  return value;
}

/// Numbers apart by blanks, in the shape of the list that stood there: a flat one, or points.
std::optional<Json> list_in(const std::string& cell, const Json& before) {
  std::vector<double> numbers;
  std::istringstream words(cell);
  for (std::string word; words >> word;) {
    const auto value = number_in(word);
    if (!value) return std::nullopt;
    numbers.push_back(*value);
  }
  if (numbers.size() < 2) return std::nullopt;
  Json out = Json::array();
  if (before.is_array() && !before.empty() && before.front().is_array() && !before.front().empty() &&
      numbers.size() % before.front().size() == 0) {
    const std::size_t width = before.front().size();
    for (std::size_t i = 0; i < numbers.size(); i += width)
      out.push_back(std::vector<double>(numbers.begin() + static_cast<std::ptrdiff_t>(i),
                                        numbers.begin() + static_cast<std::ptrdiff_t>(i + width)));
  } else {
    for (const double value : numbers) out.push_back(value);
  }
  return out;
}

Json value_of(const std::string& cell, const Json& before) {
  if (const auto number = number_in(cell)) {
    // Whole numbers stay whole: counts and sizes are.
    if (*number == std::floor(*number) && std::abs(*number) < 1e15) return static_cast<std::int64_t>(*number);
    return *number;
  }
  if (cell == "true" || cell == "false") return cell == "true";
  if (cell.starts_with('[') || cell.starts_with('{')) return parse_json(cell);
  if (const auto list = list_in(cell, before)) return *list;
  return cell;
}

}  // namespace

ValuesTable ValuesTable::parse(const std::string& text) {
  ValuesTable out;
  for (const auto& [row, cells] : csv_rows(text, "Put a list of numbers in one cell, apart by blanks.")) {
    const std::string at = csv_place(row);
    if (out.paths_.empty()) {
      if (cells.front() != "file") throw call_error("The first column of the table is not file.", at, table_remedy);
      if (cells.size() < 2) throw call_error("The table has no values.", at, table_remedy);
      std::set<std::string> seen;
      for (std::size_t i = 1; i < cells.size(); ++i) {
        if (!cells[i].starts_with('/') || cells[i].size() < 2)
          throw call_error(fmt::format("\"{}\" is not a path into a chain.", printable(cells[i].substr(0, 60))), at,
                           table_remedy);
        if (!seen.insert(cells[i]).second)
          throw call_error(fmt::format("The column {} is there twice.", cells[i]), at, "Keep one of them.");
      }
      out.paths_.assign(cells.begin() + 1, cells.end());
      continue;
    }
    const std::string name = fs::path(cells.front()).lexically_normal().string();
    if (cells.front().empty()) throw call_error("This row names no file.", at, table_remedy);
    if (const auto [there, fresh] = out.rows_.emplace(name, Row{row, {cells.begin() + 1, cells.end()}}); !fresh)
      throw call_error(fmt::format("{} has two rows, {} and {}.", printable(name), there->second.number, row), at,
                       "Keep one of them.");
  }
  if (out.paths_.empty()) throw call_error("The table is empty.", "row 1", table_remedy);
  return out;
}

std::map<std::string, ValuesTable::Row>::const_iterator ValuesTable::row_of(const fs::path& file) const {
  // The whole path first, then with fewer and fewer folders; last of all without the ending.
  for (fs::path rest = file.lexically_normal(); !rest.empty();) {
    if (const auto found = rows_.find(rest.string()); found != rows_.end()) return found;
    const auto first = rest.begin();
    fs::path shorter;
    for (auto part = std::next(first); part != rest.end(); ++part) shorter /= *part;
    rest = shorter;
  }
  return rows_.find(file.stem().string());
}

std::optional<Chain> ValuesTable::chain_for(const fs::path& file, const Chain& chain) const {
  const auto found = row_of(file);
  if (found == rows_.end()) return std::nullopt;
  const Row* row = &found->second;
  Json text = parse_json(write_chain(chain));
  for (std::size_t i = 0; i < paths_.size(); ++i) {
    const std::string& cell = row->cells[i];
    if (cell.empty()) continue;
    try {
      const Json::json_pointer pointer(paths_[i]);
      // A new key may be given, where what holds it is there.
      if (!pointer.parent_pointer().empty() && !text.contains(pointer.parent_pointer()))
        throw call_error("The chain has nothing at this path.", paths_[i],
                         "Steps count from 0: /steps/0 is the first one.");
      const Json before = text.contains(pointer) ? text.at(pointer) : Json();
      text[pointer] = value_of(cell, before);
    } catch (const Json::exception&) {
      throw call_error("The chain has nothing at this path.", fmt::format("{}, {}", csv_place(row->number), paths_[i]),
                       "Steps count from 0: /steps/0 is the first one.");
    } catch (const Error& error) {
      throw call_error(error.message(), fmt::format("{}, {}", csv_place(row->number), paths_[i]), error.remedy());
    }
  }
  try {
    return parse_chain(to_text(text));
  } catch (const Error& error) {
    throw call_error(error.message(), fmt::format("{}, {}", csv_place(row->number), error.where()), error.remedy());
  }
}

std::vector<std::string> ValuesTable::without_file(const std::vector<fs::path>& files) const {
  std::map<std::string, fs::path> taken;
  for (const fs::path& file : files) {
    const auto found = row_of(file);
    if (found == rows_.end()) continue;
    if (const auto [at, fresh] = taken.emplace(found->first, file); !fresh)
      throw call_error(
          fmt::format("This row is for {} and for {}.", printable(at->second.string()), printable(file.string())),
          csv_place(found->second.number), "Name the file with its folder, such as left/a.tif.");
  }
  std::vector<std::string> out;
  for (const auto& [name, row] : rows_)
    if (!taken.contains(name)) out.push_back(name);
  return out;
}

}  // namespace fexel
