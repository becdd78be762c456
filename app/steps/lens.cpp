/// Lens distortion, undone or added.
#include "app/steps/step_page.h"

namespace fexel {
namespace {

class LensPage : public StepPage<LensStep> {
 public:
  explicit LensPage(Document& document) : StepPage(document) {
    head(tr("The lens"));
    segments(
        tr("Direction"), {tr("undo it"), tr("add it")}, [](const LensStep& s) { return s.add ? 1 : 0; },
        [](LensStep& s, int i) { s.add = i == 1; });
    const std::pair<const char*, double Lens::Terms::*> terms[] = {{"k1", &Lens::Terms::k1},
                                                                   {"k2", &Lens::Terms::k2},
                                                                   {"k3", &Lens::Terms::k3},
                                                                   {"p1", &Lens::Terms::p1},
                                                                   {"p2", &Lens::Terms::p2}};
    for (const auto& [name, term] : terms) {
      auto* field = number(
          name, -1e3, 1e3, 9, {}, [term = term](const LensStep& s) { return s.terms.*term; },
          [term = term](LensStep& s, double v) { s.terms.*term = v; });
      field->setSingleStep(0.001);
    }
    number(
        tr("focal length"), 1e-3, 1e9, 2, tr("px"),
        [this](const LensStep& s) { return s.focal.value_or(input().size.width); },
        [](LensStep& s, double v) { s.focal = v; });
    head(tr("About"));
    centre(&LensStep::centre);
    finish();
  }

 private:
  QString says(const LensStep&, const StepInput& input, const Station& made) override {
    double most = 0;
    for (const Point p : Clip().corners(input.size))
      if (const auto at = made.from_previous.forward(p)) most = std::max(most, distance(*at, p));
    const Point middle{input.size.width / 2.0, 0};
    QStringList said;
    if (most < 1e-6) return tr("No term is set, so nothing moves. k1 below zero is a barrel, above zero a cushion.");
    said << tr("Corners move by up to %1 px.").arg(plain(most, 3));
    if (const auto at = made.from_previous.forward(middle))
      said << tr("The middle of the upper side moves by %1 px.").arg(plain(distance(*at, middle), 3));
    said << how(made);
    return said.join(" ");
  }
};

class LensUi : public StepUiOf<LensStep> {
 public:
  LensUi()
      : StepUiOf({QObject::tr("Lens"), QObject::tr("undo the distortion of a lens, or add it"),
                  QObject::tr("distortion barrel pincushion undistort straight lines")}) {}
  InspectorPage* page(Document& document) const override { return new LensPage(document); }
  QString summary_of(const LensStep& step) const override {
    return (step.add ? QObject::tr("add, k1 %1") : QObject::tr("undo, k1 %1")).arg(plain(step.terms.k1));
  }
  StepFigure figure_of(const LensStep& step, const StepInput& input) const override {
    const Point centre = step.centre.value_or(input.size.middle());
    return {{{centre, "c"}}, {}};
  }
  LensStep moved(LensStep step, const StepInput&, int, Point to) const override {
    step.centre = Point{rounded(to.x, 0.1), rounded(to.y, 0.1)};
    return step;
  }
};

}  // namespace

const StepUi& lens_ui() {
  static const LensUi ui;
  return ui;
}

}  // namespace fexel
