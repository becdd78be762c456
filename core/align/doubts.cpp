#include "align/doubts.h"

#include <fmt/format.h>

#include <Eigen/LU>
#include <map>
#include <numbers>

#include "base/statistics.h"
#include "geometry/linear.h"

namespace fexel {
namespace {

using S = BlockSums;

using Places = std::map<std::pair<int, int>, const BlockSums*>;

Places by_place(const std::vector<BlockSums>& blocks, double side) {
  Places out;
  for (const BlockSums& b : blocks)
    out[{static_cast<int>(b.middle.x / side), static_cast<int>(b.middle.y / side)}] = &b;
  return out;
}

double rms_over(const SmallStep& step, const StepBasis& basis) {
  constexpr int cells = 8;
  double sum = 0;
  for (int i = 0; i < cells; ++i)
    for (int j = 0; j < cells; ++j)
      sum += (basis.at({basis.frame().width * (i + 0.5) / cells, basis.frame().height * (j + 0.5) / cells}) * step)
                 .squaredNorm();
  return std::sqrt(sum / (cells * cells));
}

}  // namespace

double sureness(const Pass& judged, double correlation, double overlap, const MatchOptions& options) {
  const double whole = std::max(1e-12, judged.totals.var_t());
  double sum = 0, squares = 0;
  for (const BlockSums& b : judged.blocks) {
    const Within own(b);
    if (own.n < 16) continue;
    const double slope = (b[S::gxx] + b[S::gyy] - (b[S::gx] * b[S::gx] + b[S::gy] * b[S::gy]) / own.n) / own.n;
    // A field with this slope is alike over an area of 2 pi variance / slope squared.
    const double places = own.n * std::max(0.0, slope) / (2 * std::numbers::pi * std::max(whole, own.vt / own.n));
    if (!(places > 0)) continue;
    sum += own.both();
    squares += own.both() * own.both() / places;
  }
  if (!(squares > 0)) return 0;
  const double independent = sum * sum / squares;
  const double z = std::atanh(std::clamp(correlation, 0.0, 0.9999)) * std::sqrt(std::max(0.0, independent - 3));
  double freedom = std::log(4 * (independent + 1) / std::max(0.05, overlap));
  if (options.model != Model::translation && options.any_turn) freedom += std::log(60.0);
  if (options.model != Model::translation && options.model != Model::rigid) freedom += std::log(20.0);
  if (options.model == Model::projective) freedom += std::log(20.0);
  return 0.5 * z * z - freedom;
}

Misfit misfit_of(const Search& search, Model model, Size frame, int level) {
  const StepBasis basis(Model::projective, frame);
  Misfit out{0, 0, SmallStep::Zero(basis.count()), static_cast<int>(search.last_.blocks.size())};
  if (model == Model::projective) return out;
  const auto asked = search.asked(basis, level);
  if (!asked) return out;
  const auto weighed = solve_symmetric(asked->covariance, asked->step);
  if (!weighed) return out;
  out.significance = asked->step.dot(SmallStep(*weighed));
  out.step = asked->step;
  out.px = rms_over(out.step, basis);
  return out;
}

Misfit misfit_between(const Matrix3& inverse_map, const Search& larger, Size frame, int level) {
  const StepBasis basis(Model::projective, frame);
  Misfit out{0, 0, basis.step_of(larger.inverse_map_.inverse() * inverse_map),
             static_cast<int>(larger.last_.blocks.size())};
  const auto weighed = solve_symmetric(larger.covariance(level), out.step);
  if (!weighed) return out;
  out.significance = out.step.dot(SmallStep(*weighed));
  out.px = rms_over(out.step, basis);
  return out;
}

bool significant(const Misfit& misfit, Model model) {
  const int more = 8 - StepBasis(model, {2, 2}).count();
  // Few blocks do not know their own scatter well.
  return more > 0 && misfit.significance > (3 * more + 24) * (1 + 60.0 / std::max(1, misfit.blocks));
}

std::string remedy_of(const Misfit& misfit, Model model, Size frame) {
  const StepBasis all(Model::projective, frame);
  const Matrix3 off = all.transform(misfit.step);
  const Motion motion = motion_of(off, frame);
  for (const Model larger : {Model::rigid, Model::similarity, Model::affine, Model::projective}) {
    if (larger <= model) continue;
    const StepBasis basis(larger, frame);
    const SmallStep left = all.step_of(off * basis.transform(basis.step_of(off)).inverse());
    if (larger != Model::projective && rms_over(left, all) > 0.3 * misfit.px) continue;
    std::string what;
    switch (larger) {
      case Model::rigid:
        what = fmt::format("is turned by about {:.2f}°", std::abs(motion.degrees));
        break;
      case Model::similarity:
        what = fmt::format("is scaled by about {:.2f} %", 100 * std::abs(motion.scale - 1));
        break;
      case Model::affine:
        what = "is sheared or scaled unevenly";
        break;
      default:
        what = "is seen in perspective, or bends";
    }
    return fmt::format("The frame {}, which \"{}\" leaves ({:.2g} px): use the model \"{}\".", what, name_of(model),
                       misfit.px, name_of(larger));
  }
  return {};
}

Parts parts_of(const Search& search, const Misfit& misfit, Size frame, int level) {
  constexpr int across = 4, down = 3;
  const StepBasis basis(Model::projective, frame);
  Parts out;
  int known = 0, moving = 0;
  double squares = 0;
  for (int j = 0; j < down; ++j)
    for (int i = 0; i < across; ++i) {
      const double left = frame.width * i / double(across), top = frame.height * j / double(down);
      const double right = left + frame.width / double(across), bottom = top + frame.height / double(down);
      const auto shift =
          search.shift_of(level, [&](Point p) { return p.x >= left && p.x < right && p.y >= top && p.y < bottom; });
      if (!shift) continue;
      const Eigen::Vector2d rest = shift->step - basis.at({0.5 * (left + right), 0.5 * (top + bottom)}) * misfit.step;
      const double uncertain = std::sqrt(std::max(0.0, shift->covariance.trace() / 2));
      if (!(uncertain < 2)) continue;
      ++known;
      squares += rest.squaredNorm();
      out.px = std::max(out.px, rest.norm());
      if (rest.norm() > std::max(0.08, 7 * uncertain)) ++moving;
    }
  if (known == 0) return out;
  out.rms = std::sqrt(squares / known);
  out.share = static_cast<double>(moving) / known;
  return out;
}

LeftOut still_blocks(const std::vector<BlockSums>& moved, const std::vector<BlockSums>& standing, Size frame,
                     int level) {
  const double scale = std::ldexp(1.0, -level), side = LeftOut::side * scale;
  LeftOut out{(frame.width + LeftOut::side - 1) / LeftOut::side, {}};
  std::vector<char> blocks(static_cast<std::size_t>(out.across) *
                           static_cast<std::size_t>((frame.height + LeftOut::side - 1) / LeftOut::side));
  const Places there = by_place(moved, side);
  bool any = false;
  for (const auto& [place, block] : by_place(standing, side)) {
    const Within own(*block);
    if (own.n < 16 || own.correlation() < 0.6) continue;
    const auto other = there.find(place);
    if (other != there.end() && Within(*other->second).correlation() > own.correlation() - 0.3) continue;
    const std::size_t at = static_cast<std::size_t>(place.second * out.across + place.first);
    if (at >= blocks.size()) continue;
    blocks[at] = 1;
    any = true;
  }
  if (any) out.blocks = std::move(blocks);
  return out;
}

double jitter_of(const Pass& judged, const Expectation& light) {
  // Weighted by their pixels: residual variance = noise + jitter squared x gradient squared.
  struct Own {
    double n, slope, residual;
  };
  std::vector<Own> all;
  double w = 0, x = 0, y = 0;
  const Places plain = by_place(judged.plain, LeftOut::side / 2.0);
  for (const auto& [place, block] : by_place(judged.blocks, LeftOut::side / 2.0)) {
    const BlockSums& b = *block;
    const auto unweighted = plain.find(place);
    const double n = b[S::w];
    if (n < 64 || unweighted == plain.end()) continue;
    all.push_back({n, (b[S::gxx] + b[S::gyy]) / n / 2, residual_variance(*unweighted->second, light.gain)});
    w += n;
    x += n * all.back().slope;
    y += n * all.back().residual;
  }
  if (all.size() < 24) return 0;
  x /= w;
  y /= w;
  double xx = 0, xy = 0;
  for (const Own& own : all) {
    xx += own.n * (own.slope - x) * (own.slope - x);
    xy += own.n * (own.slope - x) * (own.residual - y);
  }
  if (!(xx > 0) || !(xy > 0)) return 0;
  const double square = xy / xx;
  double scatter = 0;
  for (const Own& own : all) {
    const double off = own.n * (own.slope - x) * (own.residual - y - square * (own.slope - x));
    scatter += off * off;
  }
  constexpr double beyond_chance = 2;
  return square > beyond_chance * std::sqrt(scatter) / xx ? std::sqrt(square) : 0;
}

double share_apart(const std::vector<BlockSums>& judged, double noise) {
  const double usual = typical_of(judged, noise);
  int apart = 0, all = 0;
  for (const BlockSums& b : judged) {
    const Within own(b);
    if (own.n < 16 || !(own.both() > 0)) continue;
    ++all;
    if (own.correlation() < 0.5 * usual) ++apart;
  }
  return all > 0 ? static_cast<double>(apart) / all : 0;
}

std::optional<double> evidence(const std::vector<BlockSums>& one, const std::vector<BlockSums>& other,
                               const Expectation& light) {
  const auto variance = [&](const BlockSums& b) { return residual_variance(b, light.gain); };
  std::vector<double> usual;
  for (const BlockSums& b : one)
    if (b[S::w] >= 16) usual.push_back(variance(b));
  if (usual.empty()) return std::nullopt;
  const double noise = std::max(median(std::move(usual)), 1e-6);
  const Places there = by_place(other, LeftOut::side / 2.0);
  double sum = 0, shared = 0, all = 0;
  std::vector<double> differences;
  for (const auto& [place, block] : by_place(one, LeftOut::side / 2.0)) {
    all += (*block)[S::w];
    const auto found = there.find(place);
    if (found == there.end()) continue;
    const double n = std::min((*block)[S::w], (*found->second)[S::w]);
    if (n < 16) continue;
    shared += n;
    differences.push_back((variance(*found->second) - variance(*block)) / noise);
    sum += n * differences.back() / 2;
  }
  if (shared < all / 3 || differences.empty()) return std::nullopt;
  // Between samples noise is averaged, the more the farther from them: that much all places may have in common, and it
  // speaks for neither.
  constexpr double by_averaging = 0.5;
  sum -= shared * std::clamp(median(std::move(differences)), -by_averaging, by_averaging) / 2;
  return sum / std::sqrt(shared);
}

}  // namespace fexel
