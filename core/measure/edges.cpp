#include "measure/edges.h"
#include "base/statistics.h"

#include <fmt/format.h>

#include <Eigen/LU>
#include <algorithm>
#include <array>
#include <numeric>

#include "base/error.h"
#include "geometry/linear.h"
#include "resample/paths/sampler.h"

namespace fexel {
namespace {

constexpr double pitch = 0.25;     // of samples across the side, in pixels
constexpr double smoothing = 0.5;  // of the picture, in pixels
constexpr double ramp = 1;         // of the slope around it that an edge has to stand out of, in pixels
constexpr int kernel_reach = 16;   // in samples
constexpr double leave_out = 0.04;
constexpr double apart = 3;         // pixels between two edges side by side
constexpr double place_length = 3;  // pixels along the side that one place is the mean of

/// Profiles across a side: the slope of the smoothed picture, places along it by samples across it.
struct Profiles {
  int places = 0, samples = 0;
  double reach = 0;
  std::vector<double> along;  // 0 to 1, of each place
  std::vector<float> slope;
  const float* row(int place) const { return &slope[static_cast<std::size_t>(place * samples)]; }
  double offset(double sample) const { return -reach + sample * pitch; }
};

struct Frame {
  Point from, direction, normal;
  double length;
  Point at(double u, double d) const { return from + u * length * direction + d * normal; }
};
Frame frame_of(Point from, Point to) {
  const double length = distance(from, to);
  const Point along = 1 / length * (to - from);
  return {from, along, {-along.y, along.x}, length};
}

Profiles profiles_of(const EdgeView& view, const Frame& frame, double reach) {
  Profiles p;
  p.reach = reach;
  p.samples = static_cast<int>(2 * reach / pitch) + 1;
  p.places = std::clamp(static_cast<int>(frame.length * (1 - 2 * leave_out) / place_length), 8, 2000);
  const int lines = std::clamp(static_cast<int>(frame.length * (1 - 2 * leave_out) / p.places), 1, 64);
  const int wide = p.samples + 2 * kernel_reach;
  p.slope.assign(static_cast<std::size_t>(p.places * p.samples), 0);
  // The slope of the smoothed picture less the slope of the much smoothed one: a ramp of light beside an edge, or
  // without any, counts for nothing.
  std::array<double, 2 * kernel_reach + 1> weights{};
  const auto add_slope = [&](double width, double sign) {
    double sum = 0;
    const auto value = [&](int k) { return k * pitch * std::exp(-0.5 * std::pow(k * pitch / width, 2)); };
    for (int k = -kernel_reach; k <= kernel_reach; ++k) sum += k * pitch * value(k);
    for (int k = -kernel_reach; k <= kernel_reach; ++k)
      weights[static_cast<std::size_t>(k + kernel_reach)] += sign * value(k) / sum;
  };
  add_slope(smoothing, 1);
  add_slope(ramp, -1);
  std::vector<double> profile(static_cast<std::size_t>(wide));
  std::vector<float> values(points_at_once);
  for (int i = 0; i < p.places; ++i) {
    std::ranges::fill(profile, 0);
    bool inside = true;
    for (int line = 0; line < lines && inside; ++line) {
      const double u = leave_out + (1 - 2 * leave_out) * (i + (line + 0.5) / lines) / p.places;
      for (int first = 0; first < wide && inside; first += points_at_once) {
        SourcePoints run;
        run.count = std::min(points_at_once, wide - first);
        for (int k = 0; k < run.count; ++k) {
          const auto q = view.to_image.forward(frame.at(u, p.offset(first + k - kernel_reach)));
          inside = inside && q && q->x > 0 && q->y > 0 && q->x < view.image.width() && q->y < view.image.height() &&
                   view.image.valid(static_cast<int>(q->x), static_cast<int>(q->y));
          if (!inside) break;
          run.x[static_cast<std::size_t>(k)] = q->x;
          run.y[static_cast<std::size_t>(k)] = q->y;
        }
        if (!inside) break;
        for (int band = 0; band < view.image.bands(); ++band) {
          sample_plain(view.image, band, Kernel::cubic, BorderMode::extend, run, values.data());
          for (int k = 0; k < run.count; ++k)
            profile[static_cast<std::size_t>(first + k)] += double(values[static_cast<std::size_t>(k)]);
        }
      }
    }
    p.along.push_back(leave_out + (1 - 2 * leave_out) * (i + 0.5) / p.places);
    if (!inside) continue;
    for (int k = 0; k < p.samples; ++k) {
      const double sum = std::inner_product(weights.begin(), weights.end(), profile.begin() + k, 0.0);
      p.slope[static_cast<std::size_t>(i * p.samples + k)] = static_cast<float>(sum / lines);
    }
  }
  return p;
}

/// A line through the profiles: its offsets at the two ends of the side.
struct Guess {
  double a = 0, b = 0, support = 0;
  double at(double u) const { return a + (b - a) * u; }
};

/// The line along which most slope gathers, rising or falling, that keeps off `other`. A place counts for no more than
/// what is usual, so that a few strong things across the side do not lead it astray.
Guess strongest(const Profiles& p, const Guess* other) {
  std::vector<float> peaks;
  for (int i = 0; i < p.places; ++i)
    peaks.push_back(std::abs(
        *std::max_element(p.row(i), p.row(i) + p.samples, [](float l, float r) { return std::abs(l) < std::abs(r); })));
  const float cap = median(std::move(peaks));
  Guess best;
  for (int a = 0; a < p.samples; ++a)
    for (int b = 0; b < p.samples; ++b) {
      const Guess guess{p.offset(a), p.offset(b), 0};
      // Lines that meet or cross, and lines that are the same, are not two edges side by side.
      if (other && (guess.a - other->a) * (guess.b - other->b) <= 0) continue;
      if (other && std::min(std::abs(guess.a - other->a), std::abs(guess.b - other->b)) < apart) continue;
      double sum = 0;
      for (int i = 0; i < p.places; ++i) {
        const double at = a + (b - a) * p.along[static_cast<std::size_t>(i)];
        sum += double(std::min(std::abs(p.row(i)[static_cast<int>(at + 0.5)]), cap));
      }
      if (sum > best.support) best = {guess.a, guess.b, sum};
    }
  return best;
}

/// Where the profiles are steepest near a line, and how far each is to be believed: as the square of its slope.
struct Track {
  std::vector<double> place, weight;
};
Track steepest(const Profiles& p, const Guess& line) {
  constexpr int near = 8;
  Track out;
  std::vector<double> slopes;
  for (int i = 0; i < p.places; ++i) {
    out.place.push_back(std::nan(""));
    out.weight.push_back(0);
    const double middle = (line.at(p.along[static_cast<std::size_t>(i)]) + p.reach) / pitch;
    const int first = std::max(1, static_cast<int>(middle) - near),
              last = std::min(p.samples - 2, static_cast<int>(middle) + near + 1);
    if (first >= last) continue;
    const float* row = p.row(i);
    const auto top = static_cast<int>(
        std::max_element(row + first, row + last + 1, [](float l, float r) { return std::abs(l) < std::abs(r); }) -
        row);
    if (top <= first || top >= last) continue;
    const double l = double(row[top - 1]), c = double(row[top]), r = double(row[top + 1]);
    out.place.back() = p.offset(top + (l - r) / (2 * (l - 2 * c + r)));
    out.weight.back() = c * c;
    slopes.push_back(c * c);
  }
  if (slopes.empty()) return out;
  // None counts for much more than what is usual.
  const double usual = median(std::move(slopes));
  for (double& weight : out.weight) weight = std::min(4.0, weight / usual);
  return out;
}

/// A polynomial through the places, with the covariance of its coefficients (a block sandwich).
struct Fit {
  Eigen::VectorXd value;
  Eigen::MatrixXd covariance;
  double scatter = 0;
  int used = 0;
};

std::optional<Fit> fitted(const std::vector<double>& along, const Track& track, int terms) {
  const std::vector<double>& place = track.place;
  std::vector<double> weight = track.weight;
  Fit fit;
  for (int round = 0; round < 12; ++round) {
    Eigen::MatrixXd normal = Eigen::MatrixXd::Zero(terms, terms);
    Eigen::VectorXd right = Eigen::VectorXd::Zero(terms);
    const auto powers = [&](double u) {
      Eigen::VectorXd v(terms);
      for (int n = 0; n < terms; ++n) v(n) = std::pow(u - 0.5, n);
      return v;
    };
    for (std::size_t i = 0; i < place.size(); ++i) {
      if (weight[i] == 0) continue;
      const Eigen::VectorXd v = powers(along[i]);
      normal += weight[i] * v * v.transpose();
      right += weight[i] * place[i] * v;
    }
    if (normal(0, 0) < 5) return std::nullopt;
    fit.value = *solve_symmetric(normal, right);
    std::vector<double> residual(place.size(), std::nan("")), size;
    for (std::size_t i = 0; i < place.size(); ++i)
      if (!std::isnan(place[i])) {
        residual[i] = place[i] - fit.value.dot(powers(along[i]));
        size.push_back(std::abs(residual[i]));
      }
    const double spread = std::max(0.01, 1.4826 * median(size));
    double square = 0, sum = 0;
    fit.used = 0;
    // Neighbouring places share what disturbs them: the covariance comes from the sums over blocks of them.
    constexpr std::size_t blocks = 20;
    Eigen::MatrixXd scores = Eigen::MatrixXd::Zero(terms, blocks);
    for (std::size_t i = 0; i < place.size(); ++i) {
      const double t = std::isnan(residual[i]) ? 1 : residual[i] / (4.7 * spread);
      weight[i] = std::abs(t) >= 1 ? 0 : track.weight[i] * (1 - t * t) * (1 - t * t);
      if (weight[i] == 0) continue;
      ++fit.used;
      square += weight[i] * residual[i] * residual[i];
      sum += weight[i];
      scores.col(static_cast<Eigen::Index>(i * blocks / place.size())) += weight[i] * residual[i] * powers(along[i]);
    }
    if (fit.used < 2 * terms) return std::nullopt;
    fit.scatter = std::sqrt(square / sum);
    const Eigen::MatrixXd inverse = symmetric_inverse(normal);
    fit.covariance = double(blocks) / (double(blocks) - terms) * inverse * scores * scores.transpose() * inverse;
  }
  return fit;
}

/// A straight line and a bent one, of one edge or of the middle of two.
struct Candidate {
  EdgeLine::Kind kind;
  Fit line, curve;
};

Fit middle_of(const Fit& a, const Fit& b) {
  return {0.5 * (a.value + b.value), 0.25 * (a.covariance + b.covariance),
          std::sqrt((a.scatter * a.scatter + b.scatter * b.scatter) / 2), std::min(a.used, b.used)};
}

std::vector<Candidate> candidates(const Profiles& p) {
  std::vector<Candidate> out;
  const Guess first = strongest(p, nullptr), second = strongest(p, &first);
  for (const Guess* guess : {&first, &second}) {
    if (!(guess->support > 0.4 * first.support)) continue;
    const Track track = steepest(p, *guess);
    const auto line = fitted(p.along, track, 2), curve = fitted(p.along, track, 3);
    // An edge is one where most places agree.
    if (line && curve && line->used > 0.4 * p.places) out.push_back({EdgeLine::Kind::step, *line, *curve});
  }
  if (out.size() == 2)
    out.push_back({EdgeLine::Kind::stripe, middle_of(out[0].line, out[1].line), middle_of(out[0].curve, out[1].curve)});
  // The nearest to what was given comes first.
  std::ranges::sort(out, {}, [](const Candidate& c) { return std::abs(c.line.value(0)); });
  return out;
}

}  // namespace

std::optional<EdgeLine> find_edge(const EdgeView& view, Point from, Point to, double reach) {
  const Frame frame = frame_of(from, to);
  const Profiles p = profiles_of(view, frame, std::max(reach, 4.0));
  const std::vector<Candidate> found = candidates(p);
  if (found.empty()) return std::nullopt;
  const auto& [kind, line, curve] = found.front();
  const auto at = [&](double u) { return line.value(0) + line.value(1) * (u - 0.5); };
  const auto sigma = [&](double u) {
    const Eigen::Vector2d v(1, u - 0.5);
    return std::sqrt(v.dot(line.covariance * v));
  };
  EdgeLine out;
  out.kind = kind;
  out.from = frame.at(0, at(0));
  out.to = frame.at(1, at(1));
  out.sigma_from = sigma(0);
  out.sigma_to = sigma(1);
  out.scatter = line.scatter;
  out.bow = -curve.value(2) / 4;
  out.bow_sigma = std::sqrt(curve.covariance(2, 2)) / 4;
  out.used = line.used;
  out.places = p.places;
  return out;
}

EdgeCorners corners_from_edges(const EdgeView& view, const Quad& near, double reach) {
  static const char* const names[] = {"top", "right", "bottom", "left"};
  EdgeCorners out;
  out.corners = near;
  for (int round = 0; round < 2; ++round) {  // once more across the sides as they were found
    for (std::size_t i = 0; i < 4; ++i) {
      const auto line = find_edge(view, out.corners[i], out.corners[(i + 1) % 4], reach);
      if (!line)
        throw input_error(
            fmt::format("No straight edge stands out along the {} side, within {:.0f} px of it.", names[i], reach),
            "/corners", "Place its two corners closer to the edge, or keep the corners as placed.");
      out.sides[i] = *line;
    }
    for (std::size_t i = 0; i < 4; ++i) {
      // The side before ends here, and this one begins.
      const EdgeLine &before = out.sides[(i + 3) % 4], &after = out.sides[i];
      const Frame f = frame_of(before.from, before.to), g = frame_of(after.from, after.to);
      Matrix2 normals;
      normals << f.normal.x, f.normal.y, g.normal.x, g.normal.y;
      const Matrix2 solve = normals.inverse();
      const Eigen::Vector2d p = solve * Eigen::Vector2d(f.normal.x * f.from.x + f.normal.y * f.from.y,
                                                        g.normal.x * g.from.x + g.normal.y * g.from.y);
      out.corners[i] = {p.x(), p.y()};
      const Eigen::Vector2d sigma(before.sigma_to, after.sigma_from);
      const Matrix2 spread = solve * sigma.asDiagonal();
      out.sigma[i] = std::sqrt(spread.squaredNorm() / 2);
    }
    if (const auto problem = check_quad(out.corners))
      throw input_error("The edges that were found do not enclose a rectangle.", "/corners",
                        "Place the corners closer to the edges, or keep them as placed.");
  }
  return out;
}

}  // namespace fexel
