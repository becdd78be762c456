#pragma once
/// Where the pixels of a tile stand in the source under a map that is not planar: exact places on a grid, cubics in
/// between, with a bound that is checked.
#include <optional>
#include <vector>

#include "geometry/map.h"

namespace fexel {

/// A pixel's centre in the source, and what it would change by over a stretch of the row if it went on like that.
struct CoursePlace {
  double x = 0, y = 0, dx = 0, dy = 0;
};

/// The places of one row, every `Course::stretch` pixels from pixel `first` on. A stretch is sound when the cubic
/// between its ends is off by less than 1/1024 px.
struct CourseRow {
  int first = 0;
  std::vector<CoursePlace> places;
  std::vector<char> sound;  ///< one for each stretch
  Point down;               ///< by how much the source moves from row to row, about
};

/// The grid starts with a stretch across and down; rows of it are put closer until the error in the middle of every
/// cell, taken twofold, is below 1/1024 px. Cells where that does not help, or where the map is not defined, are not
/// sound: their pixels are worked out one by one.
class Course {
 public:
  static constexpr int stretch = 64;
  /// `pull` carries the result to the source, whose coordinates are then multiplied by `scale`.
  Course(const Map& pull, double scale, Region tile);
  CourseRow row(int y) const;
  /// The exact place of a point of the result.
  std::optional<Point> exact(Point p) const;
  std::optional<Matrix2> slope(Point p) const;

 private:
  struct Node {
    bool defined = false;
    Point at, across, down;  // the place, and its change over a stretch and over a row step
  };
  void lay(int step);
  bool check();
  CoursePlace place(int column, int y) const;
  const Node& node(int column, int row) const {
    return nodes_[static_cast<std::size_t>(row) * static_cast<std::size_t>(columns_) +
                  static_cast<std::size_t>(column)];
  }

  const Map& pull_;
  double scale_;
  Region tile_;
  int columns_ = 0, rows_ = 0, step_ = 0;
  std::vector<Node> nodes_;
  std::vector<char> sound_;  // of each cell, row by row
};

}  // namespace fexel
