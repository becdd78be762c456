/// Translate.
#include "app/steps/step_page.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

class TranslatePage : public StepPage<TranslateStep> {
 public:
  explicit TranslatePage(Document& document) : StepPage(document) {
    head(tr("Move by"));
    number(
        tr("right"), -largest_side, largest_side, 3, tr("px"), [](const TranslateStep& s) { return s.dx; },
        [](TranslateStep& s, double v) { s.dx = v; });
    number(
        tr("down"), -largest_side, largest_side, 3, tr("px"), [](const TranslateStep& s) { return s.dy; },
        [](TranslateStep& s, double v) { s.dy = v; });
    output_size({Extent::grow, Extent::keep});
    finish();
  }

 private:
  QString says(const TranslateStep& s, const StepInput&, const Station& made) override {
    if (s.dx == 0 && s.dy == 0) return tr("Nothing moves yet: type a distance, or drag the handle on the picture.");
    return tr("The picture moved %1 px %2 and %3 px %4. %5")
        .arg(plain(std::abs(s.dx)), s.dx < 0 ? tr("left") : tr("right"), plain(std::abs(s.dy)),
             s.dy < 0 ? tr("up") : tr("down"))
        .arg(made.exact ? how(made) : tr("Fractions of a pixel: %1").arg(how(made)));
  }
};

class TranslateUi : public StepUiOf<TranslateStep> {
 public:
  TranslateUi()
      : StepUiOf({QObject::tr("Translate"), QObject::tr("move the picture in its frame"),
                  QObject::tr("move shift offset displace")}) {}
  InspectorPage* page(Document& document) const override { return new TranslatePage(document); }
  QString summary_of(const TranslateStep& step) const override {
    return QObject::tr("%1 px %2, %3 px %4")
        .arg(plain(std::abs(step.dx)), step.dx < 0 ? QObject::tr("left") : QObject::tr("right"),
             plain(std::abs(step.dy)), step.dy < 0 ? QObject::tr("up") : QObject::tr("down"));
  }
  StepFigure figure_of(const TranslateStep& step, const StepInput& input) const override {
    const Point from = input.size.middle(), to = from + Point{step.dx, step.dy};
    StepFigure out;
    out.handles = {{to, ""}};
    if (step.dx != 0 || step.dy != 0) out.lines.push_back({{from, to}, false, true});
    return out;
  }
  TranslateStep moved(TranslateStep step, const StepInput& input, int, Point to) const override {
    step.dx = std::round(to.x - input.size.middle().x);
    step.dy = std::round(to.y - input.size.middle().y);
    return step;
  }
  StepVariants variants_of(const TranslateStep& step) const override {
    return extent_variants(step, {Extent::grow, Extent::keep});
  }
};

}  // namespace

const StepUi& translate_ui() {
  return made_in_language<TranslateUi>();
}

}  // namespace fexel
