/// Unwrap: a ring rolled out to a strip.
#include "app/document/background.h"
#include "app/steps/step_page.h"
#include "app/ui/language.h"
#include "measure/ring_edge.h"

namespace fexel {
namespace {

class UnwrapPage : public StepPage<UnwrapStep> {
 public:
  explicit UnwrapPage(Document& document) : StepPage(document) {
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
    find_ = button(tr("Centre from the edge"), [this] { find_edge(); });
    find_->setToolTip(tr("Look for the round edge nearest to the outer circle, and take its centre"));
    button(tr("Centre from points on the edge…"), [this] {
      ask_points(tr("Click points around the edge, three or more; Return ends, Backspace takes one back"),
                 [this](const std::vector<Point>& points) { take_points(points); });
    })->setToolTip(tr("A circle through points that you click; the outer circle is laid on it"));
    found_ = fields::sentence(tr("What the edge says"));
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
      find_->setEnabled(!search_.running());
      show_found(s);
    });
  }

 private:
  /// Looks for the rim beside the window; what it finds is taken if the ring is still the one it began with.
  void find_edge() {
    const UnwrapStep* now = step<UnwrapStep>();
    if (!now || !document().source() || search_.running()) return;
    const int index = document().selected_step();
    const int run = document().layout().stations[static_cast<std::size_t>(index)].run_start;
    find_->setEnabled(false);
    search_.start(
        tr("Looking for the edge of the ring"),
        [this, before = *now, run, to_picture = map_between(document().layout(), index, run),
         pixels = document().source()->pixels, pictures = document().pictures()](const Job& job) -> Background::Finish {
          const auto picture = pictures ? pictures->at(run, job) : pixels;
          const double reach = std::clamp(0.04 * before.outer, 6.0, 60.0);
          EdgeRefusal why;
          const auto rim = find_ring_edge({picture->base(), to_picture}, before.centre, before.outer, reach, &why);
          return [this, before, rim, reach, why] {
            find_->setEnabled(true);
            const UnwrapStep* now = step<UnwrapStep>();
            if (!now || !(*now == before)) return;
            if (!rim) {
              fields::say(found_,
                          tr("No round edge stands out within %1 px of the outer circle%2. Move its handles closer, or "
                             "click points on it.")
                              .arg(plain(reach, 2), why.why == EdgeRefusal::Why::none
                                                        ? QString()
                                                        : QStringLiteral(": ") + text_of(reason_of(why))),
                          true);
              return;
            }
            last_edge_ = rim;
            moved_by_ = distance(rim->centre, before.centre);
            UnwrapStep next = before;
            const auto hundredths = [](double v) { return std::round(v * 100) / 100; };
            next.centre = {hundredths(rim->centre.x), hundredths(rim->centre.y)};
            change(tr("centre from the edge"), next);
          };
        },
        [this](const Error& error) {
          find_->setEnabled(true);
          fields::say(found_, text_of(error.message() + " " + error.remedy()), true);
        });
  }
  /// The circle through points that were clicked is the outer one.
  void take_points(const std::vector<Point>& points) {
    const UnwrapStep* now = step<UnwrapStep>();
    if (!now) return;
    const auto rim = fit_circle(points);
    if (!rim) {
      fields::say(found_, tr("These points lie on a line, or too close to one; click some farther around the edge."),
                  true);
      return;
    }
    last_edge_ = rim;
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
    if (!last_edge_) return;
    const double off = distance(last_edge_->centre, s.centre);
    QString text =
        tr("The edge of the ring is a circle of %1 px about %2, %3 ± %4 px; %5 of %6 arcs agree within %7 px.")
            .arg(number_shown(number_text(last_edge_->radius, 2)), number_shown(number_text(last_edge_->centre.x, 2)),
                 number_shown(number_text(last_edge_->centre.y, 2)),
                 number_shown(short_number(std::max(0.01, last_edge_->centre_sigma), 2)))
            .arg(last_edge_->used)
            .arg(last_edge_->places)
            .arg(number_shown(short_number(last_edge_->scatter, 2)));
    if (off > 0.05)
      text += tr(" The centre here is %1 px off it: along the strip the edge swings by ± %1 px, once a turn.")
                  .arg(number_shown(number_text(off, 1)));
    else if (moved_by_ > 0.05)
      text += tr(" The centre was %1 px off: the edge would have swung by as much, once a turn.")
                  .arg(number_shown(number_text(moved_by_, 1)));
    fields::say(found_, text, off > 0.5);
  }
  QString says(const UnwrapStep& s, const StepInput&, const Station& made) override {
    const double truth = s.true_radius.value_or((s.inner + s.outer) / 2);
    QStringList said{tr("%1° of the ring became a strip of %2.").arg(plain(s.sweep), size_of(made.size))};
    said << tr("Lengths along it are true at radius %1 px; at the outer circle they read %2 % short, at the inner one "
               "%3 % long.")
                .arg(plain(truth), number_shown(number_text(100 * (1 - truth / s.outer), 1)),
                     s.inner > 0 ? number_shown(number_text(100 * (truth / s.inner - 1), 1)) : tr("without limit"));
    if (s.sweep == 360) said << tr("The seam is at %1°.").arg(plain(s.start));
    said << how(made);
    return said.join(" ");
  }
  QPushButton *find_, *natural_;
  QLabel* found_;
  std::optional<RingEdge> last_edge_;
  double moved_by_ = 0;
  Background search_;  // the last member: its thread ends before the rest
};

class UnwrapUi : public StepUiOf<UnwrapStep> {
 public:
  UnwrapUi()
      : StepUiOf({QObject::tr("Unwrap"), QObject::tr("roll a ring out to a strip"),
                  QObject::tr("polar ring rim circle dial cylinder")}) {}
  InspectorPage* page(Document& document) const override { return new UnwrapPage(document); }
  QString summary_of(const UnwrapStep& step) const override {
    return QObject::tr("radius %1 to %2 px").arg(plain(step.inner), plain(step.outer));
  }
  StepFigure figure_of(const UnwrapStep& step, const StepInput&) const override {
    const double sweep = step.clockwise ? -step.sweep : step.sweep;
    StepFigure out;
    out.lines.push_back(arc(step.centre, step.outer, step.start, sweep));
    if (step.inner > 0) out.lines.push_back(arc(step.centre, step.inner, step.start, sweep));
    // The seam, and the way that columns run.
    out.lines.push_back({{around(step.centre, step.inner, step.start), around(step.centre, step.outer, step.start)}});
    StepLine way = arc(step.centre, (step.inner + step.outer) / 2, step.start, sweep / 8);
    way.arrow = true;
    out.lines.push_back(way);
    out.handles = {{step.centre, "c"},
                   {around(step.centre, step.outer, step.start), "s"},
                   {around(step.centre, step.outer, step.start + 90), "o"},
                   {around(step.centre, step.inner, step.start + 90), "i"}};
    return out;
  }
  UnwrapStep moved(UnwrapStep step, const StepInput&, int index, Point to) const override {
    const double radius = rounded(distance(step.centre, to), 0.1);
    if (index == 0) step.centre = {rounded(to.x, 0.1), rounded(to.y, 0.1)};
    if (index == 1) step.start = rounded(angle_of(step.centre, to), 0.1);
    if (index == 2) step.outer = std::max(radius, step.inner + 1);
    if (index == 3) step.inner = std::clamp(radius, 0.0, step.outer - 1);
    return step;
  }
};

}  // namespace

const StepUi& unwrap_ui() {
  return made_in_language<UnwrapUi>();
}

}  // namespace fexel
