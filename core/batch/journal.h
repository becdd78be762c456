#pragma once
/// What a run over many files was asked for and what became of each, on the disk as it happens: JSON, a line each.
#include "batch/batch.h"
#include "batch/inputs.h"

namespace fexel {

/// What became of a file.
struct JournalEntry {
  enum class State { done, failed };
  State state = State::done;
  std::filesystem::path output = {};  ///< from the journal's folder
  std::vector<std::string> doubts = {};
  std::string message = {}, where = {}, remedy = {};  ///< of a failure
  bool operator==(const JournalEntry&) const = default;
};

/// What a journal in this folder says of an item; of a result that stood already its record tells.
JournalEntry entry_for(const RunItem& item, const BatchOutcome& outcome, const std::filesystem::path& folder);

/// A run, as its journal tells it.
struct Journal {
  Chain chain;
  RunOptions options;               ///< their folder is the journal's; files with a chain of their own are among them
  std::vector<ChosenInput> inputs;  ///< absolute
  std::map<std::filesystem::path, JournalEntry> entries;  ///< by input
};

/// The journal of a chain's run in a folder: CHAIN.run.jsonl.
std::filesystem::path journal_path(const std::filesystem::path& folder, const std::string& chain_name);

/// Whether it is of a run of this chain: then its corrections hold.
bool same_run(const Journal& journal, const Chain& chain);

/// Reads one. A last line that was cut off is left out. Raises a call error, with the line's number, for what is no
/// journal.
Journal load_journal(const std::filesystem::path& path);
Journal parse_journal(const std::string& text);
/// The whole text, entries in the order of the inputs.
std::string write_journal(const Journal& journal);

/// Keeps a journal on the disk. Every line is flushed before the call returns; calls may come from any thread.
class JournalWriter {
 public:
  /// Writes the journal as it stands. One of another chain that is there is kept beside it, as NAME.before. Raises an
  /// input error where that is not possible.
  JournalWriter(std::filesystem::path path, Journal journal);
  ~JournalWriter();
  JournalWriter(const JournalWriter&) = delete;
  JournalWriter& operator=(const JournalWriter&) = delete;

  void add(const std::filesystem::path& input, const JournalEntry& entry);
  /// A chain of its own for this input, or none.
  void set_own_chain(const std::filesystem::path& input, const std::optional<Chain>& chain);
  /// Writes the file anew, each input once, so that its bytes do not depend on the order in which files were finished.
  void tidy();
  const std::filesystem::path& path() const { return path_; }
  Journal journal() const;

 private:
  void append(const std::string& line);
  void open();
  mutable std::mutex mutex_;
  std::filesystem::path path_;
  Journal journal_;
  int descriptor_ = -1;
};

}  // namespace fexel
