#pragma once
/// Where the pixels of a tile stand in the source under a map that is not planar: exact places on a grid, cubics in
/// between, with a bound that is checked.
#include <algorithm>
#include <array>
#include <map>
#include <memory>
#include <optional>
#include <vector>

#include "geometry/map.h"

namespace fexel {

/// A pixel's centre in the source, and what it would change by over a stretch of the row if it went on like that.
struct GridPlace {
  double x = 0, y = 0, dx = 0, dy = 0;
};

/// The places of one row, every `MapGrid::stretch` pixels from pixel `first` on. A stretch is sound when the cubic
/// between its ends is off by less than 1/1024 px.
struct MapGridRow {
  int first = 0;
  std::vector<GridPlace> places;
  std::vector<char> sound;  ///< one for each stretch
  Point down;               ///< by how much the source moves from row to row, about
};

/// The grid starts with 64 rows between its lines; they are put closer while the error between them, taken threefold,
/// is not below 1/1024 px in more than a few cells. Cells where it is not, at five points of theirs, and cells where
/// the map is not defined, are not sound: their pixels are asked for one by one, and told by closer grids as far as
/// those are.
class MapGrid {
 public:
  static constexpr int stretch = 64;
  /// `inverse_map` carries the result to the source, whose coordinates are then multiplied by `scale`. Columns of the
  /// grid stand `apart` pixels from each other.
  MapGrid(const Map& inverse_map, double scale, Region tile, int apart = stretch);
  /// Fills in a row; what it held before is reused.
  void row(int y, MapGridRow& out) const;
  /// The row of the grid's cells that row y lies in.
  int row_of(int y) const { return std::min((y - tile_.y) / step_, rows_ - 2); }
  struct Hull {
    std::array<Point, 16> points;
    double off;  ///< how far outside places may be
  };
  /// Points around the places of all pixels of the cell that stretch `column` of row y lies in; nothing where the map
  /// is not defined or not told by its cell at all.
  std::optional<Hull> hull(int column, int y) const;
  /// The places of pixels [x, x + count) of row y, which `row` is; where that is not sound, what closer grids say, or
  /// the exact places. Pixels without one are put at the origin and noted.
  void fill(const MapGridRow& row, int y, int x, int count, double* xs, double* ys, std::vector<int>& nowhere);
  /// The exact place of a point of the result.
  std::optional<Point> exact(Point p) const;

 private:
  struct Node {
    bool defined = false;
    // The place, and its change over a stretch, over a row step, and over both.
    Point at, across, down, twist;
  };
  void lay(int step);
  int unsound();  // checks all cells, and counts those whose rows are too far apart
  const Node& node(int column, int row) const {
    return nodes_[static_cast<std::size_t>(row) * static_cast<std::size_t>(columns_) +
                  static_cast<std::size_t>(column)];
  }

  const Map& inverse_map_;
  double scale_;
  Region tile_;
  int apart_;
  int columns_ = 0, rows_ = 0, step_ = 0;
  std::vector<Node> nodes_;
  enum class CellAccuracy : char { not_at_all, roughly, well };
  std::vector<CellAccuracy> accuracy_;  // how well the map is told in each cell, row by row
  struct Closer {
    std::unique_ptr<MapGrid> grid;
    MapGridRow row;
    int y = -1;
  };
  Closer& closer_at(int column, int y);           // of row y
  std::map<std::pair<int, int>, Closer> closer_;  // by row and column of squares as wide as columns stand apart
};

/// The grids of one tile, so that each map is followed once whoever asks. For one thread.
class TileMapGrids {
 public:
  explicit TileMapGrids(Region tile) : tile_(tile) {}
  std::shared_ptr<MapGrid> of(const Map& inverse_map, double scale);

 private:
  struct Known {
    Map inverse_map;
    double scale;
    std::shared_ptr<MapGrid> grid;
  };
  Region tile_;
  std::vector<std::unique_ptr<Known>> known_;
};

/// A place between two of a row, at t between 0 and 1.
inline Point between(const GridPlace& a, const GridPlace& b, double t) {
  const double s = 1 - t;
  const double wa = s * s * (1 + 2 * t), wb = t * t * (3 - 2 * t), va = t * s * s, vb = -t * t * s;
  return {wa * a.x + wb * b.x + va * a.dx + vb * b.dx, wa * a.y + wb * b.y + va * a.dy + vb * b.dy};
}

}  // namespace fexel
