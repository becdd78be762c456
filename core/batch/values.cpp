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
namespace {

const char* const table_remedy =
    "The first row is file,PATH,..., with paths into the chain, such as /steps/0/degrees; then a row a file.";

std::string place(int row) {
  return fmt::format("row {}", row);
}

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
  std::size_t width = 0;
  int row = 0;
  for (std::size_t begin = 0; begin < text.size();) {
    const auto end = std::min(text.find('\n', begin), text.size());
    std::string line = text.substr(begin, end - begin);
    begin = end + 1;
    ++row;
    if (row == 1 && line.starts_with("\xEF\xBB\xBF")) line.erase(0, 3);
    if (line.find_first_not_of(" \t\r,") == std::string::npos) continue;
    std::vector<std::string> cells = csv_cells(line);
    if (width == 0) {
      width = cells.size();
      if (cells.front() != "file")
        throw call_error("The first column of the table is not file.", place(row), table_remedy);
      if (width < 2) throw call_error("The table has no values.", place(row), table_remedy);
      std::set<std::string> seen;
      for (std::size_t i = 1; i < width; ++i) {
        if (!cells[i].starts_with('/') || cells[i].size() < 2)
          throw call_error(fmt::format("\"{}\" is not a path into a chain.", printable(cells[i].substr(0, 60))),
                           place(row), table_remedy);
        if (!seen.insert(cells[i]).second)
          throw call_error(fmt::format("The column {} is there twice.", cells[i]), place(row), "Keep one of them.");
      }
      out.paths_.assign(cells.begin() + 1, cells.end());
      continue;
    }
    if (cells.size() != width)
      throw call_error(fmt::format("This row has {} cells, and the first one has {}.", cells.size(), width), place(row),
                       "Put a list of numbers in one cell, apart by blanks.");
    const std::string name = std::filesystem::path(cells.front()).filename().string();
    if (name.empty()) throw call_error("This row names no file.", place(row), table_remedy);
    if (const auto [at, fresh] = out.rows_.emplace(name, Row{row, {cells.begin() + 1, cells.end()}}); !fresh)
      throw call_error(fmt::format("{} has two rows, {} and {}.", printable(name), at->second.number, row), place(row),
                       "Keep one of them.");
  }
  if (width == 0) throw call_error("The table is empty.", "row 1", table_remedy);
  return out;
}

const ValuesTable::Row* ValuesTable::row_of(const std::string& file_name) const {
  if (const auto found = rows_.find(file_name); found != rows_.end()) return &found->second;
  const auto bare = rows_.find(std::filesystem::path(file_name).stem().string());
  return bare == rows_.end() ? nullptr : &bare->second;
}

std::optional<Chain> ValuesTable::chain_for(const std::string& file_name, const Chain& chain) const {
  const Row* row = row_of(file_name);
  if (!row) return std::nullopt;
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
      throw call_error("The chain has nothing at this path.", fmt::format("{}, {}", place(row->number), paths_[i]),
                       "Steps count from 0: /steps/0 is the first one.");
    } catch (const Error& error) {
      throw call_error(error.message(), fmt::format("{}, {}", place(row->number), paths_[i]), error.remedy());
    }
  }
  try {
    return parse_chain(to_text(text));
  } catch (const Error& error) {
    throw call_error(error.message(), fmt::format("{}, {}", place(row->number), error.where()), error.remedy());
  }
}

std::vector<std::string> ValuesTable::without_file(const std::vector<std::string>& file_names) const {
  std::set<std::string> known;
  for (const std::string& name : file_names) {
    known.insert(name);
    if (!rows_.contains(name)) known.insert(std::filesystem::path(name).stem().string());
  }
  std::vector<std::string> out;
  for (const auto& [name, row] : rows_)
    if (!known.contains(name)) out.push_back(name);
  return out;
}

}  // namespace fexel
