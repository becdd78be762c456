#include "app/steps/step_ui.h"

#include <algorithm>

#include "app/ui/language.h"
#include "app/ui/text.h"

// All kinds of steps in the order of the work: each has a file of this name in this folder.
#define FEXEL_STEPS(X) \
  X(rectify)           \
  X(fit)               \
  X(crop)              \
  X(rotate)            \
  X(mirror)            \
  X(translate)         \
  X(resize)            \
  X(downsample)        \
  X(pad)               \
  X(tilt)              \
  X(unwrap)            \
  X(lens)              \
  X(matrix)            \
  X(bands)             \
  X(local_contrast)    \
  X(background)        \
  X(highpass)          \
  X(denoise)           \
  X(convolve)          \
  X(align)

namespace fexel {

#define FEXEL_DECLARE(name) const StepUi& name##_ui();
FEXEL_STEPS(FEXEL_DECLARE)
#undef FEXEL_DECLARE

const std::vector<const StepUi*>& step_uis() {
#define FEXEL_LIST(name) &name##_ui(),
  struct All {
    std::vector<const StepUi*> list = {FEXEL_STEPS(FEXEL_LIST)};
  };
#undef FEXEL_LIST
  return made_in_language<All>().list;
}

const StepUi& ui_of(const std::string& word) {
  const auto at = std::ranges::find_if(step_uis(), [&](const StepUi* ui) { return word == ui->word(); });
  if (at == step_uis().end()) throw call_error("There is no page for the step \"" + word + "\".", "step", {});
  return **at;
}

const StepUi& ui_of(const StepKind& step) {
  return ui_of(std::string(word_of(step)));
}

QString step_title(const std::string& word) {
  return ui_of(word).texts().title;
}

QString called(const Step& step) {
  return step.name.empty() ? ui_of(step.kind).texts().title.toLower() : "“" + text_of(step.name) + "”";
}

bool step_answers(const StepUi& ui, const QString& wanted) {
  const StepUi::Texts& texts = ui.texts();
  const QString all = texts.title + ' ' + texts.purpose + ' ' + texts.search_words;
  return std::ranges::all_of(wanted.split(' ', Qt::SkipEmptyParts),
                             [&](const QString& part) { return all.contains(part, Qt::CaseInsensitive); });
}

QString parameter_text(const Step& step, const Station& made) {
  if (made.problem) return QObject::tr("cannot be made");
  return step.on ? ui_of(step.kind).summary(step.kind) : QObject::tr("off");
}

}  // namespace fexel
