#include "chain/chain.h"

#include <fmt/format.h>

#include "base/error.h"

namespace fexel {
namespace {

template <std::size_t... I>
std::vector<std::string> words_of(std::index_sequence<I...>) {
  return {std::variant_alternative_t<I, StepKind>::word...};
}

}  // namespace

const char* word_of(const StepKind& kind) {
  return std::visit([](const auto& step) { return step.word; }, kind);
}

std::vector<std::string> step_words() {
  return words_of(std::make_index_sequence<std::variant_size_v<StepKind>>{});
}

const std::vector<std::string>& time_units() {
  static const std::vector<std::string> units{"us", "ms", "s", "min", "h", "d"};
  return units;
}

int whole_size(double v, const std::string& where) {
  const double size = std::max(1.0, std::floor(v + 0.5));
  if (!(size <= largest_side))
    throw call_error(fmt::format("A side of {} pixels is more than a picture can have.", short_number(v, 6)), where,
                     fmt::format("Choose values that give at most {} pixels a side.", static_cast<int>(largest_side)));
  return static_cast<int>(size);
}

}  // namespace fexel
