#include "app/document/pairs_review.h"

#include "app/document/document.h"

namespace fexel {
namespace {

std::shared_ptr<const PairsFindings> findings_of(const FitStep& step) {
  constexpr std::size_t compared_at_most = 1000;  // pairs: each is compared with each other
  auto out = std::make_shared<PairsFindings>();
  out->of = step;
  const std::vector<PointPair> pairs = pairs_in_pixels(step);
  out->left_out.assign(pairs.size(), std::nullopt);
  try {
    out->left_out = leave_one_out(step.model, pairs, fit_of(step));
  } catch (const Error&) {
    // The page says it where the step's problem stands.
  }
  out->tried = try_models(pairs, step.robust);
  if (pairs.size() <= compared_at_most) out->mistakes = typing_mistakes(step.model, step.pairs);
  return out;
}

}  // namespace

const FitStep* selected_fit(const Document& document) {
  const int at = document.selected_step();
  return at < 0 ? nullptr : std::get_if<FitStep>(&document.chain().steps[static_cast<std::size_t>(at)].kind);
}

PairsReview::PairsReview(Document& document) : document_(document) {
  connect(&document, &Document::changed, this, &PairsReview::refresh);
  connect(&document, &Document::selection_changed, this, &PairsReview::refresh);
}

std::shared_ptr<const Fit> PairsReview::fit(const FitStep& step) {
  if (fitted_ == step) return fit_;
  fitted_ = step;
  fit_.reset();
  try {
    fit_ = std::make_shared<const Fit>(fit_of(step));
  } catch (const Error&) {
  }
  return fit_;
}

const PairsFindings* PairsReview::findings(const FitStep& step) const {
  return findings_ && findings_->of == step ? findings_.get() : nullptr;
}

bool PairsReview::settled() const {
  const FitStep* now = selected_fit(document_);
  return !now || findings(*now);
}

void PairsReview::refresh() {
  // A drag must not starve the work: one is finished before the next begins.
  if (settled() || work_.running()) return;
  work_.start(
      {},
      [this, step = *selected_fit(document_)](const Job&) -> Background::Finish {
        auto found = findings_of(step);
        return [this, found] {
          findings_ = found;
          Q_EMIT changed();
          refresh();
        };
      },
      [](const Error&) {});
}

}  // namespace fexel
