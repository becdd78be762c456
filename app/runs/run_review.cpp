#include "app/runs/run_review.h"

#include <QEvent>
#include <QKeyEvent>
#include <QShortcut>
#include <QStandardPaths>

#include "app/canvas/picture_view.h"
#include "app/canvas/view_area.h"
#include "app/steps/step_ui.h"
#include "app/ui/fields.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"
#include "app/window/ledger.h"
#include "app/window/main_window.h"
#include "measure/edges.h"
#include "measure/proposal.h"

namespace fexel {
namespace {

/// The chain's first rectify step that is on and gets the picture itself: its number, or nothing.
std::optional<std::size_t> rectify_of_picture(const Chain& chain) {
  for (std::size_t i = 0; i < chain.steps.size(); ++i) {
    if (!chain.steps[i].on) continue;
    if (std::holds_alternative<RectifyStep>(chain.steps[i].kind)) return i;
    return std::nullopt;
  }
  return std::nullopt;
}

/// The step that a person works on: the rectify step, or the first with handles on the picture.
int step_to_show(const Document& document) {
  const Chain& chain = document.chain();
  if (const auto rectify = rectify_of_picture(chain)) return static_cast<int>(*rectify);
  for (std::size_t i = 0; i < chain.steps.size(); ++i)
    if (chain.steps[i].on && !ui_of(chain.steps[i].kind)
                                  .figure(chain.steps[i].kind, input_of_step(document.layout(), static_cast<int>(i)))
                                  .handles.empty())
      return static_cast<int>(i);
  return chain.steps.empty() ? -1 : 0;
}

/// Corners from edges near these; nothing where no side was found.
std::optional<EdgeCorners> edges_near(const Pyramid& pixels, const Quad& near, const Job& job) {
  job.check();
  const Size size{pixels.base().width(), pixels.base().height()};
  const double reach = std::clamp(0.006 * std::max(size.width, size.height), 8.0, 40.0);
  if (check_quad(near)) return std::nullopt;
  try {
    const EdgeCorners found = corners_from_edges({pixels.base(), {}}, near, reach, each_corner(picking_by_hand));
    if (std::ranges::any_of(found.kept, [](bool kept) { return kept; })) return std::nullopt;
    return found;
  } catch (const Error&) {
    return std::nullopt;
  }
}

}  // namespace

RunReview::Ready RunReview::make_ready(const std::filesystem::path& file, Chain chain, bool propose,
                                       const std::optional<Quad>& near, const Job& job) {
  Ready out;
  out.source = std::make_shared<OpenSource>(read_open_source({file}, job, limits_for(chain, {}).alpha_band));
  out.chain = std::move(chain);
  out.chain.sources.clear();
  // Measurements and movements are those of the picture that the chain was made on.
  out.chain.measurements.clear();
  out.chain.motions.clear();
  const auto at = rectify_of_picture(out.chain);
  if (!propose || !at) return out;
  auto& step = std::get<RectifyStep>(out.chain.steps[*at].kind);
  const Pyramid& pixels = *out.source->pixels;
  const auto take = [&](const EdgeCorners& found) {
    step.corners = found.corners;
    for (std::size_t i = 0; i < 4; ++i) step.picking[i] = std::max(0.01, rounded_to(found.sigma[i], 2));
  };
  // Where the last picture had them, where the chain has them, and where a rectangle stands out.
  for (const auto& [from, text] : {std::pair{near, tr("Corners from edges, near those of the picture before.")},
                                   std::pair{std::optional(step.corners), tr("Corners from edges, near the chain's.")}})
    if (from)
      if (const auto found = edges_near(pixels, *from, job)) {
        take(*found);
        out.note = text;
        return out;
      }
  const auto proposals = propose_rectangles(pixels, job);
  if (proposals.empty()) {
    out.note = tr("No rectangle was found: drag the corners onto one.");
    return out;
  }
  // The most distinct one, or, once a picture was done, the one most like its rectangle.
  const Proposal* best = &proposals.front();
  const auto apart = [&](const Proposal& one) {
    double sum = 0;
    for (std::size_t i = 0; i < 4; ++i) sum += distance(in_order(one.corners)[i], (*near)[i]);
    return sum;
  };
  if (near)
    for (const Proposal& one : proposals)
      if (apart(one) < apart(*best)) best = &one;
  step.corners = in_order(best->corners);
  step.picking = each_corner(std::max(picking_by_hand, rounded_to(best->sigma, 2)));
  if (const auto found = edges_near(pixels, step.corners, job)) {
    take(*found);
    out.note = tr("Proposed, with corners from edges.");
  } else {
    out.note = tr("Proposed. Look at the corners: no edges were found there.");
  }
  return out;
}

RunReview::RunReview(RunSession& session, std::vector<int> rows, bool propose)
    : session_(session), rows_(std::move(rows)), propose_(propose) {
  window_ = std::make_unique<MainWindow>(QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) +
                                         "/unsaved-corrections");
  window_->set_companion();
  window_->installEventFilter(this);
  build_bar();
  for (PictureView* view : {window_->views().view_a(), window_->views().view_b()})
    connect(view, &PictureView::return_pressed, this, &RunReview::accept);
  connect(&session_, &RunSession::row_changed, this, [this](int row) {
    // What is known of a picture by now is read when it is shown.
    if (row != this->row())
      for (std::size_t i = 0; i < rows_.size(); ++i)
        if (rows_[i] == row) ready_.erase(i);
  });
  session_.hold(true);
  window_->show();
  open(0);
}

RunReview::~RunReview() {
  reader_.cancel();
  ahead_.cancel();
  window_->removeEventFilter(this);
  session_.hold(false);
}

void RunReview::build_bar() {
  auto* bar = new QWidget;
  bar->setObjectName("review");
  bar->setStyleSheet(QString("#review{background:%1;}").arg(theme().teal_soft.name()));
  auto* row = new QHBoxLayout(bar);
  row->setContentsMargins(14, 6, 10, 6);
  row->setSpacing(8);
  where_ = new QLabel;
  where_->setAccessibleName(tr("The picture that is corrected"));
  where_->setFont(text_font(9.5, true));
  note_ = new QLabel;
  note_->setAccessibleName(tr("About this picture"));
  const auto button = [&](const QString& text, const QString& tip) {
    auto* out = new QPushButton(text);
    out->setAccessibleName(text);
    out->setToolTip(tip);
    out->setFocusPolicy(Qt::NoFocus);
    return out;
  };
  back_ = button(tr("Before"), tr("The picture before, Ctrl+PageUp"));
  skip_ = button(tr("Skip"), tr("The next picture; this one stays as it is, Ctrl+PageDown"));
  accept_ = button(tr("Accept and go on"), tr("What you see holds for this picture, which is made again: Return"));
  accept_->setProperty("primary", true);
  close_ = button(tr("Back to the run"), tr("Leaves the rest as it is"));
  row->addWidget(where_);
  row->addWidget(note_, 1);
  for (QPushButton* b : {back_, skip_, accept_, close_}) row->addWidget(b);
  connect(accept_, &QPushButton::clicked, this, &RunReview::accept);
  connect(skip_, &QPushButton::clicked, this, [this] { go(1); });
  connect(back_, &QPushButton::clicked, this, [this] { go(-1); });
  connect(close_, &QPushButton::clicked, this, &RunReview::end);
  const auto key = [&](const QKeySequence& keys, auto body) {
    connect(new QShortcut(keys, window_.get()), &QShortcut::activated, this, body);
  };
  key(Qt::CTRL | Qt::Key_Return, [this] { accept(); });
  key(Qt::CTRL | Qt::Key_PageDown, [this] { go(1); });
  key(Qt::CTRL | Qt::Key_PageUp, [this] { go(-1); });
  window_->set_head(bar);
  window_->ledger().set_folded(true);
}

void RunReview::open(std::size_t at) {
  at_ = at;
  shown_ = false;
  accept_->setEnabled(false);
  const RunRow& row = session_.rows()[static_cast<std::size_t>(rows_[at])];
  where_->setText(tr("%1 of %2 · %3").arg(at + 1).arg(rows_.size()).arg(text_of(row.input.file.filename().string())));
  back_->setEnabled(at > 0);
  skip_->setEnabled(at + 1 < rows_.size());
  if (const auto ready = ready_.find(at); ready != ready_.end()) return show(at, ready->second);
  note_->setText(tr("opening…"));
  const bool own = session_.has_own_chain(rows_[at]);
  reader_.start(
      tr("opening"),
      [this, at, file = row.input.file, chain = session_.chain_of(rows_[at]), propose = propose_ && !own,
       near = last_corners_](const Job& job) -> Background::Finish {
        auto ready = std::make_shared<Ready>(make_ready(file, chain, propose, near, job));
        return [this, at, ready] {
          ready_[at] = *ready;
          if (at == at_ && !shown_) show(at, *ready);
        };
      },
      [this](const Error& error) {
        if (error.kind() == Error::Kind::cancelled) return;
        note_->setText(text_of(error));
      });
}

void RunReview::show(std::size_t at, const Ready& ready) {
  const RunRow& row = session_.rows()[static_cast<std::size_t>(rows_[at])];
  OpenSource source = *ready.source;
  window_->document().open(std::move(source), ready.chain, {});
  if (const int step = step_to_show(window_->document()); step >= 0) window_->document().select_tile(step + 1);
  window_->document().undo_stack().clear();
  QString doubts;
  for (const std::string& doubt : row.doubts) doubts += text_of(doubt) + " ";
  const QString why = !row.problem.isEmpty() ? row.problem : doubts.trimmed();
  note_->setText((ready.note.isEmpty() ? why : ready.note + "  " + why).trimmed());
  note_->setToolTip(note_->text());
  shown_ = true;
  accept_->setEnabled(true);
  window_->views().view_a()->setFocus();
  // Few are kept: pictures are large.
  std::erase_if(ready_, [&](const auto& one) { return one.first + 1 < at || one.first > at + 1; });
  read_ahead(at + 1);
}

void RunReview::read_ahead(std::size_t at) {
  if (at >= rows_.size() || ready_.contains(at)) return;
  const RunRow& row = session_.rows()[static_cast<std::size_t>(rows_[at])];
  const bool own = session_.has_own_chain(rows_[at]);
  ahead_.start(
      tr("reading ahead"),
      [this, at, file = row.input.file, chain = session_.chain_of(rows_[at]), propose = propose_ && !own,
       near = last_corners_](const Job& job) -> Background::Finish {
        auto ready = std::make_shared<Ready>(make_ready(file, chain, propose, near, job));
        return [this, at, ready] { ready_.try_emplace(at, *ready); };
      },
      [](const Error&) {});
}

void RunReview::accept() {
  if (!shown_) return;
  Document& document = window_->document();
  const auto& file = session_.rows()[static_cast<std::size_t>(rows_[at_])].input.file;
  if (document.source()->path.toStdString() != file.string()) {
    note_->setText(tr("Another picture was opened here. Go to the one before or after, and back."));
    return;
  }
  for (const Station& station : document.layout().stations)
    if (station.problem) {
      note_->setText(tr("The chain cannot be made like this: %1").arg(text_of(station.problem->message())));
      return;
    }
  const Chain chain = document.chain();
  if (const auto at = rectify_of_picture(chain)) last_corners_ = std::get<RectifyStep>(chain.steps[*at].kind).corners;
  document.undo_stack().setClean();
  ready_.erase(at_);
  session_.correct(rows_[at_], chain);
  if (at_ + 1 < rows_.size())
    open(at_ + 1);
  else
    end();
}

void RunReview::go(int by) {
  const auto to = static_cast<std::ptrdiff_t>(at_) + by;
  if (to < 0 || to >= static_cast<std::ptrdiff_t>(rows_.size())) return;
  open(static_cast<std::size_t>(to));
}

void RunReview::end() {
  if (std::exchange(ending_, true)) return;
  window_->document().undo_stack().setClean();
  window_->hide();
  Q_EMIT ended();
}

bool RunReview::eventFilter(QObject* watched, QEvent* event) {
  if (watched == window_.get() && event->type() == QEvent::Close) {
    event->accept();
    QMetaObject::invokeMethod(this, &RunReview::end, Qt::QueuedConnection);
    return true;
  }
  return QObject::eventFilter(watched, event);
}

}  // namespace fexel
