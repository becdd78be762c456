#include "app/step_page.h"

namespace fexel {
namespace {

const std::vector<Model> motions = {Model::translation, Model::rigid, Model::similarity, Model::affine,
                                    Model::projective};

class AlignPage : public StepPage<AlignStep> {
 public:
  explicit AlignPage(Document& document) : StepPage(document, tr("Align")) {
    head(tr("What moved"));
    choice(
        tr("motion"),
        {tr("translation"), tr("rigid: shift and turn"), tr("similarity: and scale"), tr("affine: and skew"),
         tr("projective")},
        [](const AlignStep& s) { return std::ranges::find(motions, s.model) - motions.begin(); },
        [](AlignStep& s, int i) { s.model = motions[static_cast<std::size_t>(i)]; });
    against_ = choice(
        tr("against"),
        {tr("the first frame"), tr("the frame before"), tr("the mean of all"), tr("all pairs, adjusted together"),
         tr("the frame shown")},
        [this](const AlignStep& s) {
          const QStringList words = {"first", "neighbour", "average", "network"};
          const auto at = words.indexOf(QString::fromStdString(s.against));
          against_->setItemText(4, s.against.starts_with("frame:") ? tr("frame %1").arg(text_of(s.against.substr(6)))
                                                                   : tr("the frame shown"));
          return at >= 0 ? at : 4;
        },
        [this](AlignStep& s, int i) {
          const char* words[] = {"first", "neighbour", "average", "network"};
          s.against = i < 4 ? words[i] : "frame:" + std::to_string(this->document().frame() + 1);
        });
    segments(
        tr("What is alike"), {tr("brightness"), tr("edges only")},
        [](const AlignStep& s) { return s.alike == Likeness::structure ? 1 : 0; },
        [](AlignStep& s, int i) { s.alike = i == 1 ? Likeness::structure : Likeness::brightness; });
    number(
        tr("on band"), 0, 4096, 0, {}, [](const AlignStep& s) { return s.band; },
        [](AlignStep& s, double v) { s.band = static_cast<int>(v); })
        ->setSpecialValueText(tr("the mean of all"));
    head(tr("Search"));
    try_ = button(tr("Try on this frame"), [this] { Q_EMIT search_wanted(false); });
    all_ = button(tr("Align all frames"), [this] { Q_EMIT search_wanted(true); });
    head(tr("Region"));
    button(tr("Match only within a rectangle…"), [this] {
      Q_EMIT line_wanted(tr("Drag from corner to corner of what is to be matched on"), [this](Point a, Point b) {
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
    leave_ = button(tr("Leave it where it is"), [this] {
      take([this](AlignStep& s) {
        const auto at = static_cast<std::size_t>(this->document().frame());
        if (at < s.frames.size())
          s.frames[at] = {Matrix3::Identity(), 0, 0, MatchStatus::failed, tr("Left out by hand.").toStdString()};
      });
    });
    head(tr("Trial"));
    button(tr("How far to trust it on this material"),
           [this] { Q_EMIT trial_wanted([this](const Trial& t) { show_trial(t); }); });
    trial_said_ = fields::sentence(tr("What the trial said"));
    column()->addWidget(trial_said_);
    show_with([this](const AlignStep& s) {
      show_frame(s);
      whole_->setVisible(s.region.has_value());
      if (!(s.model == tried_model_ && this->document().frame() == tried_frame_)) fields::say(trial_said_, {});
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
        .arg(text_of(number_text(worst, worst < 0.01 ? 4 : 3)), how(made));
  }

 private:
  void show_frame(const AlignStep& s) {
    const auto& frames = this->document().frames();
    const auto at = static_cast<std::size_t>(this->document().frame());
    try_->setEnabled(frames.size() > 1);
    all_->setEnabled(frames.size() > 1);
    all_->setText(tr("Align all %1 frames").arg(frames.size()));
    leave_->setVisible(at < s.frames.size() && s.frames[at].status != MatchStatus::failed);
    if (at >= s.frames.size()) {
      fields::say(this_frame_, tr("Not searched yet."));
      return;
    }
    const FoundFrame& f = s.frames[at];
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
                tr("Moved by x %1 px, y %2 px, turned by %3°; known to ±%4 px. It agrees with the reference by %5. %6")
                    .arg(text_of(number_text(motion.shift.x, 3)), text_of(number_text(motion.shift.y, 3)),
                         text_of(number_text(motion.degrees, 4)), text_of(number_text(f.uncertainty_px, 4)),
                         text_of(number_text(f.score, 3)), text_of(f.reason)));
  }

  void show_trial(const Trial& t) {
    const AlignStep* now = step<AlignStep>();
    if (!now) return;
    tried_model_ = now->model;
    tried_frame_ = this->document().frame();
    const auto rounds = static_cast<int>(t.rounds.size());
    if (t.failed == rounds) {
      fields::say(trial_said_, tr("Moved by known amounts %1 times, the frame was not found once.").arg(rounds), true);
      return;
    }
    fields::say(trial_said_,
                tr("Moved by known amounts %1 times and searched again, this frame came back within %2 px (the search "
                   "said %3 px), in %4 ms each. %5")
                    .arg(rounds)
                    .arg(text_of(number_text(t.error_px, t.error_px < 0.01 ? 4 : 3)),
                         text_of(number_text(t.stated_px, t.stated_px < 0.01 ? 4 : 3)),
                         text_of(number_text(1000 * t.seconds, 0)),
                         t.failed > 0 ? tr("%1 times it was not found.").arg(t.failed) : QString()));
  }

  QComboBox* against_;
  QPushButton *try_, *all_, *leave_, *whole_;
  QLabel *this_frame_, *trial_said_;
  Model tried_model_ = Model::thin_plate;
  int tried_frame_ = -1;
};

}  // namespace

InspectorPage* make_align_page(Document& document) {
  return new AlignPage(document);
}

}  // namespace fexel
