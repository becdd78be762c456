/// Denoise: median or Gaussian.
#include "app/steps/step_page.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

class DenoisePage : public StepPage<DenoiseStep> {
 public:
  explicit DenoisePage(Document& document) : StepPage(document) {
    head(tr("Take from the surroundings"));
    segments(
        tr("Method"), {tr("median"), tr("Gaussian")}, [](const DenoiseStep& s) { return s.median ? 0 : 1; },
        [](DenoiseStep& s, int i) {
          s.median = i == 0;
          if (s.median) s.radius = std::clamp(std::round(s.radius), 1.0, 100.0);
        });
    number(
        tr("radius"), 0.5, 2000, 2, tr("px"), [](const DenoiseStep& s) { return s.radius; },
        [](DenoiseStep& s, double v) { s.radius = s.median ? std::clamp(std::round(v), 1.0, 100.0) : v; });
    finish();
  }

 private:
  QString says(const DenoiseStep& s, const StepInput&, const Station&) override {
    if (s.median) {
      const int side = 2 * static_cast<int>(s.radius) + 1;
      return tr("Each sample is the middle one of %1 × %1. Single outliers vanish, edges stay; things smaller than "
                "about "
                "%2 px vanish, too.")
          .arg(side)
          .arg(s.radius + 1);
    }
    // The mean of white noise under a Gaussian of sigma: 1 / (2 sqrt(pi) sigma)
    return tr("A Gaussian with a standard deviation of %1 px: noise goes down to about %2 %, and detail with it.")
        .arg(plain(s.radius / 2, 3), plain(std::min(100.0, 100 / (std::sqrt(M_PI) * s.radius)), 2));
  }
};

class DenoiseUi : public StepUiOf<DenoiseStep> {
 public:
  DenoiseUi()
      : StepUiOf({QObject::tr("Denoise"), QObject::tr("median or Gaussian of the surroundings"),
                  QObject::tr("median gaussian smooth blur noise")}) {}
  InspectorPage* page(Document& document) const override { return new DenoisePage(document); }
  QString summary_of(const DenoiseStep& step) const override {
    return (step.median ? QObject::tr("median, radius %1 px") : QObject::tr("Gaussian, radius %1 px"))
        .arg(plain(step.radius));
  }
  StepVariants variants_of(const DenoiseStep& step) const override {
    StepVariants out{QObject::tr("denoising"), {}};
    for (const bool median : {true, false})
      for (const double radius : {1.0, 2.0, 3.0}) {
        DenoiseStep with = step;
        with.median = median;
        with.radius = radius;
        out.all.push_back(
            {(median ? QObject::tr("median, %1 px") : QObject::tr("Gaussian, %1 px")).arg(radius),
             median ? QObject::tr("edges stay, outliers vanish") : QObject::tr("noise and detail go down together"),
             with});
      }
    return out;
  }
};

}  // namespace

const StepUi& denoise_ui() {
  return made_in_language<DenoiseUi>();
}

}  // namespace fexel
