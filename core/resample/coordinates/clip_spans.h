#pragma once
/// Which pixels of a tile lie inside a clip.
#include <optional>
#include <span>
#include <vector>

#include "geometry/clip.h"
#include "resample/coordinates/map_grid.h"

namespace fexel {

/// For a convex clip each row is one span. Behind curves, stretches of rows that lie well inside or outside are told by
/// their grid, many rows at a time, and only the others pixel by pixel.
class ClipSpans {
 public:
  ClipSpans(const Clip& clip, Region tile, TileMapGrids& grids);
  /// With grids of its own.
  ClipSpans(const Clip& clip, Region tile);
  /// The columns of row y whose pixel centres are inside, in order; valid until the next row is asked for. Behind
  /// curves they are kept for whoever asks again.
  std::span<const Clip::Span> spans(int y);

 private:
  enum class Side { inside, outside, across };
  /// What the clip asks of one place elsewhere.
  struct Part {
    const std::vector<HalfPlane>* planes;
    std::shared_ptr<MapGrid> grid;
    int cells = -1;             // the row of cells whose sides these are
    std::vector<Side> sides{};  // of each stretch
    int y = -1;                 // the row that is followed
    MapGridRow row{};
  };
  void look_elsewhere(const Clip& clip, TileMapGrids& grids);
  static Side side_of(const std::vector<HalfPlane>& planes, std::span<const Point> hull, double off);
  void turn_to(Part& part, int y) const;
  Side side(int stretch) const;                                        // of all rows that share the cells
  Side side(int stretch, int y);                                       // of a row
  void look(int begin, int end, int y, std::vector<Clip::Span>& out);  // pixel by pixel, within a stretch
  void find(int y, std::vector<Clip::Span>& out);

  const Clip& clip_;
  Region tile_;
  std::shared_ptr<TileMapGrids> own_;  // which the grids refer to
  std::vector<Part> parts_;
  std::vector<int> nowhere_;
  std::vector<std::optional<std::vector<Clip::Span>>> known_;  // of the tile's rows, behind curves
  bool whole_;                                                 // the tile lies inside
  std::vector<Clip::Span> row_;                                // of a convex clip, that was last asked for
};

}  // namespace fexel
