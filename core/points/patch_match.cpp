#include "points/patch_match.h"

#include <fmt/format.h>

#include <Eigen/Cholesky>
#include <Eigen/Eigenvalues>
#include <Eigen/LU>
#include <Eigen/SVD>
#include <algorithm>
#include <array>
#include <cmath>
#include <optional>
#include <vector>

#include "base/error.h"
#include "base/units.h"
#include "filter/filter.h"
#include "resample/kernels/prefilter.h"

namespace fexel {
namespace {

constexpr double least_score = 0.6;     // correlation of a match
constexpr double least_of_edges = 0.8;  // the same of edges: noise makes edges, too
constexpr double least_seen = 0.7;      // share of the patch that both pictures have to show
constexpr double most_sigma = 0.2;      // pixels of the coarser picture
constexpr double alike = 0.92;          // of the best correlation: a second place that is as good
constexpr double apart = 4;             // pixels of the coarser picture: farther is another place
constexpr double least_kept = 0.3;      // of the information on the place: the rest is noise of the slopes
constexpr double unlike = 3;            // standard uncertainties
constexpr int rounds = 30;

constexpr const char* nothing_alike = "Nothing alike is in reach.";

[[noreturn]] void refuse(const char* what, const char* remedy) {
  throw input_error(what, {}, remedy);
}

/// A part of a plane, smoothed, as a cubic spline.
class Window {
 public:
  Window(const Image& plane, Point middle, double half, double sigma, bool slopes) {
    constexpr int margin = 8;
    const int reach = static_cast<int>(std::ceil(half)) + margin + static_cast<int>(std::ceil(4 * sigma));
    const auto clamped = [](double v, int top) { return static_cast<int>(std::clamp(v, 0.0, double(top))); };
    left_ = clamped(std::floor(middle.x) - reach, plane.width());
    top_ = clamped(std::floor(middle.y) - reach, plane.height());
    const int right = clamped(std::floor(middle.x) + reach + 1, plane.width()),
              bottom = clamped(std::floor(middle.y) + reach + 1, plane.height());
    if (right - left_ < 8 || bottom - top_ < 8) return;
    Image part(right - left_, bottom - top_, 1, Depth::f32);
    for (int y = 0; y < part.height(); ++y)
      std::transform(plane.row<float>(0, y + top_) + left_, plane.row<float>(0, y + top_) + left_ + part.width(),
                     part.row<float>(0, y), [](float v) { return std::isfinite(v) ? v : 0.0F; });
    Image smooth = sigma > 0.2 ? gaussian(part, 2 * sigma) : std::move(part);
    if (slopes) smooth = slope_of(smooth);
    // The Gaussian carries empty pixels into those around them.
    if (plane.has_mask()) {
      const int near = static_cast<int>(std::ceil(2.5 * sigma)) + 1;
      clean_.assign(static_cast<std::size_t>(smooth.width()) * static_cast<std::size_t>(smooth.height()), true);
      for (int y = 0; y < smooth.height(); ++y)
        for (int x = 0; x < smooth.width(); ++x) {
          if (plane.valid(x + left_, y + top_)) continue;
          for (int v = std::max(0, y - near); v <= std::min(smooth.height() - 1, y + near); ++v)
            for (int u = std::max(0, x - near); u <= std::min(smooth.width() - 1, x + near); ++u)
              clean_[static_cast<std::size_t>(v) * static_cast<std::size_t>(smooth.width()) +
                     static_cast<std::size_t>(u)] = false;
        }
    }
    width_ = smooth.width();
    height_ = smooth.height();
    coefficients_ = spline_coefficients(smooth, BorderMode::mirror, {});
  }
  /// Value and slope at a place of the plane; nothing outside of the window and on empty pixels.
  bool at(Point p, double& value, double& dx, double& dy) const {
    const double x = p.x - left_ - 0.5, y = p.y - top_ - 0.5;
    if (!(x >= 1 && y >= 1 && x < width_ - 2 && y < height_ - 2)) return false;
    if (!clean_.empty() &&
        !clean_[static_cast<std::size_t>(static_cast<int>(p.y) - top_) * static_cast<std::size_t>(width_) +
                static_cast<std::size_t>(static_cast<int>(p.x) - left_)])
      return false;
    const int i = static_cast<int>(x), j = static_cast<int>(y);
    const std::array<double, 4> wx = weights(x - i), wy = weights(y - j), sx = slopes(x - i), sy = slopes(y - j);
    value = dx = dy = 0;
    for (int b = 0; b < 4; ++b) {
      const float* row = coefficients_.row<float>(0, j + b - 1 + prefilter_margin) + i - 1 + prefilter_margin;
      double sum = 0, slope = 0;
      for (int a = 0; a < 4; ++a) {
        sum += wx[static_cast<std::size_t>(a)] * static_cast<double>(row[a]);
        slope += sx[static_cast<std::size_t>(a)] * static_cast<double>(row[a]);
      }
      value += wy[static_cast<std::size_t>(b)] * sum;
      dx += wy[static_cast<std::size_t>(b)] * slope;
      dy += sy[static_cast<std::size_t>(b)] * sum;
    }
    return true;
  }

 private:
  static std::array<double, 4> weights(double t) {
    const double u = 1 - t;
    return {u * u * u / 6, (4 + 3 * t * t * (t - 2)) / 6, (4 + 3 * u * u * (u - 2)) / 6, t * t * t / 6};
  }
  static std::array<double, 4> slopes(double t) {
    const double u = 1 - t;
    return {-u * u / 2, (3 * t * t - 4 * t) / 2, -(3 * u * u - 4 * u) / 2, t * t / 2};
  }
  /// How strongly the samples change.
  static Image slope_of(const Image& smooth) {
    Image out(smooth.width(), smooth.height(), 1, Depth::f32);
    for (int y = 0; y < out.height(); ++y) {
      const float* above = smooth.row<float>(0, std::max(0, y - 1));
      const float* here = smooth.row<float>(0, y);
      const float* below = smooth.row<float>(0, std::min(out.height() - 1, y + 1));
      for (int x = 0; x < out.width(); ++x)
        out.row<float>(0, y)[x] =
            std::hypot(here[std::min(out.width() - 1, x + 1)] - here[std::max(0, x - 1)], below[x] - above[x]) / 2;
    }
    return out;
  }

  std::vector<bool> clean_;  // where no empty pixel is near; empty where all are
  Image coefficients_;
  int left_ = 0, top_ = 0, width_ = 0, height_ = 0;
};

struct Sample {
  Point off;  // from the middle of the patch, in pixels of the first picture
  double value;
};

/// Mean-free products over the samples that both pictures show.
struct Sums {
  double n = 0, a = 0, b = 0, aa = 0, bb = 0, ab = 0;
  void add(double u, double v) {
    n += 1;
    a += u;
    b += v;
    aa += u * u;
    bb += v * v;
    ab += u * v;
  }
  double correlation() const {
    const double u = aa - a * a / n, v = bb - b * b / n;
    return n > 0 && u > 0 && v > 0 ? (ab - a * b / n) / std::sqrt(u * v) : 0;
  }
};

struct Search {
  Point at;
  double score = -1, second = -1;
};

/// The best place over the reach, and the best one farther away that is a peak of its own.
Search searched(const std::vector<Sample>& patch, const Window& window, Point expected, const Eigen::Matrix2d& local,
                double reach, double step, std::size_t least) {
  const int half = static_cast<int>(std::ceil(reach / step)), side = 2 * half + 1;
  std::vector<double> scores(static_cast<std::size_t>(side) * static_cast<std::size_t>(side), -1);
  const auto score_at = [&](int i, int j) -> double& {
    return scores[static_cast<std::size_t>(j + half) * static_cast<std::size_t>(side) +
                  static_cast<std::size_t>(i + half)];
  };
  Search out;
  for (int j = -half; j <= half; ++j)
    for (int i = -half; i <= half; ++i) {
      if (i * i + j * j > half * half) continue;
      const Point middle = expected + step * Point{double(i), double(j)};
      Sums sums;
      double value = 0, dx = 0, dy = 0;
      for (const Sample& s : patch) {
        const Eigen::Vector2d d = local * Eigen::Vector2d(s.off.x, s.off.y);
        if (window.at(middle + Point{d.x(), d.y()}, value, dx, dy)) sums.add(s.value, value);
      }
      if (sums.n < static_cast<double>(least)) continue;
      const double score = score_at(i, j) = sums.correlation();
      if (score > out.score) {
        out.score = score;
        out.at = middle;
      }
    }
  for (int j = -half; j <= half; ++j)
    for (int i = -half; i <= half; ++i) {
      const Point middle = expected + step * Point{double(i), double(j)};
      if (distance(middle, out.at) < apart * step) continue;
      const double score = score_at(i, j);
      bool peak = score > out.second;
      for (int v = std::max(-half, j - 1); peak && v <= std::min(half, j + 1); ++v)
        for (int u = std::max(-half, i - 1); peak && u <= std::min(half, i + 1); ++u) peak = score >= score_at(u, v);
      if (peak) out.second = score;
    }
  return out;
}

/// Sums of a quantity that lies on the patch's grid, smoothed twice over, times another: what white noise, smoothed by
/// the Gaussian, makes of sums over the patch.
Eigen::Matrix2d smoothed_products(const std::vector<Sample>& patch, const std::vector<Eigen::Vector2d>& slopes,
                                  int half, double sigma) {
  const int reach = static_cast<int>(std::ceil(4 * sigma)), side = 2 * (half + reach) + 1;
  Image fields[2] = {Image(side, side, 1, Depth::f32), Image(side, side, 1, Depth::f32)};
  for (std::size_t k = 0; k < patch.size(); ++k) {
    const int x = static_cast<int>(std::lround(std::floor(patch[k].off.x + 0.5))) + half + reach,
              y = static_cast<int>(std::lround(std::floor(patch[k].off.y + 0.5))) + half + reach;
    if (x < 0 || y < 0 || x >= side || y >= side) continue;
    for (int f = 0; f < 2; ++f) fields[f].row<float>(0, y)[x] = static_cast<float>(slopes[k][f]);
  }
  for (Image& field : fields) field = gaussian(field, 2 * sigma);
  Eigen::Matrix2d out = Eigen::Matrix2d::Zero();
  for (int y = 0; y < side; ++y)
    for (int x = 0; x < side; ++x) {
      const Eigen::Vector2d v(static_cast<double>(fields[0].row<float>(0, y)[x]),
                              static_cast<double>(fields[1].row<float>(0, y)[x]));
      out += v * v.transpose();
    }
  return out;
}

struct Solved {
  Point to;
  Eigen::Matrix2d local;
  double score = 0;
  Eigen::Matrix2d covariance;
};

using Row = Eigen::Matrix<double, 8, 1>;  // shift, shape (px at the rim of the patch), gain, offset
using Square = Eigen::Matrix<double, 8, 8>;

/// Sums of least squares at one state, with the shape's prior.
struct Normal {
  Square normal = Square::Zero();
  Row right = Row::Zero();
  Sums sums;
  double variance = 0;  // of what is left over
  double prior = 0;     // weight of the shape's prior, as that of a sample
  std::vector<Row> rows = {};
  std::vector<Sample> used = {};
};

Normal normal_at(const std::vector<Sample>& patch, const Window& window, Point to, const Eigen::Matrix2d& local,
                 const Eigen::Matrix2d& expected, double size, double independent, double shape) {
  Normal out;
  double value = 0, dx = 0, dy = 0;
  for (const Sample& s : patch) {
    const Eigen::Vector2d d = local * Eigen::Vector2d(s.off.x, s.off.y);
    if (!window.at(to + Point{d.x(), d.y()}, value, dx, dy)) continue;
    const double u = s.off.x / size, v = s.off.y / size;
    Row j;
    j << dx, dy, dx * u, dx * v, dy * u, dy * v, -s.value, -1;
    out.normal += j * j.transpose();
    out.right -= j * value;
    out.sums.add(s.value, value);
    out.rows.push_back(j);
    out.used.push_back(s);
  }
  const Sums& t = out.sums;
  const double aa = t.aa - t.a * t.a / t.n, ab = t.ab - t.a * t.b / t.n, bb = t.bb - t.b * t.b / t.n;
  out.variance = std::max(bb - (aa > 0 ? ab * ab / aa : 0), 1e-12 * bb + 1e-300) / t.n;
  out.prior = out.variance / (independent * shape * shape * size * size);
  const double off[] = {local(0, 0) - expected(0, 0), local(0, 1) - expected(0, 1), local(1, 0) - expected(1, 0),
                        local(1, 1) - expected(1, 1)};
  for (int k = 0; k < 4; ++k) {
    out.normal(2 + k, 2 + k) += out.prior;
    out.right(2 + k) -= out.prior * off[k] * size;
  }
  return out;
}

/// Least squares from a start that is right to about a pixel: for the shift alone, then for all.
Solved solved(const std::vector<Sample>& patch, const Window& window, Point start, const Eigen::Matrix2d& expected,
              int half, double sigma, double sigma_second, double reach, double shape) {
  Point to = start;
  Eigen::Matrix2d local = expected;
  double size = 0;
  for (const Sample& s : patch) size = std::max(size, std::hypot(s.off.x, s.off.y));
  // White noise that a Gaussian smooths leaves so much of each sample.
  const double independent = std::min(1.0, 1 / (4 * M_PI * sigma * sigma));
  for (int round = 0; round < rounds; ++round) {
    const bool shift_only = round < 4;
    const Normal now = normal_at(patch, window, to, local, expected, size, independent, shift_only ? 1e-4 : shape);
    if (now.sums.n < 20) refuse("The other picture does not reach there.", "Choose a place that both pictures show.");
    const Row step = now.normal.ldlt().solve(now.right);
    if (!step.allFinite()) refuse("There is nothing to hold on to.", "Choose a place where edges cross or texture is.");
    const double far = std::hypot(step[0], step[1]), take = std::min(1.0, 1.0 / std::max(far, 1e-12));
    to = to + take * Point{step[0], step[1]};
    local(0, 0) += take * step[2] / size;
    local(0, 1) += take * step[3] / size;
    local(1, 0) += take * step[4] / size;
    local(1, 1) += take * step[5] / size;
    if (distance(to, start) > reach || !(local.determinant() > 1e-3))
      refuse("The match walks away from where it is expected.", "Place the point by hand, closer to where it belongs.");
    if (far < 1e-4 && !shift_only) break;
  }
  // What is left over, and what it makes of the place: the two pictures' noise is white before it is smoothed. Slopes
  // have noise, too, which holds nothing and is taken out of the normal equations.
  const Normal now = normal_at(patch, window, to, local, expected, size, independent, shape);
  const double freedom = std::max(1.0, now.sums.n * independent - 8);
  const double white = now.variance * (1 + 8 / freedom) / independent;
  // A pixel of either picture has the same noise, so the finer one has less of it to an area.
  const double area = std::abs(expected.determinant()), second_sigma = std::max(sigma_second, 0.3);
  const double of_slopes = white / (1 + 1 / area) / (8 * M_PI * std::pow(second_sigma, 4));
  Square true_normal = now.normal;
  for (const Sample& s : now.used) {
    const Eigen::Vector3d f(1, s.off.x / size, s.off.y / size);
    constexpr int of_x[] = {0, 2, 3}, of_y[] = {1, 4, 5};
    for (int k = 0; k < 3; ++k)
      for (int m = 0; m < 3; ++m) {
        true_normal(of_x[k], of_x[m]) -= of_slopes * f[k] * f[m];
        true_normal(of_y[k], of_y[m]) -= of_slopes * f[k] * f[m];
      }
  }
  Solved out{to, local, now.sums.correlation(), Eigen::Matrix2d::Identity() * 1e6};
  const auto shift_information = [](const Square& normal) -> Eigen::Matrix2d {
    return normal.ldlt().solve(Square::Identity()).topLeftCorner<2, 2>().inverse();
  };
  const Eigen::SelfAdjointEigenSolver<Square> positive(true_normal);
  if (!(positive.eigenvalues()(0) > 0)) return out;
  const double kept = Eigen::SelfAdjointEigenSolver<Eigen::Matrix2d>(shift_information(true_normal)).eigenvalues()(0) /
                      Eigen::SelfAdjointEigenSolver<Eigen::Matrix2d>(shift_information(now.normal)).eigenvalues()(0);
  if (!(kept > least_kept)) return out;
  const Square inverse = true_normal.ldlt().solve(Square::Identity());
  std::vector<Eigen::Vector2d> weights;  // by how much a sample's error moves the place
  for (const Row& row : now.rows) weights.emplace_back(inverse.topRows<2>() * row);
  out.covariance = white * smoothed_products(now.used, weights, half, std::max(sigma, 0.3));
  const Eigen::Matrix<double, 2, 4> of_shape = inverse.block<2, 4>(0, 2) * now.prior * shape * size;
  out.covariance += of_shape * of_shape.transpose();
  return out;
}

/// Both pictures' parts about one place, as blurred as each other.
struct Parts {
  std::vector<Sample> patch;  // at the first picture's own pixels, so that it is not interpolated
  std::size_t wanted = 0;
  Window window;
  double sigma, sigma_second;  // of the Gaussian, in pixels of either picture
};

struct Scales {
  double first, second;  // pixels of one picture for one of the coarser
  int half;              // of the patch, in pixels of the first
};

Parts parts_of(const Image& first, const Image& second, Point from, Point expected, const Eigen::Matrix2d& local,
               const Scales& scales, double reach, bool edges, double smoothing, int stride) {
  const double box = 1.0 / 12;  // variance of a pixel, which is wider where the picture is coarser
  const auto sigma_of = [&](double coarse) {
    return std::sqrt(smoothing * smoothing * coarse * coarse + box * (coarse * coarse - 1));
  };
  const double across = Eigen::JacobiSVD<Eigen::Matrix2d>(local).singularValues()(0);
  const Window a(first, from, scales.half + 1, sigma_of(scales.first), edges);
  Parts out{{},
            0,
            Window(second, expected, 1.5 * scales.half * across + reach, sigma_of(scales.second), edges),
            sigma_of(scales.first),
            sigma_of(scales.second)};
  const double mx = std::floor(from.x) + 0.5 - from.x, my = std::floor(from.y) + 0.5 - from.y;
  double value = 0, dx = 0, dy = 0;
  for (int y = -scales.half; y <= scales.half; y += stride)
    for (int x = -scales.half; x <= scales.half; x += stride) {
      if (x * x + y * y > scales.half * scales.half) continue;
      ++out.wanted;
      const Point off{x + mx, y + my};
      if (a.at(from + off, value, dx, dy)) out.patch.push_back({off, value});
    }
  if (static_cast<double>(out.patch.size()) < least_seen * static_cast<double>(out.wanted))
    refuse("The place is too close to the border.", "Choose a place farther inside.");
  return out;
}

/// Where the search sees the patch. Refuses what is not to be found, or found twice.
Point found_about(const Parts& parts, Point expected, const Eigen::Matrix2d& local, const Scales& scales,
                  double reach) {
  double scatter = 0, mean = 0;
  for (const Sample& s : parts.patch) mean += s.value / static_cast<double>(parts.patch.size());
  for (const Sample& s : parts.patch) scatter += (s.value - mean) * (s.value - mean);
  if (!(scatter > 1e-12 * std::max(1.0, mean * mean)))
    refuse("There is nothing to hold on to: the place is flat.", "Choose a place where edges cross or texture is.");
  const Search search = searched(parts.patch, parts.window, expected, local, reach, scales.second,
                                 static_cast<std::size_t>(least_seen * static_cast<double>(parts.wanted)));
  if (search.score < -0.5) refuse("The other picture does not reach there.", "Choose a place that both pictures show.");
  if (search.score < 0.5 * least_score)
    refuse(nothing_alike, "Place the point closer to where it belongs, or compare edges.");
  if (search.second > alike * search.score)
    refuse("Two places in reach look alike.", "Place the point closer to the right one, or choose another place.");
  return search.at;
}

/// By the best of several widths of the Gaussian: fine texture wants a narrow one, a soft one in noise a wide one.
PatchMatch matched_by(const Image& first, const Image& second, Point from, Point expected, const Eigen::Matrix2d& local,
                      const PatchSettings& settings, bool edges) {
  const double scale = std::sqrt(std::abs(local.determinant()));
  const double coarse_first = std::max(1.0, 1 / scale);
  const Scales scales{coarse_first, std::max(1.0, scale),
                      static_cast<int>(std::lround(settings.radius * coarse_first))};
  const double reach = settings.reach * scales.second;
  constexpr double widths[] = {1.0, 1.6, 2.5};
  const Point start = found_about(
      parts_of(first, second, from, expected, local, scales, reach, edges, widths[1], scales.half > 8 ? 2 : 1),
      expected, local, scales, reach);
  std::optional<PatchMatch> best;
  std::optional<Error> why;
  std::vector<std::pair<Point, double>> all;
  for (const double width : widths) {
    try {
      const Parts parts = parts_of(first, second, from, start, local, scales, 2 * scales.second, edges, width, 1);
      const Solved found = solved(parts.patch, parts.window, start, local, scales.half, parts.sigma, parts.sigma_second,
                                  2 * scales.second, settings.shape);
      if (distance(found.to, expected) > reach + scales.second)
        refuse("The match walks away from where it is expected.",
               "Place the point by hand, closer to where it belongs.");
      if (found.score < (edges ? least_of_edges : least_score))
        refuse(nothing_alike, "Place the point closer to where it belongs, or compare edges.");
      const double sigma =
          std::sqrt(std::max(0.0, Eigen::SelfAdjointEigenSolver<Eigen::Matrix2d>(found.covariance).eigenvalues()(1)));
      all.emplace_back(found.to, sigma);
      if (!(sigma < most_sigma * scales.second))
        refuse("There is nothing to hold on to along one direction.",
               "Choose a place where edges cross or texture is.");
      if (!best || sigma < best->sigma) best = PatchMatch{found.to, sigma, found.score, edges, found.local};
    } catch (const Error& error) {
      if (!why) why = error;
    }
  }
  if (!best) throw Error(*why);
  for (const auto& [to, sigma] : all)
    if (distance(to, best->to) > unlike * std::hypot(sigma, best->sigma))
      refuse("Fine and coarse structure there do not agree on the place.", "Choose a place with clearer structure.");
  return *best;
}

}  // namespace

PatchMatch matched_patch(const Image& first, const Image& second, Point from, Point expected,
                         const Eigen::Matrix2d& local, const PatchSettings& settings) {
  const double scale = std::sqrt(std::abs(local.determinant()));
  if (!(scale > 0.2 && scale < 5) || !local.allFinite())
    throw input_error("The two pictures differ too much in scale there.", {},
                      "Give pictures whose scales differ by less than five times.");
  if (settings.metric != PatchMetric::automatic)
    return matched_by(first, second, from, expected, local, settings, settings.metric == PatchMetric::edges);
  constexpr double sure = 0.85;
  std::optional<PatchMatch> bright;
  try {
    bright = matched_by(first, second, from, expected, local, settings, false);
    if (bright->score > sure) return *bright;
  } catch (const Error& why) {
    // Where there is nothing to hold on to, edges are made by noise.
    if (why.message() != nothing_alike) throw;
    try {
      return matched_by(first, second, from, expected, local, settings, true);
    } catch (const Error&) {
      throw why;
    }
  }
  try {
    const PatchMatch edged = matched_by(first, second, from, expected, local, settings, true);
    if (edged.score > bright->score) return edged;
  } catch (const Error&) {
    // Then brightness stands.
  }
  return *bright;
}

double stated_uncertainty(double sigma) {
  constexpr double least = 0.02;
  return rounded_to(std::hypot(sigma, least), 3);
}

}  // namespace fexel
