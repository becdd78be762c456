/// High-pass.
#include "app/steps/step_page.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

class HighpassPage : public StepPage<HighpassStep> {
 public:
  explicit HighpassPage(Document& document) : StepPage(document) {
    head(tr("Keep what changes within"));
    number(
        tr("radius"), 0.5, 2000, 2, tr("px"), [](const HighpassStep& s) { return s.radius; },
        [](HighpassStep& s, double v) { s.radius = v; });
    finish();
  }

 private:
  QString says(const HighpassStep& s, const StepInput& input, const Station&) override {
    return tr("What changes over more than about %1 px is taken away%2. Half of the contrast is left of waves %3 px "
              "long.")
        .arg(plain(2 * s.radius, 3),
             input.depth == Depth::f32 ? QString() : tr("; the middle grey stands for nothing left"),
             // exp(-2 pi^2 sigma^2 / L^2) = 1/2 with sigma = radius / 2
             plain(M_PI * s.radius / std::sqrt(2 * std::log(2.0)), 3));
  }
};

class HighpassUi : public StepUiOf<HighpassStep> {
 public:
  HighpassUi()
      : StepUiOf({QObject::tr("High-pass"), QObject::tr("take slow changes of light away"),
                  QObject::tr("background flatten shading illumination")}) {}
  InspectorPage* page(Document& document) const override { return new HighpassPage(document); }
  QString summary_of(const HighpassStep& step) const override {
    return QObject::tr("within %1 px").arg(plain(step.radius));
  }
};

}  // namespace

const StepUi& highpass_ui() {
  return made_in_language<HighpassUi>();
}

}  // namespace fexel
