#include "align/match.h"

#include <fmt/format.h>

#include <Eigen/LU>

#include "align/coarse.h"
#include "align/doubts.h"
#include "align/search.h"
#include "base/error.h"

namespace fexel {
namespace {

constexpr double least_detail = 0.2, good_detail = 0.4;
constexpr double least_shown = 0.08, good_shown = 0.25;
constexpr double max_uncertain = 0.25;
/// See sureness().
constexpr double least_sure = 3, good_sure = 10;
/// See evidence(): where a shift by a period is so much worse the texture does not repeat; from where on the best of
/// several is told from the next.
constexpr double never_repeats = 40, decides = 14;
/// What interpolation and rounding may leave, in px, whatever the scatter says.
constexpr double least_uncertain = 0.001;
/// A misfit up to this, in px, is in the uncertainty and not in the status.
constexpr double slight = 0.08;

Match failure(std::string reason) {
  Match out;
  out.reason = std::move(reason);
  return out;
}

/// From this agreement on nothing else need be tried; below the other, other scales and turns are.
constexpr double certain = 0.8, agrees = 0.55;

struct Found {
  Matrix3 inverse_map;
  Expectation light;
  double agreement = -1, sureness = 0, shown = 0;
  /// What agrees over more of the frame is worth more.
  double worth() const { return agreement * std::sqrt(shown); }
};

/// Half of what the blocks together say, half of what the usual one says.
double agreement_of(const std::vector<BlockSums>& blocks, double noise) {
  return 0.5 * (detail_of(blocks) + typical_of(blocks, noise));
}

/// Follows a start at the coarsest level, and says how well it agrees then.
Found follow(const PreparedFrame& reference, const PreparedFrame& frame, const MatchOptions& options, int level,
             const Matrix3& inverse_map, const Job& job) {
  // A shift, and what turns with it, is found before what bends.
  const bool bends = options.model == Model::affine || options.model == Model::projective;
  Search search(reference, frame, bends ? Model::similarity : options.model, job);
  search.inverse_map_ = inverse_map;
  if (!search.refine(level, 25, 0.02) || !search.pass(level, true)) return {inverse_map, {}, -1};
  const double shown = search.last_.totals.count / (reference.size(level).width * reference.size(level).height);
  if (shown < least_shown) return {inverse_map, {}, -1};
  return {search.inverse_map_, search.light_, agreement_of(search.last_.plain, reference.noise(level)),
          sureness(search.last_, detail_of(search.last_.plain), shown, options), shown};
}

/// What starts led to.
class Candidates {
 public:
  explicit Candidates(Size size) : middle_(size.middle()), near_(0.02 * std::max(size.width, size.height)) {}

  void add(const Found& found) {
    if (best_.agreement < 0 || found.worth() > best_.worth()) {
      if (apart(found, best_)) second_ = std::max(second_, best_.agreement);
      best_ = found;
    } else if (apart(found, best_)) {
      second_ = std::max(second_, found.agreement);
    }
  }
  const Found& best() const { return best_; }
  bool certain() const { return agree() && best_.agreement >= fexel::certain && best_.shown > 0.5; }
  bool agree() const { return best_.agreement >= agrees && best_.sureness >= good_sure; }
  /// The best is more than what chance gives elsewhere.
  bool stands_out() const { return agree() || best_.agreement > 2 * second_; }

 private:
  bool apart(const Found& a, const Found& b) const {
    const auto p = Map::apply(a.inverse_map, middle_), q = Map::apply(b.inverse_map, middle_);
    const double turned = (a.inverse_map.topLeftCorner<2, 2>() - b.inverse_map.topLeftCorner<2, 2>()).norm();
    return !p || !q || distance(*p, *q) > near_ || turned > 0.1;
  }
  Point middle_;
  double near_;
  Found best_{Matrix3::Identity(), {}, -1};
  double second_ = 0;
};

Candidates candidates(const PreparedFrame& reference, const PreparedFrame& frame, const MatchOptions& options,
                      const FftPlans& transforms, const std::optional<Matrix3>& start, int first, const Job& job) {
  const int top = reference.levels() - 1;
  Candidates tried(reference.size());
  const auto try_from = [&](const Matrix3& inverse_map) {
    job.check();
    if (!tried.certain()) tried.add(follow(reference, frame, options, first, inverse_map, job));
  };
  if (start) try_from(start->inverse());
  const bool turns = options.any_turn && options.model != Model::translation;
  for (int level = top; level >= std::max(0, top - 2) && !tried.agree(); --level) {
    for (const Start& s : shift_starts(reference, frame, level, transforms)) try_from(s.inverse_map);
    if (level == top && !tried.certain())
      for (const Start& s : overlap_starts(reference, frame, level, transforms)) try_from(s.inverse_map);
    if (!turns || tried.agree() || level < top - 1) continue;
    const bool scales = options.model != Model::rigid;
    for (const Start& s : turned_starts(reference, frame, level, scales, transforms)) try_from(s.inverse_map);
  }
  return tried;
}

/// From where the coarsest level led down to full size.
bool down_to(Search& search, int first, int last) {
  for (int level = first; level >= last; --level) {
    if (!search.refine(level, level == first ? 12 : level > 1 ? 6 : 4, 0.015)) return false;
    search.descend();
  }
  return true;
}

/// At full size.
bool finish(Search& search) {
  // The sums of the last pass also say what its step leaves.
  for (int k = 0; k < 8; ++k) {
    if (!search.pass(0, true)) return false;
    search.take(search.last_.step);
    if (search.last_.moved < 0.004) break;
  }
  return true;
}

/// Whether a texture that repeats fits about as well when it is shifted by a period; the search goes to where it fits
/// best.
struct Repeats {
  double period = 0;      ///< px; 0 where it does not repeat
  double evidence = 1e9;  ///< for the best against the next
  bool moved = false;     ///< the search is at another place
};

Repeats among_periods(Search& search, const PreparedFrame& reference, const FftPlans& transforms, const Job& job) {
  const std::vector<Point>& periods = reference.periods(transforms);
  if (periods.empty()) return {};
  const double shortest = distance(periods[0], {});
  const int level =
      std::clamp(static_cast<int>(std::log2(std::max(1.0, shortest / 6))), 0,
                 reference.size().width * reference.size().height > 600000 ? std::min(1, reference.levels() - 1) : 0);
  const auto judged_at = [&](const Matrix3& inverse_map) {
    Search other = search;
    other.inverse_map_ = inverse_map;
    if (!other.refine(level, 2, 0.01) || !other.pass(level, true)) other.last_.plain.clear();
    return other;
  };
  Search best = judged_at(search.inverse_map_);
  Repeats out;
  const auto compare = [&](int a, int b) {
    const Point shift =
        static_cast<double>(a) * periods[0] + (periods.size() > 1 ? static_cast<double>(b) * periods[1] : Point{});
    const Search other = judged_at(search.inverse_map_ * translation(shift.x, shift.y));
    job.check();
    // What went back to where it came from is no other place.
    if (other.last_.plain.empty() ||
        rms_distance(other.inverse_map_, best.inverse_map_, reference.size()) < 0.4 * shortest)
      return 1e9;
    const auto speaks = evidence(best.last_.plain, other.last_.plain, best.light_);
    if (!speaks) return 1e9;
    out.evidence = std::min(out.evidence, std::abs(*speaks));
    if (*speaks < 0) best = other;
    return *speaks;
  };
  double nearest = 1e9;
  for (const int a : {-1, 1}) nearest = std::min(nearest, compare(a, 0));
  if (periods.size() > 1)
    for (const int b : {-1, 1}) nearest = std::min(nearest, compare(0, b));
  // Where the next period is far worse the texture does not repeat.
  if (nearest > never_repeats) return {};
  out.period = shortest;
  const int reach = 3, other = periods.size() > 1 ? reach : 0;
  for (int b = -other; b <= other; ++b)
    for (int a = -reach; a <= reach; ++a)
      if (std::abs(a) + std::abs(b) > 1) compare(a, b);
  out.moved = rms_distance(best.inverse_map_, search.inverse_map_, reference.size()) > 0.4 * shortest;
  if (out.moved) search.inverse_map_ = best.inverse_map_;
  return out;
}

/// What each pixel seems to be off by, beyond noise, from which a search of the smoothed frames is worth its time.
constexpr double doubtful = 0.008;
/// Of what pixels seem to be off by, this share may be common to all of them.
constexpr double common = 0.02;
/// How much farther off than the distance between the two searches either may be.
constexpr double farther = 1.3;

/// What no scatter shows, in px: where residuals follow the gradient, the frames are searched once more, smoothed.
/// Aliasing, compression and patterns that are fixed to the sensor pull differently at different scales, so that the
/// distance between the two says how far either may be off. Where it is large, the smoothed one is taken.
double second_opinion(Search& search, const PreparedFrame& reference, const PreparedFrame& frame, Model model,
                      const LeftOut& still, const Job& job) {
  const double jitter = jitter_of(search.last_, search.light_);
  if (!(jitter > doubtful)) return 0;
  const Size size = reference.size();
  Search soft(reference.softer(job), frame.softer(job), model, job);
  soft.leave_out(still);
  soft.inverse_map_ = search.inverse_map_;
  if (!finish(soft)) return common * jitter;
  const double apart = rms_distance(soft.inverse_map_, search.inverse_map_, size) / std::sqrt(2.0);
  const StepBasis basis(model, size);
  if (apart > std::max(0.05, basis.uncertainty(search.covariance(0)))) {
    search.inverse_map_ = soft.inverse_map_;
    search.pass(0, true);
  }
  return std::hypot(common * jitter, farther * apart);
}

/// What detail as fine as the pixels may move a match by, in px: it is there, for the reference varies from pixel to
/// pixel by more than its noise, and interpolation between samples cannot follow it. The share of it, over the
/// gradient, that all pixels have in common was measured on photographs that were reduced.
double left_by_fine_detail(const Search& search, const PreparedFrame& reference) {
  constexpr double shared = 0.01;
  double slope = 0, w = 0;
  for (const BlockSums& b : search.last_.blocks) {
    slope += (b[BlockSums::gxx] + b[BlockSums::gyy]) / 2;
    w += b[BlockSums::w];
  }
  const double fine = reference.noise(0) * reference.noise(0) - search.noise();
  return fine > 0 && slope > 0 ? shared * std::sqrt(fine * w / slope) : 0;
}

/// Where a part of the frame stands still, this much of what counts has to move together to be the scene.
constexpr double least_moving = 0.36;

/// The share of the reference in which the frames agree.
double share_agreeing(const std::vector<BlockSums>& judged, Size size) {
  double sum = 0;
  for (const BlockSums& b : judged) {
    const Within own(b);
    if (own.n >= 16 && own.correlation() > 0.5) sum += own.n;
  }
  return sum / (static_cast<double>(size.width) * size.height);
}

/// What stays where it is when the scene moves is left out, and the search goes on without.
LeftOut leave_out_still(Search& search, const PreparedFrame& reference, int level) {
  const Size size = reference.size();
  Search moved = search, standing = search;
  if (!moved.pass(level, true) || share_apart(moved.last_.plain, reference.noise(level)) < 0.02) return {};
  if (rms_distance(search.inverse_map_, Matrix3::Identity(), size) < 1) return {};
  standing.inverse_map_ = Matrix3::Identity();
  if (!standing.pass(level, true)) return {};
  LeftOut still = still_blocks(moved.last_.plain, standing.last_.plain, size, level);
  if (still.none()) return {};
  search.leave_out(still);
  search.refine(level, 6, 0.015);
  return still;
}

}  // namespace

const std::vector<std::string>& match_status_names() {
  static const std::vector<std::string> names = {"ok", "weak", "ambiguous", "failed"};
  return names;
}

const char* name_of(MatchStatus status) {
  return match_status_names()[static_cast<std::size_t>(status)].c_str();
}

MatchStatus match_status_named(const std::string& word) {
  const auto& names = match_status_names();
  const auto found = std::ranges::find(names, word);
  if (found == names.end()) throw call_error("There is no status '" + word + "'.");
  return static_cast<MatchStatus>(found - names.begin());
}

Match match_frames(const PreparedFrame& reference, const PreparedFrame& frame, const MatchOptions& options,
                   const FftPlans& transforms, const std::optional<Matrix3>& start, const Job& job) {
  const Size size = reference.size();
  const int top = reference.levels() - 1;
  const int first = std::max(0, std::min(top, top > 2 ? top - 1 : top));
  const Candidates tried = candidates(reference, frame, options, transforms, start, first, job);
  const Found& best = tried.best();
  if (best.agreement < 0.5 * least_detail || !tried.stands_out())
    return failure("The frame and the reference have nothing in common that could be found.");
  Search search(reference, frame, options.model, job);
  search.inverse_map_ = best.inverse_map;
  search.light_ = best.light;
  // Where the model is too small, a larger one shows it at the coarsest level, where it is not far off.
  std::optional<Search> larger;
  if (options.model != Model::projective) {
    larger.emplace(reference, frame, Model::projective, job);
    larger->inverse_map_ = best.inverse_map;
    larger->light_ = best.light;
    Misfit coarse;
    if (larger->refine(first, 10, 0.02) && larger->pass(first, false))
      coarse = misfit_between(best.inverse_map, *larger, size, first);
    if (!significant(coarse, options.model) || coarse.px < 0.3 || coarse.px > 0.2 * size.width) larger.reset();
  }
  const auto lost = [] {
    return failure("The search lost its way: too little of the frame agrees with the reference.");
  };
  Match out;
  if (!down_to(search, first, 1)) return lost();
  const LeftOut still = leave_out_still(search, reference, std::min(1, top));
  if (!finish(search)) return lost();
  const Repeats repeats = among_periods(search, reference, transforms, job);
  if (repeats.moved) larger.reset();
  if (repeats.moved && !finish(search)) return lost();
  // What a larger model would change, and parts that move on their own, are asked where this one fits best.
  Misfit misfit = misfit_of(search, options.model, size, 0);
  if (!larger && significant(misfit, options.model) && misfit.px > 0.3) {
    larger.emplace(reference, frame, Model::projective, job);
    larger->inverse_map_ = search.inverse_map_;
    larger->light_ = search.light_;
  }
  if (larger) {
    larger->leave_out(still);
    const double detail = detail_of(search.last_.plain);
    if (down_to(*larger, first, 1) && finish(*larger) && detail_of(larger->last_.plain) > detail) {
      const Misfit far = misfit_between(search.inverse_map_, *larger, size, 0);
      if (far.px > 0.3) misfit = far;
    }
  }
  const bool fits = !significant(misfit, options.model);
  if (fits) misfit.step.setZero(), misfit.px = 0;
  const Parts parts = parts_of(search, misfit, size, 0);
  const double blind = std::hypot(left_by_fine_detail(search, reference),
                                  second_opinion(search, reference, frame, options.model, still, job));
  const std::vector<BlockSums>& plain = search.last_.plain;
  out.covariance = search.covariance(0);
  Totals all;
  for (const BlockSums& b : plain) all.add(b);
  out.score = all.cov() / std::sqrt(std::max(1e-30, all.var_i() * all.var_t()));
  out.detail = detail_of(plain);
  out.overlap = all.count / (static_cast<double>(size.width) * size.height);
  const StepBasis basis(options.model, size);
  out.uncertainty_px = basis.uncertainty(out.covariance);
  Matrix3 matrix = search.inverse_map_.inverse();
  matrix /= matrix(2, 2);
  const double light = search.light_.gain * reference.spread() / frame.spread();
  out.gain = light;
  out.offset = reference.mean() + reference.spread() * search.light_.offset - light * frame.mean();
  const double agreement = agreement_of(plain, reference.noise(0));
  if (agreement < least_detail)
    return failure(fmt::format("What varies from place to place agrees by no more than {:.2f}; it is another view.",
                               std::max(0.0, agreement)));
  if (out.overlap < least_shown) return failure("The frame shows too little of the reference.");
  if (!matrix.allFinite() || !(out.uncertainty_px < 5)) return failure("The frame does not determine the transform.");
  const double sure = sureness(search.last_, out.detail, out.overlap, options);
  out.sureness = sure;
  if (sure < least_sure)
    return failure("What agrees could agree by chance: the frames have too little in common to be sure.");
  out.matrix = matrix;
  out.misfit_px = misfit.px;
  out.parts_px = parts.rms;
  const double statistical = out.uncertainty_px;
  const double floor = misfit.px * misfit.px / 2 + (parts.share > 0 ? parts.rms * parts.rms / 2 : 0) + blind * blind +
                       least_uncertain * least_uncertain;
  out.blind_px = blind;
  out.covariance(0, 0) += floor;
  out.covariance(1, 1) += floor;
  out.uncertainty_px = basis.uncertainty(out.covariance);
  out.status = MatchStatus::weak;
  if (repeats.period > 0 && repeats.evidence < decides) {
    out.status = MatchStatus::ambiguous;
    out.reason = fmt::format(
        "The texture repeats every {:.1f} px, and a shift by that fits as well: give a start, or a region that does "
        "not repeat.",
        repeats.period);
  } else if (!fits && misfit.px > std::max(slight, 3 * statistical)) {
    out.reason = remedy_of(misfit, options.model, size);
  } else if (parts.share > 0.12 && parts.px > std::max(slight, 3 * statistical)) {
    out.reason = fmt::format(
        "Parts of the frame move by up to {:.2g} px against the whole: something moves or lies at another depth; "
        "choose a region that moves as one.",
        parts.px);
  } else if (out.uncertainty_px > max_uncertain) {
    out.reason = fmt::format("The transform is uncertain by {:.2f} px.", out.uncertainty_px);
  } else if (sure < good_sure) {
    out.reason = "Little agrees beyond what chance could give: look at it, or choose a region with more detail.";
  } else if (agreement < good_detail) {
    out.reason = "Little of the detail agrees: the frame may be blurred, noisy or changed.";
  } else if (!still.none() &&
             share_agreeing(plain, size) < std::max(still.share(), least_moving * reference.used_share())) {
    out.reason = fmt::format(
        "{:.0f} % of the frame stands still while {:.0f} % moves together: which of them is the scene cannot be told. "
        "Choose a region that moves as one.",
        100 * still.share(), 100 * share_agreeing(plain, size));
  } else if (typical_of(plain, reference.noise(0)) < 0.5 * out.detail) {
    out.reason = "Most of the frame does not move with the part that agrees: choose a region without what is in front.";
  } else if (out.overlap < good_shown) {
    out.reason = fmt::format("The frame shows {:.0f} % of the reference.", 100 * out.overlap);
  } else {
    out.status = MatchStatus::ok;
  }
  return out;
}

}  // namespace fexel
