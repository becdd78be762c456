/// Local contrast.
#include "app/steps/step_page.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

class LocalContrastPage : public StepPage<LocalContrastStep> {
 public:
  explicit LocalContrastPage(Document& document) : StepPage(document) {
    head(tr("How local, how strong"));
    number(
        tr("tile"), 8, largest_side, 0, tr("px"), [](const LocalContrastStep& s) { return s.tile; },
        [](LocalContrastStep& s, double v) { s.tile = static_cast<int>(v); });
    number(
        tr("at most"), 1, 1000, 2, tr("times steeper"), [](const LocalContrastStep& s) { return s.limit; },
        [](LocalContrastStep& s, double v) { s.limit = v; });
    finish();
  }

 private:
  QString says(const LocalContrastStep& s, const StepInput&, const Station&) override {
    return tr("Contrast is even over tiles of %1 px. Grey levels no longer compare across the picture: use it to match "
              "and to look, not to measure light.")
        .arg(s.tile);
  }
};

class LocalContrastUi : public StepUiOf<LocalContrastStep> {
 public:
  LocalContrastUi()
      : StepUiOf({QObject::tr("Local contrast"), QObject::tr("the same contrast everywhere"),
                  QObject::tr("equalise equalize local brightness")}) {}
  InspectorPage* page(Document& document) const override { return new LocalContrastPage(document); }
  QString summary_of(const LocalContrastStep& step) const override {
    return QObject::tr("tiles of %1 px").arg(step.tile);
  }
};

}  // namespace

const StepUi& local_contrast_ui() {
  return made_in_language<LocalContrastUi>();
}

}  // namespace fexel
