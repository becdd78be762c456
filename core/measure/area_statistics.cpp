#include "measure/area_statistics.h"

#include <algorithm>
#include <cmath>

#include "base/statistics.h"
#include "geometry/polygon.h"

namespace fexel {

double sample_of(const Image& image, int band, int x, int y) {
  switch (image.depth()) {
    case Depth::u8:
      return image.row<std::uint8_t>(band, y)[x];
    case Depth::u16:
      return image.row<std::uint16_t>(band, y)[x];
    case Depth::f32:
      return double(image.row<float>(band, y)[x]);
  }
  return 0;
}

PolygonCoverage::PolygonCoverage(std::span<const Point> polygon, int width, int height) {
  double low_x = 1e300, low_y = 1e300, high_x = -1e300, high_y = -1e300;
  for (const Point p : polygon) {
    low_x = std::min(low_x, p.x);
    low_y = std::min(low_y, p.y);
    high_x = std::max(high_x, p.x);
    high_y = std::max(high_y, p.y);
  }
  if (polygon.size() < 3) return;
  const auto within = [](double v, int size) { return static_cast<int>(std::clamp(v, 0.0, double(size))); };
  left_ = within(std::floor(low_x), width);
  top_ = within(std::floor(low_y), height);
  columns_ = within(std::ceil(high_x), width) - left_;
  rows_ = within(std::ceil(high_y), height) - top_;
  if (columns_ <= 0 || rows_ <= 0) {
    columns_ = rows_ = 0;
    return;
  }
  part_.assign(static_cast<std::size_t>(columns_) * static_cast<std::size_t>(rows_), 0);
  const double sign = signed_area(polygon) < 0 ? -1 : 1;
  for (std::size_t i = 0; i < polygon.size(); ++i) {
    const Point a = polygon[i], b = polygon[(i + 1) % polygon.size()];
    if (sign > 0)
      add_side(a, b);
    else
      add_side(b, a);
  }
}

/// Adds to every pixel the area of it that lies to the right of a side, with the sign of the side's way down or up.
void PolygonCoverage::add_side(Point a, Point b) {
  if (a.y == b.y) return;
  const double sign = a.y < b.y ? -1 : 1;  // clockwise on the screen, the inside is to the right of a side that goes up
  if (a.y > b.y) std::swap(a, b);
  const double slope = (b.x - a.x) / (b.y - a.y);
  const int first = std::max(top_, static_cast<int>(std::floor(std::max(a.y, double(top_)))));
  for (int y = first; y < top_ + rows_ && y < b.y; ++y) {
    const double from = std::max(a.y, double(y)), to = std::min(b.y, y + 1.0);
    if (from >= to) continue;
    double* row = &part_[static_cast<std::size_t>(y - top_) * static_cast<std::size_t>(columns_)];
    const double x0 = a.x + (from - a.y) * slope, x1 = a.x + (to - a.y) * slope;
    const double low = std::min(x0, x1), high = std::max(x0, x1), height = to - from;
    // The mean over the row's part of the share of [0, t] to the right of the side, as an integral over t.
    const auto covered = [&](double t) {  // of the half line x < t: the area to the right of the side, per height
      if (t <= low) return 0.0;
      if (t >= high) return t - (low + high) / 2;
      return (t - low) * (t - low) / (2 * (high - low));
    };
    const int begin = std::clamp(static_cast<int>(std::floor(low)) - left_, 0, columns_);
    double before = covered(left_ + begin);
    for (int x = begin; x < columns_; ++x) {
      const double after = covered(left_ + x + 1.0);
      row[x] += sign * height * (after - before);
      before = after;
    }
  }
}

std::optional<AreaStatistics> statistics_inside(std::span<const Point> polygon, const Image& image) {
  const PolygonCoverage cover(polygon, image.width(), image.height());
  AreaStatistics out;
  double squares = 0;
  std::vector<double> whole;
  out.least = 1e300;
  out.most = -1e300;
  std::vector<double> values(static_cast<std::size_t>(std::max(1, cover.columns())));
  for (int pass = 0; pass < 2; ++pass)
    for (int y = 0; y < cover.rows(); ++y)
      for (int x = 0; x < cover.columns(); ++x) {
        const double part = cover.at(x, y);
        const int px = cover.left() + x, py = cover.top() + y;
        if (part <= 1e-9 || !image.valid(px, py)) continue;
        double value = 0;
        for (int band = 0; band < image.bands(); ++band) value += sample_of(image, band, px, py) / image.bands();
        if (!std::isfinite(value)) continue;
        if (pass == 1) {
          squares += part * (value - out.mean) * (value - out.mean);
          continue;
        }
        out.pixels += part;
        out.sum += part * value;
        if (part >= 0.5) whole.push_back(value);
        out.mean = out.sum / out.pixels;
      }
  if (!(out.pixels > 0)) return std::nullopt;
  out.deviation = out.pixels > 1 ? std::sqrt(squares / (out.pixels - 1)) : 0;
  if (whole.empty()) whole.push_back(out.mean);
  out.least = *std::ranges::min_element(whole);
  out.most = *std::ranges::max_element(whole);
  out.median = median(std::move(whole));
  return out;
}

}  // namespace fexel
