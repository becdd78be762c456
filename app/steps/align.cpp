/// Align: search, what was found for each frame, and what is left to correct.
#include "app/steps/step_page.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

const std::vector<Model> motions = {Model::translation, Model::rigid, Model::similarity, Model::affine,
                                    Model::projective};

/// In the order of the list; behind them the frame that is shown.
const std::vector<ReferenceMode> references = {ReferenceMode::first, ReferenceMode::neighbour, ReferenceMode::average,
                                               ReferenceMode::network};

class AlignPage : public StepPage<AlignStep> {
 public:
  explicit AlignPage(Document& document) : StepPage(document) {
    // Long because it lays the page out, from top to bottom.
    head(tr("What moved"));
    choice(
        tr("motion"),
        {tr("translation"), tr("rigid: with rotation"), tr("similarity: with scale"), tr("affine: with skew"),
         tr("projective")},
        [](const AlignStep& s) { return std::ranges::find(motions, s.model) - motions.begin(); },
        [](AlignStep& s, int i) { s.model = motions[static_cast<std::size_t>(i)]; });
    against_ = choice(
        tr("against"),
        {tr("the first frame"), tr("the frame before"), tr("the mean of all"), tr("all pairs, adjusted together"),
         tr("the frame shown")},
        [this](const AlignStep& s) {
          const AlignReference& reference = s.against;
          const auto at = std::ranges::find(references, reference.mode);
          against_->setItemText(4, reference.mode == ReferenceMode::frame     ? tr("frame %1").arg(reference.number)
                                   : reference.mode == ReferenceMode::picture ? text_of(reference.path)
                                                                              : tr("the frame shown"));
          return at == references.end() || reference.number > 0 ? 4 : at - references.begin();
        },
        [this](AlignStep& s, int i) {
          s.against = i < 4 ? AlignReference{references[static_cast<std::size_t>(i)]}
                            : AlignReference{ReferenceMode::frame, this->document().frame() + 1};
        });
    segments(
        tr("What is alike"), {tr("brightness"), tr("edges only")},
        [](const AlignStep& s) { return s.alike == SimilarityMetric::structure ? 1 : 0; },
        [](AlignStep& s, int i) { s.alike = i == 1 ? SimilarityMetric::structure : SimilarityMetric::brightness; });
    number(
        tr("on band"), 0, 4096, 0, {}, [](const AlignStep& s) { return s.band; },
        [](AlignStep& s, double v) { s.band = static_cast<int>(v); })
        ->setSpecialValueText(tr("the mean of all"));
    head(tr("Search"));
    try_ = button(tr("Try on this frame"), [this] { Q_EMIT asked(SearchRequest{false}); });
    all_ = button(tr("Align all frames"), [this] { Q_EMIT asked(SearchRequest{true}); });
    variants_ = button(tr("Compare ways to search…"), [this] { Q_EMIT asked(VariantsRequest{}); });
    head(tr("Region"));
    button(tr("Match only within a rectangle…"), [this] {
      ask_line(tr("Drag from corner to corner of what is to be matched on"), [this](Point a, Point b) {
        take([&](AlignStep& s) {
          const int x = std::max(0, static_cast<int>(std::floor(std::min(a.x, b.x))));
          const int y = std::max(0, static_cast<int>(std::floor(std::min(a.y, b.y))));
          s.region = Region{x, y, std::max(16, static_cast<int>(std::ceil(std::max(a.x, b.x))) - x),
                            std::max(16, static_cast<int>(std::ceil(std::max(a.y, b.y))) - y)};
        });
      });
    });
    whole_ = button(tr("Match on the whole frame"), [this] { take([](AlignStep& s) { s.region.reset(); }); });
    head(tr("This frame"));
    this_frame_ = fields::sentence(tr("What was found for this frame"));
    column()->addWidget(this_frame_);
    for (const int axis : {0, 1})
      shifts_[axis] = number(
          axis == 0 ? tr("moved in x") : tr("moved in y"), -1e6, 1e6, 3, tr("px"),
          [this, axis](const AlignStep& s) { return axis == 0 ? motion(s).shift.x : motion(s).shift.y; },
          [this, axis](AlignStep& s, double v) {
            Motion m = motion(s);
            (axis == 0 ? m.shift.x : m.shift.y) = v;
            put_by_hand(s, m);
          });
    turn_ = angle(
        tr("rotated by"), [this](const AlignStep& s) { return std::round(motion(s).degrees * 1e4) / 1e4; },
        [this](AlignStep& s, double v) {
          Motion m = motion(s);
          m.degrees = v;
          put_by_hand(s, m);
        });
    leave_ = button(tr("Leave it where it is"), [this] {
      take([this](AlignStep& s) {
        const auto at = static_cast<std::size_t>(this->document().frame());
        if (at < s.frames.size())
          s.frames[at] = {Matrix3::Identity(), 0, 0, MatchStatus::failed, tr("Left out by hand.").toStdString()};
      });
    });
    head(tr("What still moves"));
    moves_ = button(tr("Look for movement in this frame"), [this] { Q_EMIT asked(ResidualRequest{}); });
    moves_said_ = fields::sentence(tr("What still moves"));
    column()->addWidget(moves_said_);
    connect(&this->document().session(), &Session::residuals_changed, this, [this] { show_movement(); });
    head(tr("SelfTest"));
    button(tr("Test the accuracy on this frame"),
           [this] { Q_EMIT asked(SelfTestRequest{[this](const SelfTest& t) { show_self_test(t); }}); });
    self_test_said_ = fields::sentence(tr("What the trial said"));
    column()->addWidget(self_test_said_);
    show_with([this](const AlignStep& s) {
      show_frame(s);
      whole_->setVisible(s.region.has_value());
      show_movement();
      if (!(s.model == tried_model_ && this->document().frame() == tried_frame_)) fields::say(self_test_said_, {});
    });
    finish();
  }

 protected:
  QString says(const AlignStep& step, const StepInput&, const Station& made) override {
    const auto count = this->document().frames().size();
    if (count < 2) return tr("One frame is open. Open several files, a folder or a stack to align them.");
    if (step.frames.empty()) return tr("Nothing is searched yet: the frames lie where they were.");
    int matched = 0;
    double worst = 0;
    for (const FoundFrame& f : step.frames)
      if (f.status != MatchStatus::failed) {
        ++matched;
        worst = std::max(worst, f.uncertainty_px);
      }
    return tr("%1 of %2 frames lie as the reference does; the least certain is known to ±%3 px. This frame: %4")
        .arg(matched)
        .arg(count)
        .arg(number_shown(number_text(worst, worst < 0.01 ? 4 : 3)), how(made));
  }

 private:
  void show_frame(const AlignStep& s) {
    const auto& frames = this->document().frames();
    const auto at = static_cast<std::size_t>(this->document().frame());
    try_->setEnabled(frames.size() > 1);
    all_->setEnabled(frames.size() > 1);
    variants_->setEnabled(frames.size() > 1);
    moves_->setEnabled(frames.size() > 1 && at < s.frames.size());
    try_->setText(at < s.frames.size() && s.frames[at].by_hand ? tr("Search this frame from here")
                                                               : tr("Try on this frame"));
    show_row(shifts_[0], frames.size() > 1);
    show_row(shifts_[1], frames.size() > 1);
    show_row(turn_, frames.size() > 1 && s.model != Model::translation);
    all_->setText(tr("Align all %1 frames").arg(frames.size()));
    leave_->setVisible(at < s.frames.size() && s.frames[at].status != MatchStatus::failed);
    if (at >= s.frames.size()) {
      fields::say(this_frame_, tr("Not searched yet."));
      return;
    }
    const FoundFrame& f = s.frames[at];
    if (f.by_hand) {
      fields::say(this_frame_, tr("Put here by hand; it has no score and no uncertainty. Align all keeps it."));
      return;
    }
    if (f.status == MatchStatus::failed) {
      fields::say(this_frame_, tr("Not matched; it stays where it is. %1").arg(text_of(f.reason)), true);
      return;
    }
    if (f.matrix == Matrix3::Identity() && f.uncertainty_px == 0) {
      fields::say(this_frame_, tr("This is the reference."));
      leave_->hide();
      return;
    }
    const Motion motion = motion_of(f.matrix, input().size);
    fields::say(this_frame_,
                tr("Moved by x %1 px, y %2 px, rotated by %3°; known to ±%4 px. It agrees with the reference by %5. %6")
                    .arg(number_shown(number_text(motion.shift.x, 3)), number_shown(number_text(motion.shift.y, 3)),
                         number_shown(number_text(motion.degrees, 4)), number_shown(number_text(f.uncertainty_px, 4)),
                         number_shown(number_text(f.score, 3)), text_of(f.reason)));
  }

  Motion motion(const AlignStep& s) const {
    const auto at = static_cast<std::size_t>(this->document().frame());
    return at < s.frames.size() ? motion_of(s.frames[at].matrix, input().size) : Motion{};
  }

  /// What the frame did beside moving and turning stays.
  void put_by_hand(AlignStep& s, const Motion& wanted) const {
    const auto at = static_cast<std::size_t>(this->document().frame());
    const Motion now = motion(s);
    if (s.frames.size() < this->document().frames().size())
      s.frames.resize(this->document().frames().size(),
                      {Matrix3::Identity(), 0, 0, MatchStatus::failed, tr("Not searched yet.").toStdString(), false});
    if (at >= s.frames.size()) return;
    const Point middle = input().size.middle(), here = middle + now.shift, there = middle + wanted.shift;
    const double angle = (wanted.degrees - now.degrees) * M_PI / 180;
    Matrix3 turn = Matrix3::Identity();
    turn.topLeftCorner<2, 2>() << std::cos(angle), std::sin(angle), -std::sin(angle), std::cos(angle);
    const Matrix3 matrix = translation(there.x, there.y) * turn * translation(-here.x, -here.y) * s.frames[at].matrix;
    s.frames[at] = {matrix, 0, 0, MatchStatus::ok, {}, true};
  }

  void show_movement() {
    const Session::Residuals* still = this->document().session().residuals(this->document().revision());
    if (!still) {
      fields::say(moves_said_, {});
      return;
    }
    const ResidualField& field = still->field;
    if (field.sound == 0) {
      fields::say(moves_said_, tr("No window of %1 px has enough texture in both frames to tell.").arg(field.window));
      return;
    }
    const auto text = [](double v) { return number_shown(number_text(v, v < 0.01 ? 4 : v < 1 ? 3 : 2)); };
    const double most = std::hypot(field.farthest.moved.x, field.farthest.moved.y);
    fields::say(
        moves_said_,
        tr("%1 of %2 windows of %3 px can tell. The usual one is off by %4 px; noise alone would make it %5 px. %6")
            .arg(field.sound)
            .arg(field.shifts.size())
            .arg(field.window)
            .arg(text(field.usual_px), text(field.expected_px),
                 field.moving == 0
                     ? tr("None moves by more than four times its uncertainty.")
                     : tr("%1 move by more than four times their uncertainty, the farthest, at x %2, y %3, by %4 px: "
                          "something moved there, or its light changed.")
                           .arg(field.moving)
                           .arg(number_shown(number_text(field.farthest.at.x, 0)),
                                number_shown(number_text(field.farthest.at.y, 0)), text(most))));
  }

  void show_self_test(const SelfTest& t) {
    const AlignStep* now = step<AlignStep>();
    if (!now) return;
    tried_model_ = now->model;
    tried_frame_ = this->document().frame();
    const auto rounds = static_cast<int>(t.rounds.size());
    if (t.failed == rounds) {
      fields::say(self_test_said_, tr("Moved by known amounts %1 times, the frame was not found once.").arg(rounds),
                  true);
      return;
    }
    fields::say(self_test_said_,
                tr("Moved by known amounts %1 times and searched again, this frame came back within %2 px (the search "
                   "said %3 px), in %4 ms each. %5")
                    .arg(rounds)
                    .arg(number_shown(number_text(t.error_px, t.error_px < 0.01 ? 4 : 3)),
                         number_shown(number_text(t.stated_px, t.stated_px < 0.01 ? 4 : 3)),
                         number_shown(number_text(1000 * t.seconds, 0)),
                         t.failed > 0 ? tr("%1 times it was not found.").arg(t.failed) : halves_said(t)),
                t.aliased());
  }
  /// What pictures of every second pixel say.
  static QString halves_said(const SelfTest& t) {
    if (t.halves == t.halves_failed) return {};
    const QString seen =
        tr("Of every second pixel alone: %1 px (said %2 px).")
            .arg(number_shown(number_text(t.halves_error_px, 3)), number_shown(number_text(t.halves_stated_px, 3)));
    return t.aliased() ? seen + tr(" Detail finer than those pixels misleads it.") : seen;
  }

  QComboBox* against_;
  QPushButton *try_, *all_, *leave_, *whole_, *variants_, *moves_;
  fields::Number *shifts_[2], *turn_;
  QLabel *this_frame_, *self_test_said_, *moves_said_;
  Model tried_model_ = Model::thin_plate;
  int tried_frame_ = -1;
};

class AlignUi : public StepUiOf<AlignStep> {
 public:
  AlignUi()
      : StepUiOf({QObject::tr("Align"), QObject::tr("bring all frames, or bands, to one of them"),
                  QObject::tr("register stack sequence stabilise stabilize drift channels")}) {}
  InspectorPage* page(Document& document) const override { return new AlignPage(document); }
  QString summary_of(const AlignStep& step) const override {
    if (step.frames.empty()) return QObject::tr("not searched yet");
    const auto matched =
        std::ranges::count_if(step.frames, [](const FoundFrame& f) { return f.status != MatchStatus::failed; });
    return QObject::tr("%1 of %2 matched").arg(matched).arg(step.frames.size());
  }
  StepFigure figure_of(const AlignStep& step, const StepInput&) const override {
    StepFigure out;
    if (!step.region) return out;
    const Point a{double(step.region->x), double(step.region->y)};
    const Point c{a.x + step.region->width, a.y + step.region->height};
    out.lines.push_back({{a, {c.x, a.y}, c, {a.x, c.y}}, true});
    out.handles = {{a, "1"}, {c, "2"}};
    return out;
  }
  AlignStep moved(AlignStep step, const StepInput& input, int index, Point to) const override {
    Region& r = *step.region;
    const auto x = std::clamp(static_cast<int>(std::lround(to.x)), 0, input.size.width);
    const auto y = std::clamp(static_cast<int>(std::lround(to.y)), 0, input.size.height);
    constexpr int least = 16;
    const int right = r.x + r.width, bottom = r.y + r.height;
    if (index == 0) {
      r.x = std::min(x, right - least);
      r.y = std::min(y, bottom - least);
      r.width = right - r.x;
      r.height = bottom - r.y;
    } else {
      r.width = std::max(least, x - r.x);
      r.height = std::max(least, y - r.y);
    }
    return step;
  }
  bool of_sequence() const override { return true; }
};

}  // namespace

const StepUi& align_ui() {
  return made_in_language<AlignUi>();
}

}  // namespace fexel
