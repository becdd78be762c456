/// Tilt: the picture's plane turned in space.
#include "app/steps/plane_drawing.h"
#include "app/steps/step_page.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

class TiltPage : public StepPage<TiltStep> {
 public:
  explicit TiltPage(Document& document) : StepPage(document) {
    head(tr("The plane in space"));
    drawing_ = new PlaneDrawing;
    column()->addWidget(drawing_);
    connect(drawing_, &PlaneDrawing::turned, this, [this](double about_x, double about_y) {
      const TiltStep* now = step<TiltStep>();
      if (!now) return;
      TiltStep next = *now;
      const auto tenths = [](double v) { return std::clamp(std::round(v * 10) / 10, -80.0, 80.0); };
      next.about_x = tenths(next.about_x + about_x);
      next.about_y = tenths(next.about_y + about_y);
      change(tr("tilt"), next, QStringLiteral("tilt by hand"));
    });
    connect(drawing_, &PlaneDrawing::held, this, [this](bool on) { this->document().session().set_dragging(on); });
    angle(
        tr("about x"), [](const TiltStep& s) { return s.about_x; }, [](TiltStep& s, double v) { s.about_x = v; })
        ->setToolTip(tr("Positive brings the top nearer to the viewer"));
    angle(
        tr("about y"), [](const TiltStep& s) { return s.about_y; }, [](TiltStep& s, double v) { s.about_y = v; })
        ->setToolTip(tr("Positive takes the right side away from the viewer"));
    angle(
        tr("about z"), [](const TiltStep& s) { return s.about_z; }, [](TiltStep& s, double v) { s.about_z = v; })
        ->setToolTip(tr("A turn in the picture's plane, positive counter-clockwise"));
    matrix_ = fields::sentence(tr("Rotation matrix"));
    column()->addWidget(matrix_);
    head(tr("Seen"));
    segments(
        tr("View"), {tr("perspective"), tr("parallel")}, [](const TiltStep& s) { return s.parallel ? 1 : 0; },
        [](TiltStep& s, int i) { s.parallel = i == 1; });
    distance_ = number(
        tr("from"), 0.05, 1e6, 3, tr("widths away"), [](const TiltStep& s) { return s.distance; },
        [](TiltStep& s, double v) { s.distance = v; });
    head(tr("About"));
    centre(&TiltStep::centre);
    output_size({Extent::grow, Extent::keep});
    finish();
    show_with([this](const TiltStep& s) {
      const Eigen::Matrix3d r = rotation_of(s);
      drawing_->show_plane(r, s.parallel ? 0 : s.distance, double(input().size.height) / input().size.width);
      QStringList rows;
      for (int i = 0; i < 3; ++i)
        rows << QString(
                    "<tr><td align='right'>%1</td><td align='right'>&nbsp;&nbsp;%2</td>"
                    "<td align='right'>&nbsp;&nbsp;%3</td></tr>")
                    .arg(number_shown(number_text(r(i, 0), 4)), number_shown(number_text(r(i, 1), 4)),
                         number_shown(number_text(r(i, 2), 4)));
      fields::say(matrix_, "<table>" + rows.join("") + "</table>");
      distance_->setEnabled(!s.parallel);
    });
  }

 private:
  QString says(const TiltStep& s, const StepInput& input, const Station& made) override {
    if (s.about_x == 0 && s.about_y == 0 && s.about_z == 0)
      return tr("Not tilted: type angles, drag in the drawing, or drag the handle on the picture.");
    QStringList said;
    const Eigen::Matrix3d r = rotation_of(s);
    const double lean = std::acos(std::clamp(std::abs(r(2, 2)), 0.0, 1.0)) * 180 / M_PI;
    said << tr("The plane leans %1° from the viewer's.").arg(plain(lean, 3));
    double low = 1e300, high = 0;
    for (const Point p : Clip().corners(input.size))
      if (const auto j = made.from_previous.jacobian(p)) {
        const double scale = std::sqrt(std::abs(j->determinant()));
        low = std::min(low, scale);
        high = std::max(high, scale);
      }
    if (high > low * 1.001) said << tr("Scale varies %1 % over the picture.").arg(plain(100 * (high / low - 1), 3));
    if (!made.pixel && input.pixel) said << tr("One pixel size no longer holds for all of it.");
    said << how(made);
    return said.join(" ");
  }
  PlaneDrawing* drawing_;
  QLabel* matrix_;
  fields::Number* distance_;
};

class TiltUi : public StepUiOf<TiltStep> {
 public:
  TiltUi()
      : StepUiOf({QObject::tr("Tilt"), QObject::tr("turn the picture's plane in space"),
                  QObject::tr("perspective pitch yaw roll rotate in space")}) {}
  InspectorPage* page(Document& document) const override { return new TiltPage(document); }
  QString summary_of(const TiltStep& step) const override {
    return QObject::tr("%1°, %2°, %3°").arg(plain(step.about_x), plain(step.about_y), plain(step.about_z));
  }
  StepFigure figure_of(const TiltStep& step, const StepInput& input) const override {
    // The handle stands where the tilt puts it: right for about y, down for about x, 90 degrees at the arm's end.
    const Point centre = step.centre.value_or(input.size.middle());
    const double arm = arm_of(input);
    const Point nod = centre + Point{arm * step.about_y / 90, arm * step.about_x / 90};
    const Point side = around(centre, arm, step.about_z);
    StepFigure out;
    out.handles = {{nod, ""}, {side, "z"}, {centre, "c"}};
    out.lines.push_back({{centre, nod}, false, step.about_x != 0 || step.about_y != 0});
    out.lines.push_back({{centre, side}});
    return out;
  }
  TiltStep moved(TiltStep step, const StepInput& input, int index, Point to) const override {
    const Point centre = step.centre.value_or(input.size.middle());
    const double arm = arm_of(input);
    const auto nod = [&](double v) { return std::clamp(rounded(v / arm * 90, 0.1), -80.0, 80.0); };
    if (index == 2) {
      step.centre = Point{rounded(to.x, 0.1), rounded(to.y, 0.1)};
    } else if (index == 1) {
      step.about_z = rounded(angle_of(centre, to), 0.1);
    } else {
      step.about_y = nod(to.x - centre.x);
      step.about_x = nod(to.y - centre.y);
    }
    return step;
  }
  StepVariants variants_of(const TiltStep& step) const override {
    return extent_variants(step, {Extent::grow, Extent::keep});
  }
};

}  // namespace

const StepUi& tilt_ui() {
  return made_in_language<TiltUi>();
}

}  // namespace fexel
