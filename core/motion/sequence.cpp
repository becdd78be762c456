#include "motion/sequence.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/statistics.h"

namespace fexel {
namespace {

constexpr double least_recognised = 0.9;    // share of the points that a reference had at first
constexpr double least_median_score = 0.8;  // median

/// Displacements from the first frame: those to the reference, and on from there.
MotionField added(const MotionField& base, MotionField on) {
  for (std::size_t i = 0; i < on.points.size(); ++i) {
    const MotionPoint& from = base.points[i];
    MotionPoint& to = on.points[i];
    if (!from.has_place()) {
      const bool masked = from.status == MotionStatus::masked;
      to = {};
      to.status = masked ? MotionStatus::masked : MotionStatus::rejected;
      to.reason = masked ? MotionReason::masked : MotionReason::lost;
      continue;
    }
    if (!to.has_place()) continue;
    const Eigen::Matrix2d first = Eigen::Matrix2d::Identity() + from.gradient;
    to.gradient = (Eigen::Matrix2d::Identity() + to.gradient) * first - Eigen::Matrix2d::Identity();
    to.moved = from.moved + to.moved;
    to.sigma = {std::hypot(from.sigma.x, to.sigma.x), std::hypot(from.sigma.y, to.sigma.y)};
    if (from.status == MotionStatus::weak && to.status == MotionStatus::ok) {
      to.status = MotionStatus::weak;
      to.reason = from.reason;
    }
  }
  return on;
}

int found_in(const MotionField& field) {
  return static_cast<int>(std::ranges::count_if(field.points, &MotionPoint::has_place));
}

}  // namespace

MotionSequence::MotionSequence(MotionSettings settings, Size size, std::shared_ptr<const Image> use)
    : settings_(std::move(settings)), size_(size), use_(std::move(use)) {
  check_motion(settings_);
  // A rule that judges by the way back needs it.
  for (const CleanRule& rule : settings_.clean)
    if (rule.kind == CleanRule::Kind::back) settings_.subset.back = true;
  grid_ = grid_of(settings_, size_);
}
MotionSequence::~MotionSequence() = default;

void MotionSequence::set_backgrounds(std::shared_ptr<const Image> first, std::shared_ptr<const Image> second) {
  backgrounds_[0] = std::move(first);
  backgrounds_[1] = std::move(second);
}

std::shared_ptr<const MotionFrame> MotionSequence::prepared(const Image& frame, bool second, const Job& job) const {
  return std::make_shared<const MotionFrame>(frame, settings_.prepare, use_.get(), job,
                                             backgrounds_[second ? 1 : 0].get());
}

std::optional<MotionField> MotionSequence::next(const Image& frame, const Job& job) {
  if (frame.width() != size_.width || frame.height() != size_.height)
    throw call_error(fmt::format("Frame {} has {} x {} pixels, and the first one has {} x {}.", frames_ + 1,
                                 frame.width(), frame.height(), size_.width, size_.height),
                     {}, "Leave the frame out, or crop all frames to one size.");
  const bool second = settings_.against == MotionAgainst::pairs && frames_ % 2 == 1;
  auto prepared = this->prepared(frame, second, job.part(0, 0.2));
  const Job matching = job.part(0.2, 1);
  std::optional<MotionField> out;
  const bool first_of_pair = settings_.against == MotionAgainst::pairs && frames_ % 2 == 0;
  if (!reference_ || first_of_pair) {
    reference_ = prepared;
    reference_index_ = from_ = frames_;
    base_.reset();
    before_.reset();
    found_at_first_ = 0;
  } else if (settings_.method == MotionMethod::window) {
    // Flows stand alone: what moves on is not the same fluid.
    if (settings_.against == MotionAgainst::neighbour) {
      reference_ = last_;
      reference_index_ = from_ = last_index_;
    }
    out = match_windows(*reference_, *prepared, grid_, settings_.window, matching);
    out->reference = reference_index_;
    out->frame = frames_;
    out->from = from_;
  } else {
    out = against_reference(prepared, matching);
    out->frame = frames_;
    out->from = from_;
  }
  last_ = std::move(prepared);
  last_index_ = frames_;
  ++frames_;
  return out;
}

bool MotionSequence::renews(const MotionField& field) const {
  if (settings_.against != MotionAgainst::first || !settings_.renew || !before_ || last_ == reference_) return false;
  const int found = found_in(field);
  std::vector<double> scores;
  for (const MotionPoint& p : field.points)
    if (p.has_place()) scores.push_back(p.score);
  return found < least_recognised * found_at_first_ || scores.empty() || median(scores) < least_median_score;
}

MotionField MotionSequence::against_reference(std::shared_ptr<const MotionFrame> frame, const Job& job) {
  const auto match = [&](const Job& part) {
    MotionStarts starts = starts_on(grid_);
    starts.expected.assign(grid_.count(), std::nullopt);
    for (std::size_t i = 0; i < grid_.count(); ++i) {
      if (base_) {
        const MotionPoint& p = base_->points[i];
        if (p.has_place())
          starts.places[i] = grid_.at(i) + p.moved;
        else
          starts.alive[i] = 0;
      }
      if (before_ && before_->points[i].has_place())
        starts.expected[i] = SubsetMotion{before_->points[i].moved, before_->points[i].gradient};
    }
    return match_field(*reference_, *frame, grid_, starts, settings_.subset, part);
  };
  const auto from_first = [&](MotionField field) {
    field.reference = reference_index_;
    return base_ ? added(*base_, std::move(field)) : std::move(field);
  };
  if (settings_.against == MotionAgainst::neighbour && before_) {
    base_ = from_first(std::move(*before_));
    before_.reset();
    reference_ = last_;
    reference_index_ = last_index_;
  }
  MotionField found = match(job.part(0, 0.5));
  if (renews(found)) {
    // From the frame before, of which nearly all is recognised; whichever finds more is taken.
    const auto kept_base = base_;
    const auto kept_before = before_;
    const auto kept_reference = reference_;
    const int kept_index = reference_index_;
    base_ = from_first(*before_);
    before_.reset();
    reference_ = last_;
    reference_index_ = last_index_;
    MotionField renewed = match(job.part(0.5, 1));
    if (found_in(renewed) > found_in(found)) {
      found = std::move(renewed);
      found_at_first_ = 0;
    } else {
      base_ = kept_base;
      before_ = kept_before;
      reference_ = kept_reference;
      reference_index_ = kept_index;
    }
  }
  if (found_at_first_ == 0) found_at_first_ = found_in(found);
  before_ = found;
  return from_first(std::move(found));
}

MotionField finished(const MotionField& matched, const MotionSettings& settings, std::vector<CleanEffect>* effects) {
  MotionField out = cleaned(matched, settings.clean, effects);
  return settings.fill ? with_holes_filled(std::move(out)) : out;
}

StillNoise still_noise(const MotionField& field, const std::optional<StrainSettings>& strain, int size,
                       const Job& job) {
  StillNoise out;
  std::vector<double> x, y, stated;
  for (std::size_t i = 0; i < field.points.size(); ++i) {
    const MotionPoint& p = field.points[i];
    if (field.grid.used[i] == 0 || !p.good()) continue;
    x.push_back(p.moved.x);
    y.push_back(p.moved.y);
    stated.push_back(std::max(p.sigma.x, p.sigma.y));
  }
  out.points = static_cast<int>(x.size());
  if (x.empty()) return out;
  const auto scatter = [](std::vector<double> values, double middle) {
    for (double& v : values) v = std::abs(v - middle);
    return median(values) / 0.6745;
  };
  out.mean = {median(x), median(y)};
  out.deviation = {scatter(x, out.mean.x), scatter(y, out.mean.y)};
  out.stated = median(stated);
  if (strain) {
    std::vector<double> values;
    for (const auto& s : strain_of(field, *strain, size, job))
      if (s) {
        values.push_back(s->xx);
        values.push_back(s->yy);
      }
    if (!values.empty()) out.strain = scatter(values, 0);
  }
  return out;
}

}  // namespace fexel
