/// Mirror.
#include "app/steps/step_page.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

class MirrorPage : public StepPage<MirrorStep> {
 public:
  explicit MirrorPage(Document& document) : StepPage(document) {
    head(tr("What changes places"));
    segments(
        tr("What changes places"), {tr("left ↔ right"), tr("up ↕ down")},
        [](const MirrorStep& s) { return s.reverse == 'x' ? 0 : 1; },
        [](MirrorStep& s, int i) { s.reverse = i == 0 ? 'x' : 'y'; });
    finish();
  }

 private:
  QString says(const MirrorStep& s, const StepInput&, const Station& made) override {
    return tr("%1 have changed places: a mirror image, in which letters read backwards; not a half turn. %2")
        .arg(s.reverse == 'x' ? tr("Left and right") : tr("Upper and lower side"), how(made));
  }
};

class MirrorUi : public StepUiOf<MirrorStep> {
 public:
  MirrorUi()
      : StepUiOf({QObject::tr("Mirror"), QObject::tr("left and right, or up and down, change places"),
                  QObject::tr("flip reverse handedness reflect")}) {}
  InspectorPage* page(Document& document) const override { return new MirrorPage(document); }
  QString summary_of(const MirrorStep& step) const override {
    return step.reverse == 'x' ? QObject::tr("left ↔ right") : QObject::tr("up ↔ down");
  }
};

}  // namespace

const StepUi& mirror_ui() {
  return made_in_language<MirrorUi>();
}

}  // namespace fexel
