#include "steps/steps.h"

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

}  // namespace fexel
