#pragma once
/// Values of a chain that differ from file to file, from a table.
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
  /// The chain for a file, found by its name, or by its name without the ending; nothing where it has no row. Raises a
  /// call error, with the row and the path, for a value that the chain cannot have.
  std::optional<Chain> chain_for(const std::string& file_name, const Chain& chain) const;
  /// Files of the table that are not among these names.
  std::vector<std::string> without_file(const std::vector<std::string>& file_names) const;
  std::size_t size() const { return rows_.size(); }

 private:
  struct Row {
    int number = 0;
    std::vector<std::string> cells;
  };
  const Row* row_of(const std::string& file_name) const;
  std::vector<std::string> paths_;  // of the columns behind the first
  std::map<std::string, Row> rows_;
};

}  // namespace fexel
