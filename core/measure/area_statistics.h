#pragma once
/// The samples inside a polygon, each pixel counted with the part of it that lies inside.
#include <optional>
#include <span>
#include <vector>

#include "geometry/point.h"
#include "image/image.h"

namespace fexel {

/// A sample of any depth.
double sample_of(const Image& image, int band, int x, int y);

struct AreaStatistics {
  double pixels = 0;  ///< the sum of the parts that were counted; empty pixels are not
  double mean = 0, median = 0;
  double deviation = 0;  ///< standard deviation of the samples
  double least = 0, most = 0;
  double sum = 0;  ///< of samples times their parts
};

/// The part of each pixel that lies inside a polygon, row by row of its bounding box: exact, by the area to the right
/// of each of its sides. Sides may run outside of the picture.
class PolygonCoverage {
 public:
  PolygonCoverage(std::span<const Point> polygon, int width, int height);
  int left() const { return left_; }
  int top() const { return top_; }
  int columns() const { return columns_; }
  int rows() const { return rows_; }
  double at(int column, int row) const {
    return part_[static_cast<std::size_t>(row) * static_cast<std::size_t>(columns_) + static_cast<std::size_t>(column)];
  }

 private:
  void add_side(Point a, Point b);
  int left_ = 0, top_ = 0, columns_ = 0, rows_ = 0;
  std::vector<double> part_;
};

/// Of the mean of all bands; nothing where no pixel with samples lies inside. Median, least and most are of pixels that
/// lie inside for at least half.
std::optional<AreaStatistics> statistics_inside(std::span<const Point> polygon, const Image& image);

}  // namespace fexel
