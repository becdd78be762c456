/// Pages of steps that look at a plane from aside, take a lens away, or roll a ring out.
#include <QMouseEvent>
#include <QPainter>

#include <Eigen/LU>
#include "app/document/background.h"
#include "app/steps/plane_drawing.h"

#include "app/pipeline/tile.h"
#include "app/steps/step_page.h"
#include "measure/rim.h"

namespace fexel {
namespace {

class TiltPage : public StepPage<TiltStep> {
 public:
  explicit TiltPage(Document& document) : StepPage(document, step_title(TiltStep::word)) {
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
    connect(drawing_, &PlaneDrawing::held, this, [this](bool on) { this->document().set_dragging(on); });
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
    head(tr("Output size"));
    segments(
        tr("Frame"), {tr("grow"), tr("keep")}, [](const TiltStep& s) { return s.extent == Extent::keep ? 1 : 0; },
        [](TiltStep& s, int i) { s.extent = i == 1 ? Extent::keep : Extent::grow; });
    finish();
    show_with([this](const TiltStep& s) {
      const Eigen::Matrix3d r = rotation_of(s);
      drawing_->show_plane(r, s.parallel ? 0 : s.distance, double(input().size.height) / input().size.width);
      QStringList rows;
      for (int i = 0; i < 3; ++i)
        rows << QString(
                    "<tr><td align='right'>%1</td><td align='right'>&nbsp;&nbsp;%2</td>"
                    "<td align='right'>&nbsp;&nbsp;%3</td></tr>")
                    .arg(text_of(number_text(r(i, 0), 4)), text_of(number_text(r(i, 1), 4)),
                         text_of(number_text(r(i, 2), 4)));
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

class LensPage : public StepPage<LensStep> {
 public:
  explicit LensPage(Document& document) : StepPage(document, step_title(LensStep::word)) {
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

class UnwrapPage : public StepPage<UnwrapStep> {
 public:
  explicit UnwrapPage(Document& document) : StepPage(document, step_title(UnwrapStep::word)) {
    head(tr("The ring"));
    const auto point = [this](const QString& name, double Point::*axis) {
      number(
          name, -largest_side, largest_side, 3, tr("px"), [axis](const UnwrapStep& s) { return s.centre.*axis; },
          [axis](UnwrapStep& s, double v) { s.centre.*axis = v; });
    };
    point(tr("centre x"), &Point::x);
    point(tr("centre y"), &Point::y);
    number(
        tr("outer radius"), 1e-3, largest_side, 2, tr("px"), [](const UnwrapStep& s) { return s.outer; },
        [](UnwrapStep& s, double v) { s.outer = v; });
    number(
        tr("inner radius"), 0, largest_side, 2, tr("px"), [](const UnwrapStep& s) { return s.inner; },
        [](UnwrapStep& s, double v) { s.inner = v; });
    rim_ = button(tr("Centre from the rim"), [this] { look_for_rim(); });
    rim_->setToolTip(tr("Look for the round edge nearest to the outer circle, and take its centre"));
    button(tr("Centre from points on the rim…"), [this] {
      Q_EMIT corners_wanted(tr("Click points around the rim, three or more; Return ends, Backspace takes one back"),
                            [this](const std::vector<Point>& points) { take_points(points); });
    })->setToolTip(tr("A circle through points that you click; the outer circle is laid on it"));
    found_ = fields::sentence(tr("What the rim says"));
    found_->hide();
    column()->addWidget(found_);
    head(tr("The strip"));
    segments(
        tr("Columns run"), {tr("clockwise"), tr("counter-clockwise")},
        [](const UnwrapStep& s) { return s.clockwise ? 0 : 1; }, [](UnwrapStep& s, int i) { s.clockwise = i == 0; });
    angle(
        tr("start"), [](const UnwrapStep& s) { return s.start; }, [](UnwrapStep& s, double v) { s.start = v; })
        ->setToolTip(tr("Where the strip begins: 0 is to the right, counter-clockwise from there"));
    number(
        tr("sweep"), 1e-3, 360, 4, QStringLiteral("°"), [](const UnwrapStep& s) { return s.sweep; },
        [](UnwrapStep& s, double v) { s.sweep = v; });
    number(
        tr("true at radius"), 1e-3, largest_side, 2, tr("px"),
        [](const UnwrapStep& s) { return s.true_radius.value_or((s.inner + s.outer) / 2); },
        [](UnwrapStep& s, double v) { s.true_radius = v; })
        ->setToolTip(tr("The radius at which a length along the strip is a length along the ring"));
    number(
        tr("width"), 1, largest_side, 0, tr("px"),
        [this](const UnwrapStep& s) { return s.width.value_or(made().size.width); },
        [](UnwrapStep& s, double v) { s.width = static_cast<int>(v); });
    number(
        tr("height"), 1, largest_side, 0, tr("px"),
        [this](const UnwrapStep& s) { return s.height.value_or(made().size.height); },
        [](UnwrapStep& s, double v) { s.height = static_cast<int>(v); });
    natural_ = button(tr("One pixel to a pixel"), [this] {
      take([](UnwrapStep& s) {
        s.width.reset();
        s.height.reset();
      });
    });
    finish();
    show_with([this](const UnwrapStep& s) {
      natural_->setVisible(s.width || s.height);
      rim_->setEnabled(!search_.running());
      show_found(s);
    });
  }

 private:
  /// Looks for the rim beside the window; what it finds is taken if the ring is still the one it began with.
  void look_for_rim() {
    const UnwrapStep* now = step<UnwrapStep>();
    if (!now || !document().source() || search_.running()) return;
    const int index = document().selected_step();
    const int run = document().layout().stations[static_cast<std::size_t>(index)].run_start;
    rim_->setEnabled(false);
    search_.start(
        tr("Looking for the rim"),
        [this, before = *now, run, to_picture = map_between(document().layout(), index, run),
         pixels = document().source()->pixels, pictures = document().pictures()](const Job& job) -> Background::Finish {
          const auto picture = pictures ? pictures->at(run, job) : pixels;
          const double reach = std::clamp(0.04 * before.outer, 6.0, 60.0);
          const auto rim = find_rim({picture->base(), to_picture}, before.centre, before.outer, reach);
          return [this, before, rim, reach] {
            rim_->setEnabled(true);
            const UnwrapStep* now = step<UnwrapStep>();
            if (!now || !(*now == before)) return;
            if (!rim) {
              fields::say(found_,
                          tr("No round edge stands out within %1 px of the outer circle. Move its handles closer.")
                              .arg(plain(reach, 2)),
                          true);
              return;
            }
            last_rim_ = rim;
            moved_by_ = distance(rim->centre, before.centre);
            UnwrapStep next = before;
            const auto hundredths = [](double v) { return std::round(v * 100) / 100; };
            next.centre = {hundredths(rim->centre.x), hundredths(rim->centre.y)};
            change(tr("centre from the rim"), next);
          };
        },
        [this](const Error& error) {
          rim_->setEnabled(true);
          fields::say(found_, text_of(error.message() + " " + error.remedy()), true);
        });
  }
  /// The circle through points that were clicked is the outer one.
  void take_points(const std::vector<Point>& points) {
    const UnwrapStep* now = step<UnwrapStep>();
    if (!now) return;
    const auto rim = fit_circle(points);
    if (!rim) {
      fields::say(found_, tr("These points lie on a line, or too close to one; click some farther around the rim."),
                  true);
      return;
    }
    last_rim_ = rim;
    moved_by_ = distance(rim->centre, now->centre);
    UnwrapStep next = *now;
    const auto hundredths = [](double v) { return std::round(v * 100) / 100; };
    next.centre = {hundredths(rim->centre.x), hundredths(rim->centre.y)};
    next.inner = now->inner / now->outer * rim->radius;
    next.outer = hundredths(rim->radius);
    next.inner = hundredths(next.inner);
    change(tr("centre from points"), next);
  }
  void show_found(const UnwrapStep& s) {
    if (!last_rim_) return;
    const double off = distance(last_rim_->centre, s.centre);
    QString text = tr("The rim is a circle of %1 px about %2, %3 ± %4 px; %5 of %6 arcs agree within %7 px.")
                       .arg(text_of(number_text(last_rim_->radius, 2)), text_of(number_text(last_rim_->centre.x, 2)),
                            text_of(number_text(last_rim_->centre.y, 2)),
                            text_of(short_number(std::max(0.01, last_rim_->centre_sigma), 2)))
                       .arg(last_rim_->used)
                       .arg(last_rim_->places)
                       .arg(text_of(short_number(last_rim_->scatter, 2)));
    if (off > 0.05)
      text += tr(" The centre here is %1 px off it: along the strip the rim swings by ± %1 px, once a turn.")
                  .arg(text_of(number_text(off, 1)));
    else if (moved_by_ > 0.05)
      text += tr(" The centre was %1 px off: the rim would have swung by as much, once a turn.")
                  .arg(text_of(number_text(moved_by_, 1)));
    fields::say(found_, text, off > 0.5);
  }
  QString says(const UnwrapStep& s, const StepInput&, const Station& made) override {
    const double truth = s.true_radius.value_or((s.inner + s.outer) / 2);
    QStringList said{tr("%1° of the ring became a strip of %2.").arg(plain(s.sweep), size_of(made.size))};
    said << tr("Lengths along it are true at radius %1 px; at the outer circle they read %2 % short, at the inner one "
               "%3 % long.")
                .arg(plain(truth), text_of(number_text(100 * (1 - truth / s.outer), 1)),
                     s.inner > 0 ? text_of(number_text(100 * (truth / s.inner - 1), 1)) : tr("without limit"));
    if (s.sweep == 360) said << tr("The seam is at %1°.").arg(plain(s.start));
    said << how(made);
    return said.join(" ");
  }
  QPushButton *rim_, *natural_;
  QLabel* found_;
  std::optional<Rim> last_rim_;
  double moved_by_ = 0;
  Background search_;  // the last member: its thread ends before the rest
};

}  // namespace

InspectorPage* make_tilt_page(Document& document) {
  return new TiltPage(document);
}
InspectorPage* make_lens_page(Document& document) {
  return new LensPage(document);
}
InspectorPage* make_unwrap_page(Document& document) {
  return new UnwrapPage(document);
}

}  // namespace fexel
