/// Lens distortion, undone or added.
#include "app/steps/step_page.h"
#include "app/ui/language.h"
#include "report/grid_chain.h"

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
    head(tr("From the library"));
    library_ = new QComboBox;
    library_->setAccessibleName(tr("Lenses in the library"));
    library_->setPlaceholderText(tr("a calibrated lens"));
    row({}, library_);
    connect(library_, &QComboBox::activated, this, [this](int i) { take_over(library_->itemText(i)); });
    unfit_ = fields::sentence(tr("Whether the lens fits"));
    column()->addWidget(unfit_);
    unfit_->hide();
    finish();
  }

 private:
  /// A lens that was calibrated for this size of pictures, or for a larger or smaller one of the same shape.
  void take_over(const QString& name) {
    try {
      const LensCalibration lens = lens_named(name.toStdString()).calibration;
      const Size size = input().size;
      const double x = static_cast<double>(size.width) / lens.size.width,
                   y = static_cast<double>(size.height) / lens.size.height;
      LensStep made = lens_step_of(lens);
      made.focal = *made.focal * x;
      made.centre = Point{made.centre->x * x, made.centre->y * y};
      const bool same = size == lens.size, alike = std::abs(x / y - 1) < 0.01;
      fields::say(
          unfit_,
          same ? tr("Taken over: %1 views, focal length %2 ± %3 px.")
                     .arg(lens.views)
                     .arg(number_shown(number_text(lens.focal.value, decimals_for(lens.focal.sigma))),
                          number_shown(short_number(lens.focal.sigma, 2)))
          : alike ? tr("It was made for %1 × %2 px, and is scaled to this picture.")
                        .arg(lens.size.width)
                        .arg(lens.size.height)
                  : tr("It was made for %1 × %2 px, which is another shape: check that the picture is not a cut-out.")
                        .arg(lens.size.width)
                        .arg(lens.size.height),
          !same && !alike);
      take([&](LensStep& s) {
        const bool add = s.add;
        s = made;
        s.add = add;
      });
    } catch (const Error& error) {
      fields::say(unfit_, text_of(error), true);
    }
    unfit_->show();
  }

  void showEvent(QShowEvent* event) override {
    library_->clear();
    for (const std::string& name : lenses_in_library()) library_->addItem(text_of(name));
    library_->setCurrentIndex(-1);
    library_->setEnabled(library_->count() > 0);
    unfit_->hide();
    StepPage::showEvent(event);
  }

  QComboBox* library_;
  QLabel* unfit_;
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
  return made_in_language<LensUi>();
}

}  // namespace fexel
