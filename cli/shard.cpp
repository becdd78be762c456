#include "cli/shard.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "cli/verbs.h"

namespace fexel::cli {

std::pair<std::size_t, std::size_t> Shard::block(std::size_t count) const {
  const auto edge = [&](int k) { return static_cast<std::size_t>(k) * count / static_cast<std::size_t>(parts); };
  return {edge(part - 1), edge(part)};
}

Shard read_shard(const std::string& text) {
  const auto numbers = numbers_in(text, '/');
  const double part = numbers && numbers->size() == 2 ? numbers->front() : 0, parts = part > 0 ? numbers->back() : 0;
  if (part < 1 || parts < part || parts > 100000 || part != std::floor(part) || parts != std::floor(parts))
    throw call_error(fmt::format("\"{}\" is not a shard.", text), "--shard", "Give I/N, such as 1/4.");
  return {static_cast<int>(part), static_cast<int>(parts)};
}

bool CommandWords::has(const std::string& option) const {
  return std::ranges::any_of(words_, [&](const std::string& w) { return w == option || w.starts_with(option + "="); });
}

std::optional<std::string> CommandWords::value(const std::string& option) const {
  for (std::size_t i = 0; i < words_.size(); ++i) {
    if (words_[i] == option && i + 1 < words_.size()) return words_[i + 1];
    if (words_[i].starts_with(option + "=")) return words_[i].substr(option.size() + 1);
  }
  return std::nullopt;
}

void CommandWords::drop(const std::string& option) {
  for (std::size_t i = 0; i < words_.size(); ++i)
    if (words_[i] == option || words_[i].starts_with(option + "=")) {
      const std::ptrdiff_t count = words_[i] == option && i + 1 < words_.size() ? 2 : 1;
      const auto at = words_.begin() + static_cast<std::ptrdiff_t>(i);
      words_.erase(at, at + count);
      return;
    }
}

void CommandWords::set(const std::string& option, const std::string& value) {
  drop(option);
  words_.push_back(option);
  words_.push_back(value);
}

std::string quoted(const std::string& word) {
  const auto plain = [](unsigned char c) {
    return std::isalnum(c) || std::string_view("_./+-=:,@%").find(static_cast<char>(c)) != std::string_view::npos;
  };
  if (!word.empty() && std::ranges::all_of(word, plain)) return word;
  std::string out = "'";
  for (const char c : word) out += c == '\'' ? std::string("'\\''") : std::string(1, c);
  return out + "'";
}

}  // namespace fexel::cli
