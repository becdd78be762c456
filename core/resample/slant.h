#pragma once
/// Interpolation of bytes where a map turns by more than a few degrees. The pixels of a result that stand along one row
/// of the source lie on digital straight lines: these are worked on, 32 pixels at a time, and put back into rows.
#include <array>
#include <vector>

#include "image/image.h"
#include "resample/kernel.h"
#include "resample/rows.h"

namespace fexel {

/// The lines of a cell, which has 32 lanes across: lane k of line l is the pixel of lane k and row l − steps[k].
struct SlantedLines {
  static constexpr int lanes = 32, most_rows = 128, most_lines = most_rows + lanes;
  /// Lanes that read the same 16 samples of a row of the source.
  static constexpr int group = 8, groups = lanes / group, reads = 16;
  /// Distances of lanes with even and with odd numbers from their group's first tap, in units of 2^-15 px.
  alignas(64) std::array<std::int32_t, lanes / 2> even{}, odd{};
  /// Distances of lanes below the line's first row: less than 1 + most_down rows with what `under` adds, in units of
  /// 2^-15 px, or 2^-14 where they may exceed two.
  alignas(64) std::array<std::uint16_t, lanes> below{};
  int most_down = 1;
  alignas(64) std::array<std::uint8_t, lanes> steps{};
  int rows = 0, lines = 0;  ///< lines = rows + the longest step
  /// Of a line: the first samples that its groups read, and where its taps begin behind them, in those units.
  struct Start {
    std::array<std::int32_t, groups> left, part;
    std::int32_t top, under;
  };
  alignas(64) std::array<Start, most_lines> starts{};
};

/// A tile of a result, interpolated in cells when they are first asked for.
class SlantedTile {
 public:
  /// Whether a map, of which this is the slope, is better done so than along its rows.
  static bool suits(const Image& source, Kernel kernel, const Matrix2& slope);
  /// Cells begin where `whole` does. `pull` is affine, and carries the result to the source.
  SlantedTile(const Image& source, Kernel kernel, Edge edge, const Matrix3& pull, Region whole);
  /// As interpolate_words(), for pixels of the tile.
  void write(int x, int y, int count, const RowTarget& target, std::vector<Stretch>& rest, std::int64_t& clamped);

 private:
  bool lay_lanes();
  bool lay_lines(Point first);
  bool fill(int column, int row);
  std::int64_t clamped_in(int band, int row, int begin, int end) const;

  const Image& source_;
  Kernel kernel_;
  Edge edge_;
  Matrix3 pull_;
  Region whole_;
  bool upright_ = true;  // lanes go along the result's rows
  Point lane_, row_;     // what the place in the source changes by
  Size cell_;            // in the result
  int across_ = 0;       // cells
  std::array<double, SlantedLines::groups> group_at_{};  // the leftmost of its lanes, from lane 0
  double highest_ = 0;                                   // of all lanes
  SlantedLines lines_;
  bool fits_;
  enum class State : char { unasked, done, left };
  std::vector<State> cells_;
  Image result_;
  std::vector<std::uint32_t> beyond_;  // samples of it that were clamped, one bit each
  bool any_beyond_ = false;
  std::vector<std::uint8_t> around_, slanted_;  // samples that a cell reads, and its lines
  std::vector<std::uint32_t> over_;             // of the lines: lanes that were clamped
};

}  // namespace fexel
