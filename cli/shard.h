#pragma once
/// Parts of the work of a verb, for several machines.
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace fexel::cli {

/// The I-th of N parts, from 1.
struct Shard {
  int part = 1, parts = 1;
  /// Which of `count` things, from 0, are its own: [first, last), one block after the other.
  std::pair<std::size_t, std::size_t> block(std::size_t count) const;
};
/// "I/N"; a call error for anything else.
Shard read_shard(const std::string& text);

/// The words of another call of this program.
class CommandWords {
 public:
  explicit CommandWords(std::vector<std::string> words) : words_(std::move(words)) {}
  const std::vector<std::string>& all() const { return words_; }
  const std::string& verb() const { return words_.front(); }
  bool has(const std::string& option) const;
  /// What an option is given, as "--out X" or "--out=X".
  std::optional<std::string> value(const std::string& option) const;
  /// Puts another value in its place, or adds the option.
  void set(const std::string& option, const std::string& value);
  /// Takes an option with its value out.
  void drop(const std::string& option);
  void add(const std::string& word) { words_.push_back(word); }

 private:
  std::vector<std::string> words_;
};

/// A word as a shell takes it.
std::string quoted(const std::string& word);

}  // namespace fexel::cli
