#include "steps/steps.h"

#include "base/error.h"

namespace fexel {
namespace {

constexpr auto every_step = std::make_index_sequence<std::variant_size_v<StepKind>>{};

template <std::size_t... I>
std::vector<std::string> words_of(std::index_sequence<I...>) {
  return {std::variant_alternative_t<I, StepKind>::word...};
}

template <std::size_t... I>
bool begin_any(const std::string& word, const StepInput& input, StepKind& out, std::index_sequence<I...>) {
  const auto one = [&]<class Kind>(std::type_identity<Kind>) {
    if (word != Kind::word) return false;
    Kind step;
    begin_step(step, input);
    out = std::move(step);
    return true;
  };
  return (one(std::type_identity<std::variant_alternative_t<I, StepKind>>{}) || ...);
}

}  // namespace

const char* word_of(const StepKind& kind) {
  return std::visit([](const auto& step) { return step.word; }, kind);
}

std::vector<std::string> step_words() {
  return words_of(every_step);
}

const std::vector<std::pair<std::string, std::string>>& renamed_steps() {
  static const std::vector<std::pair<std::string, std::string>> words = {
      {"turn", "\"rotate\" with the same keys"},
      {"quarter", "\"rotate\" with \"degrees\": 90 for each of the \"turns\""},
      {"shift", "\"translate\" with the same keys"},
      {"reduce", "\"downsample\" with the same keys"},
      {"contrast", "\"local-contrast\" with the same keys"}};
  return words;
}

StepKind step_begun(const std::string& word, const StepInput& input) {
  StepKind out;
  if (!begin_any(word, input, out, every_step))
    throw call_error("There is no step \"" + word + "\".", "step", "Choose another step.");
  return out;
}

std::optional<StepKind> fitted_kind(const StepKind& kind, const StepInput& input) {
  return std::visit(
      [&](const auto& step) -> std::optional<StepKind> {
        if (auto fitted = fitted_step(step, input)) return StepKind(std::move(*fitted));
        return std::nullopt;
      },
      kind);
}

}  // namespace fexel
