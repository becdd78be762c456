#pragma once
/// Values of a chain that differ from file to file, from a table.
#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "chain/chain.h"

namespace fexel {

/// A table with a row for each file. The first row names the columns: `file`, and paths into the chain's text, as
/// "/steps/0/degrees". A cell is what stands at that path: a number, a word, a list as JSON, or the numbers of a list
/// apart by blanks. An empty cell leaves the chain's own value.
class ValuesTable {
 public:
  /// Raises a call error that names the row for a table that is none, and for a file that has two rows.
  static ValuesTable parse(const std::string& text);
  /// The chain for a file, found by its path, by the end of its path, or by its name without the ending; nothing where
  /// it has no row. Raises a call error, with the row and the path, for a value that the chain cannot have.
  std::optional<Chain> chain_for(const std::filesystem::path& file, const Chain& chain) const;
  /// Files of the table that are not among these. Raises a call error for a row that more than one of them has.
  std::vector<std::string> without_file(const std::vector<std::filesystem::path>& files) const;
  std::size_t size() const { return rows_.size(); }

 private:
  struct Row {
    int number = 0;
    std::vector<std::string> cells;
  };
  std::map<std::string, Row>::const_iterator row_of(const std::filesystem::path& file) const;
  std::vector<std::string> paths_;   // of the columns behind the first
  std::map<std::string, Row> rows_;  // by the file as it is written
};

}  // namespace fexel
