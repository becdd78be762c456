/// Rotate: by an angle, along a line, by quarters.
#include "app/steps/step_page.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

double nearest_quarter(const RotateStep& step) {
  return 90 * std::round(step.degrees / 90);
}
/// The same angle, above -180 and up to 180 degrees.
double in_circle(double degrees) {
  const double out = std::remainder(degrees, 360);
  return out == -180 ? 180 : out;
}

class RotatePage : public StepPage<RotateStep> {
 public:
  explicit RotatePage(Document& document) : StepPage(document) {
    head(tr("Rotation"));
    angle(
        tr("angle"), [](const RotateStep& s) { return s.degrees; }, [](RotateStep& s, double v) { s.degrees = v; });
    auto* quarters = new QHBoxLayout;
    for (const int by : {-90, 180, 90}) {
      auto* turn = new QPushButton(by < 0 ? tr("−90°") : by == 180 ? tr("180°") : tr("+90°"));
      turn->setAccessibleName(tr("Rotate by %1 degrees").arg(by));
      turn->setToolTip(by < 0      ? tr("A quarter turn clockwise")
                       : by == 180 ? tr("A half turn")
                                   : tr("A quarter turn counter-clockwise"));
      quarters->addWidget(turn);
      connect(turn, &QPushButton::clicked, this,
              [this, by] { take([by](RotateStep& s) { s.degrees = in_circle(s.degrees + by); }); });
    }
    column()->addLayout(quarters);
    auto* level = button(tr("Level along a line…"), [this] {
      ask_line(tr("Drag along what should be level or plumb. Escape leaves it."), [this](Point a, Point b) {
        const double run = b.x - a.x, rise = a.y - b.y;
        // The angle that takes the line to the nearer of level and plumb.
        const double slope = std::atan2(rise, run) * 180 / M_PI;
        const double off = std::remainder(slope, 90);
        take([&](RotateStep& s) { s.degrees = -std::round(off * 1e4) / 1e4; });
      });
    });
    level->setToolTip(tr("Draw a line on the picture; the rotation makes it level or plumb, whichever is nearer"));
    exact_ = button({}, [this] {
      take([](RotateStep& s) { s = RotateStep{nearest_quarter(s), std::nullopt, Extent::grow}; });
    });
    head(tr("About"));
    centre(&RotateStep::centre);
    output_size({Extent::grow, Extent::keep, Extent::inside});
    finish();
    show_with([this](const RotateStep& s) {
      const double off = std::remainder(s.degrees, 90);
      const bool near = std::abs(s.degrees) > 80 && std::abs(off) < 2 && (off != 0 || s.centre);
      exact_->setVisible(near);
      exact_->setText(tr("Make it exactly %1°").arg(nearest_quarter(s)));
      exact_->setAccessibleName(exact_->text());
    });
  }

 private:
  QString says(const RotateStep& s, const StepInput& input, const Station& made) override {
    const double turned = std::remainder(s.degrees, 360);
    if (turned == 0)
      return tr("Not rotated: type an angle, press a button, drag the handle on the picture, or level along a line.");
    QStringList said{turned < 0 ? tr("Rotated by %1° clockwise.").arg(plain(-turned, 6))
                                : tr("Rotated by %1° counter-clockwise.").arg(plain(turned, 6))};
    const int across = made.size.width - input.size.width, down = made.size.height - input.size.height;
    if (std::remainder(turned, 90) == 0) {
      if (std::abs(turned) == 180) said << tr("A half turn, not a mirror image.");
    } else if (s.extent == Extent::grow) {
      said << tr("The picture grew by %1 × %2 px; its corners are empty.").arg(across).arg(down);
    } else if (s.extent == Extent::keep) {
      said << tr("The size stayed: corners of the picture are cut off, and corners of the output are empty.");
    } else {
      said << tr("%1 are left, as large as can be without empty corners.").arg(size_of(made.size));
    }
    said << how(made);
    return said.join(" ");
  }
  QPushButton* exact_;
};

class RotateUi : public StepUiOf<RotateStep> {
 public:
  RotateUi()
      : StepUiOf({QObject::tr("Rotate"), QObject::tr("by any angle; multiples of 90° are exact"),
                  QObject::tr("turn quarter 90 180 270 portrait landscape upright straighten level plumb tilted "
                              "slanted angle degrees horizon")}) {}
  InspectorPage* page(Document& document) const override { return new RotatePage(document); }
  QString summary_of(const RotateStep& step) const override {
    if (step.degrees == 0) return QObject::tr("not rotated");
    return step.degrees < 0 ? QObject::tr("%1° clockwise").arg(plain(-step.degrees))
                            : QObject::tr("%1° counter-clockwise").arg(plain(step.degrees));
  }
  StepFigure figure_of(const RotateStep& step, const StepInput& input) const override {
    const Point centre = step.centre.value_or(input.size.middle());
    const double arm = arm_of(input), turn = std::remainder(step.degrees, 360);
    StepFigure out;
    const Point end = around(centre, arm, turn);
    out.handles = {{end, ""}, {centre, "c"}};
    out.lines.push_back({{centre, around(centre, arm, 0)}});
    out.lines.push_back({{centre, end}});
    if (std::abs(turn) > 4) {
      StepLine way = arc(centre, 0.7 * arm, 0, turn);
      way.arrow = true;
      out.lines.push_back(way);
    }
    return out;
  }
  RotateStep moved(RotateStep step, const StepInput& input, int index, Point to) const override {
    const Point centre = step.centre.value_or(input.size.middle());
    if (index == 1)
      step.centre = Point{rounded(to.x, 0.1), rounded(to.y, 0.1)};
    else if (distance(centre, to) > 1)
      step.degrees = rounded(angle_of(centre, to), 0.01);
    return step;
  }
  StepVariants variants_of(const RotateStep& step) const override {
    return extent_variants(step, {Extent::grow, Extent::keep, Extent::inside});
  }
};

}  // namespace

const StepUi& rotate_ui() {
  return made_in_language<RotateUi>();
}

}  // namespace fexel
