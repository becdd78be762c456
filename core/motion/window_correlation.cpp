#include "motion/window_correlation.h"

#include <Eigen/Core>
#include <algorithm>
#include <cmath>
#include <limits>

namespace fexel {
namespace {

constexpr double least_share = 0.5;  // of a window's pixels
constexpr float nearly_nothing = 0.01F;
constexpr int beside = 2;   // px about a peak that are the peak's own
constexpr int related = 2;  // px over which differences times slopes are alike

using Row = Eigen::Map<const Eigen::ArrayXf>;

/// Whether a rectangle lies in the picture, and all of it counts.
bool all_count(const Image& image, int x, int y, int width, int height) {
  if (x < 0 || y < 0 || x + width > image.width() || y + height > image.height()) return false;
  if (!image.has_mask()) return true;
  for (int j = 0; j < height; ++j)
    for (int i = 0; i < width; ++i)
      if (!image.valid(x + i, y + j)) return false;
  return true;
}

}  // namespace

WindowCorrelator::WindowCorrelator(int size, const FftPlans& plans) : size_(size), plans_(plans) {
  const int half = size / 2;
  for (int dy = -half; dy < size - half; ++dy)
    for (int dx = -half; dx < size - half; ++dx)
      by_overlap_.push_back(1.0F / static_cast<float>(size * size) /
                            static_cast<float>((size - std::abs(dx)) * (size - std::abs(dy))));
}

void WindowCorrelator::take(const Image& from, int x, int y, Taken& out) const {
  const auto all = static_cast<std::size_t>(size_) * static_cast<std::size_t>(size_);
  const bool whole = all_count(from, x, y, size_, size_);
  out.values.resize(all);
  out.mask.clear();
  out.count = 0;
  double sum = 0;
  float* to = out.values.data();
  if (whole) {
    for (int j = 0; j < size_; ++j, to += size_) {
      const float* row = from.row<float>(0, y + j) + x;
      std::copy_n(row, size_, to);
      sum += static_cast<double>(Row(row, size_).sum());
    }
    out.count = size_ * size_;
  } else {
    out.mask.assign(all, 0);
    float* use = out.mask.data();
    for (int j = 0; j < size_; ++j)
      for (int i = 0; i < size_; ++i, ++to, ++use) {
        const int px = x + i, py = y + j;
        *to = 0;
        if (px < 0 || py < 0 || px >= from.width() || py >= from.height() || !from.valid(px, py)) continue;
        *to = from.row<float>(0, py)[px];
        *use = 1;
        sum += static_cast<double>(*to);
        ++out.count;
      }
    if (out.count == size_ * size_) out.mask.clear();
  }
  out.variance = 0;
  if (out.count == 0) return;
  Eigen::Map<Eigen::ArrayXf> values(out.values.data(), static_cast<Eigen::Index>(all));
  values -= static_cast<float>(sum / out.count);
  if (!out.mask.empty()) values *= Row(out.mask.data(), static_cast<Eigen::Index>(all));
  out.variance = static_cast<double>(values.square().sum()) / out.count;
}

const std::vector<std::complex<float>>& WindowCorrelator::covariances(int side, const std::vector<float>& a,
                                                                      const std::vector<float>& b) {
  const auto n = static_cast<std::size_t>(side) * static_cast<std::size_t>(side);
  pair_.assign(n, {});
  spectrum_.resize(n);
  // Both at once, as the two parts of one plane.
  for (int y = 0; y < size_; ++y)
    for (int x = 0; x < size_; ++x) {
      const auto from = static_cast<std::size_t>(y * size_ + x);
      pair_[static_cast<std::size_t>(y * side + x)] = {a[from], b[from]};
    }
  plans_.forward({side, side}, pair_.data(), spectrum_.data());
  for (int y = 0; y < side; ++y) {
    const std::complex<float>* row = &spectrum_[static_cast<std::size_t>(y * side)];
    const std::complex<float>* other = &spectrum_[static_cast<std::size_t>((side - y) % side * side)];
    std::complex<float>* to = &pair_[static_cast<std::size_t>(y * side)];
    for (int x = 0; x < side; ++x) {
      // Z = A + i B; with W that of minus the frequency, A = (Z + W*) / 2 and B = (Z - W*) / 2i.
      const std::complex<float> z = row[x], w = other[x == 0 ? 0 : side - x];
      const float ar = 0.5F * (z.real() + w.real()), ai = 0.5F * (z.imag() - w.imag());
      const float br = 0.5F * (z.imag() + w.imag()), bi = 0.5F * (w.real() - z.real());
      to[x] = {ar * br + ai * bi, ar * bi - ai * br};
    }
  }
  plans_.backward({side, side}, pair_.data(), spectrum_.data());
  return spectrum_;
}

bool WindowCorrelator::correlate(const Image& a, int ax, int ay, const Image& b, int bx, int by, WindowPlane& out) {
  take(a, ax, ay, a_);
  take(b, bx, by, b_);
  const int all = size_ * size_, half = size_ / 2;
  out.share = static_cast<double>(std::min(a_.count, b_.count)) / all;
  out.norm = std::sqrt(a_.variance * b_.variance);
  if (out.share < least_share || !(out.norm > 1e-9)) return false;
  out.over_noise = 1e9;
  out.values.resize(static_cast<std::size_t>(all));
  // Shifts below zero are wrapped to the end of the plane.
  const auto put = [&](int side, const std::vector<std::complex<float>>& from, const auto& weight) {
    for (int y = 0; y < size_; ++y) {
      const std::complex<float>* row = &from[static_cast<std::size_t>((y - half + side) % side * side)];
      float* to = &out.values[static_cast<std::size_t>(y * size_)];
      const auto first = static_cast<std::size_t>(y * size_);
      for (int x = 0; x < half; ++x) to[x] = row[side - half + x].real() * weight(first, x, side - half + x, y);
      for (int x = half; x < size_; ++x) to[x] = row[x - half].real() * weight(first, x, x - half, y);
    }
  };
  if (a_.mask.empty() && b_.mask.empty()) {
    const float* weights = by_overlap_.data();
    put(size_, covariances(size_, a_.values, b_.values),
        [weights](std::size_t first, int x, int, int) { return weights[first + static_cast<std::size_t>(x)]; });
    return true;
  }
  const int side = 2 * size_;
  const std::vector<float> whole(static_cast<std::size_t>(all), 1.0F);
  const auto overlap = covariances(side, a_.mask.empty() ? whole : a_.mask, b_.mask.empty() ? whole : b_.mask);
  const float least = 0.1F * static_cast<float>(all) * static_cast<float>(side * side);
  put(side, covariances(side, a_.values, b_.values), [&](std::size_t, int, int from, int y) {
    return 1 / std::max(overlap[static_cast<std::size_t>((y - half + side) % side * side + from)].real(), least);
  });
  return true;
}

WindowPlane mean_of_products(const std::vector<WindowPlane>& planes) {
  WindowPlane out = planes.front();
  const auto n = static_cast<double>(planes.size());
  out.norm = 0;
  for (const WindowPlane& p : planes) out.norm += p.norm / n;
  for (std::size_t i = 0; i < out.values.size(); ++i) {
    double sum = 0;
    for (const WindowPlane& p : planes)
      sum += std::log(std::max(nearly_nothing, p.values[i] / static_cast<float>(p.norm)));
    out.values[i] = static_cast<float>(out.norm * std::exp(sum / n));
  }
  return out;
}

WindowPeak highest_peak(const WindowPlane& plane, int size, int reach) {
  WindowPeak out;
  const int half = size / 2, low = half - reach, high = half + reach;
  const auto value = [&](int x, int y) {
    return static_cast<double>(plane.values[static_cast<std::size_t>(y * size + x)]);
  };
  int px = half, py = half;
  double best = -std::numeric_limits<double>::infinity();
  for (int y = low; y <= high; ++y)
    for (int x = low; x <= high; ++x)
      if (value(x, y) > best) {
        best = value(x, y);
        px = x;
        py = y;
      }
  if (!(best > 0) || !(plane.norm > 0)) return out;
  out.height = best / plane.norm;
  double next = 0, squares = 0, count = 0;
  for (int y = low; y <= high; ++y)
    for (int x = low; x <= high; ++x) {
      if (std::abs(x - px) <= beside && std::abs(y - py) <= beside) continue;
      const double v = value(x, y);
      squares += v * v;
      ++count;
      // A slope of the highest peak is no peak of its own.
      if (v <= next || x == low || y == low || x == high || y == high) continue;
      if (v >= value(x - 1, y) && v >= value(x + 1, y) && v >= value(x, y - 1) && v >= value(x, y + 1)) next = v;
    }
  out.ratio = next > best / 100 ? best / next : 100;
  out.over_noise = count > 0 && squares > 0 ? best / std::sqrt(squares / count) : 100;
  out.shift = {static_cast<double>(px - half), static_cast<double>(py - half)};
  if (px == low || px == high || py == low || py == high) return out;
  out.found = true;
  double log_of[3][3];
  bool positive = true;
  for (int j = -1; j <= 1; ++j)
    for (int i = -1; i <= 1; ++i) {
      const double v = value(px + i, py + j);
      positive = positive && v > 0.02 * best;
      log_of[j + 1][i + 1] = positive ? std::log(v) : 0;
    }
  Point part;
  bool fitted = false;
  if (positive) {
    // z = c0 + cx x + cy y + cxx x² + cxy x y + cyy y², by least squares over the nine.
    double cx = 0, cy = 0, cxx = 0, cyy = 0, cxy = 0;
    for (int j = -1; j <= 1; ++j)
      for (int i = -1; i <= 1; ++i) {
        const double z = log_of[j + 1][i + 1];
        cx += i * z / 6;
        cy += j * z / 6;
        cxy += i * j * z / 4;
        cxx += (3.0 * i * i - 2) * z / 6;
        cyy += (3.0 * j * j - 2) * z / 6;
      }
    const double det = 4 * cxx * cyy - cxy * cxy;
    if (cxx < 0 && cyy < 0 && det > 0) {
      part = {(cxy * cy - 2 * cyy * cx) / det, (cxy * cx - 2 * cxx * cy) / det};
      fitted = std::abs(part.x) <= 1 && std::abs(part.y) <= 1;
    }
  }
  if (!fitted) {
    const auto vertex = [](double a, double b, double c) {
      const double bend = a - 2 * b + c;
      return bend < 0 ? std::clamp(0.5 * (a - c) / bend, -0.5, 0.5) : 0.0;
    };
    part = {vertex(value(px - 1, py), best, value(px + 1, py)), vertex(value(px, py - 1), best, value(px, py + 1))};
  }
  out.shift = out.shift + part;
  return out;
}

void WindowFit::add(const WindowFit& other) {
  xx += other.xx;
  xy += other.xy;
  yy += other.yy;
  x += other.x;
  y += other.y;
  var_x += other.var_x;
  var_y += other.var_y;
  difference += other.difference;
  count += other.count;
}

std::optional<Point> WindowFit::shift() const {
  const double det = xx * yy - xy * xy;
  if (!(det > 1e-6 * xx * yy) || !(xx * yy > 0)) return std::nullopt;
  return Point{(yy * x - xy * y) / det, (xx * y - xy * x) / det};
}

Point WindowFit::sigma() const {
  const double det = xx * yy - xy * xy, lost = std::numeric_limits<double>::infinity();
  if (!(det > 1e-6 * xx * yy) || !(xx * yy > 0)) return {lost, lost};
  // Along x and y through the normal equations; the two sums' errors are taken as apart.
  return {std::sqrt(yy * yy * var_x + xy * xy * var_y) / det, std::sqrt(xx * xx * var_y + xy * xy * var_x) / det};
}

WindowFitter::WindowFitter(int size) : size_(size) {}

WindowFit WindowFitter::fit(const Image& a, int ax, int ay, const Image& b, int bx, int by,
                            std::optional<Point> known) {
  WindowFit out;
  constexpr int rim = 2;  // px that slopes reach
  // What is in both pictures, slopes and all.
  const int left = std::max({0, rim - ax, rim - bx}), top = std::max({0, rim - ay, rim - by});
  const int right = std::min({size_, a.width() - rim - ax, b.width() - rim - bx});
  const int bottom = std::min({size_, a.height() - rim - ay, b.height() - rim - by});
  const int width = right - left, height = bottom - top;
  if (width < 4 || height < 4) return out;
  const bool masked = !all_count(a, ax + left - rim, ay + top - rim, width + 2 * rim, height + 2 * rim) ||
                      !all_count(b, bx + left - rim, by + top - rim, width + 2 * rim, height + 2 * rim);
  const auto n = static_cast<std::size_t>(width) * static_cast<std::size_t>(height);
  for (std::vector<float>* v : {&across_, &down_, &difference_, &product_, &sums_}) v->resize(n);
  // Means and gain, so that light that changed is no difference.
  double sum_a = 0, sum_b = 0, aa = 0, bb = 0, count = 0;
  counts_.assign(n, 1);
  std::size_t at = 0;
  for (int y = top; y < bottom; ++y) {
    const float *ra = a.row<float>(0, ay + y) + ax + left, *rb = b.row<float>(0, by + y) + bx + left;
    if (!masked) {
      const Row va(ra, width), vb(rb, width);
      sum_a += static_cast<double>(va.sum());
      sum_b += static_cast<double>(vb.sum());
      aa += static_cast<double>(va.square().sum());
      bb += static_cast<double>(vb.square().sum());
      count += width;
      continue;
    }
    for (int x = 0; x < width; ++x, ++at) {
      const auto there = [&](const Image& image, int px, int py) {
        for (int k = -rim; k <= rim; ++k)
          if (!image.valid(px + k, py) || !image.valid(px, py + k)) return false;
        return true;
      };
      counts_[at] = there(a, ax + left + x, ay + y) && there(b, bx + left + x, by + y) ? 1 : 0;
      if (counts_[at] == 0) continue;
      const auto va = static_cast<double>(ra[x]), vb = static_cast<double>(rb[x]);
      sum_a += va;
      sum_b += vb;
      aa += va * va;
      bb += vb * vb;
      ++count;
    }
  }
  if (count < 16) return out;
  const double mean_a = sum_a / count, mean_b = sum_b / count;
  const double var_a = aa / count - mean_a * mean_a, var_b = bb / count - mean_b * mean_b;
  if (!(var_a > 0) || !(var_b > 0)) return out;
  const auto gain = static_cast<float>(std::clamp(std::sqrt(var_a / var_b), 0.2, 5.0));
  const float offset = static_cast<float>(mean_a) - gain * static_cast<float>(mean_b);
  at = 0;
  const auto sa = a.stride<float>(), sb = b.stride<float>();
  for (int y = top; y < bottom; ++y) {
    const float *ra = a.row<float>(0, ay + y) + ax + left, *rb = b.row<float>(0, by + y) + bx + left;
    for (int x = 0; x < width; ++x, ++at) {
      // To the fourth order, of both frames' mean.
      const auto slope = [](const float* v, std::ptrdiff_t step) {
        return (8 * (v[step] - v[-step]) - (v[2 * step] - v[-2 * step])) * (1.0F / 12);
      };
      across_[at] = 0.5F * (slope(ra + x, 1) + gain * slope(rb + x, 1));
      down_[at] = 0.5F * (slope(ra + x, sa) + gain * slope(rb + x, sb));
      difference_[at] = ra[x] - gain * rb[x] - offset;
    }
  }
  Eigen::Map<Eigen::ArrayXf> across(across_.data(), static_cast<Eigen::Index>(n)),
      down(down_.data(), static_cast<Eigen::Index>(n)), difference(difference_.data(), static_cast<Eigen::Index>(n)),
      product(product_.data(), static_cast<Eigen::Index>(n));
  if (masked)
    for (std::size_t i = 0; i < n; ++i)
      if (counts_[i] == 0) across_[i] = down_[i] = difference_[i] = 0;
  out.xx = static_cast<double>(across.square().sum());
  out.xy = static_cast<double>((across * down).sum());
  out.yy = static_cast<double>(down.square().sum());
  out.x = static_cast<double>((across * difference).sum());
  out.y = static_cast<double>((down * difference).sum());
  out.count = count;
  const auto off = known ? known : out.shift();
  if (off) difference -= across * static_cast<float>(off->x) + down * static_cast<float>(off->y);
  out.difference = static_cast<double>(difference.square().sum());
  // The variance of a sum of numbers that are alike nearby: of each with the sum of those around it.
  for (int axis = 0; axis < 2; ++axis) {
    product = (axis == 0 ? across : down) * difference;
    const auto own = static_cast<double>(product.square().sum());
    Eigen::Map<Eigen::Array<float, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>> p(product_.data(), height, width),
        s(sums_.data(), height, width);
    s = p;
    for (int d = 1; d <= related; ++d) {
      s.rightCols(width - d) += p.leftCols(width - d);
      s.leftCols(width - d) += p.rightCols(width - d);
    }
    double sum = static_cast<double>((s * p).sum());
    for (int d = 1; d <= related; ++d)
      sum += 2 * static_cast<double>((s.topRows(height - d) * p.bottomRows(height - d)).sum());
    (axis == 0 ? out.var_x : out.var_y) = std::max(sum, 0.5 * own);
  }
  return out;
}

}  // namespace fexel
