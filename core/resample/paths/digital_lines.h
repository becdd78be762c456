#pragma once
/// Interpolation of bytes where a map turns by more than a few degrees. The pixels of a result that stand along one row
/// of the source lie on digital lines: these are worked on, 32 pixels at a time, and put back into rows.
#include <array>
#include <vector>

#include "image/memory.h"
#include "resample/paths/row_float.h"
#include "resample/paths/tile.h"

namespace fexel {

/// The lines of a cell, which is 32 lanes wide: lane k of line l is the pixel of lane k and row l − steps[k].
struct DigitalLines {
  static constexpr int lanes = 32, max_rows = 128, max_steps = 48;
  static constexpr int max_lines = max_rows + max_steps;
  /// Lanes that read the same 16 samples of a row of the source.
  static constexpr int group = 8, groups = lanes / group, reads = 16;
  static constexpr int order = 3;

  alignas(64) std::array<std::uint8_t, lanes> steps{};
  int rows = max_rows, lines = 0;  ///< lines = rows + the longest step
  /// Where groups begin, as polynomials of the line's number: the first samples that they read, and then their first
  /// rows. What is beyond whole numbers adds to the distances below.
  alignas(64) std::array<std::array<double, 2 * groups>, order + 1> begins{};
  /// Distances of lanes with even and with odd numbers from their group's first tap, and from its first row, in units
  /// of 2^-15 px, or, of rows that may be more than two apart, 2^-14; polynomials of the line's number, too.
  struct Lanes {
    alignas(64) std::array<std::array<float, lanes / 2>, order + 1> even{}, odd{};
  };
  Lanes right, below;
  bool bent = false;  ///< whether the polynomials count: else lines are straight and alike
  int max_down = 1;   ///< lanes are less than so many rows, 1 or 2, and one more below the first
  /// Where the taps of a pixel of the cell begin, as its line says.
  Point place(int lane, int row) const;
};

/// A tile of a result, interpolated in cells when they are first asked for.
class DigitalLineSampler {
 public:
  DigitalLineSampler(const TilePlan& plan, BorderMode edge);
  /// As interpolate_int16(), for pixels of the tile.
  void write(int x, int y, int count, const RowTarget& target, std::vector<PixelSpan>& rest, std::int64_t& clamped);

 private:
  static constexpr int side = DigitalLines::max_rows;  // of squares that are filled at once
  static constexpr int max_read = 1024;                // pixels across and down that a cell may read
  enum class State : char { unasked, done, left };
  State& state_at(int x, int y) {
    return states_[static_cast<std::size_t>(y / DigitalLines::lanes * columns_ + x / DigitalLines::lanes)];
  }
  void fill_square(int x, int y, int size);
  bool lay_lines(int x, int y, bool upright, DigitalLines& lines) const;
  void fill(const DigitalLines& lines, int x, int y, bool upright);
  Region reads(const DigitalLines& lines) const;
  void note_beyond(const DigitalLines& lines, int band, int x, int y, bool upright);
  std::int64_t clamped_in(int band, int row, int begin, int end) const;

  const TilePlan plan_;
  const Image& source_;
  BorderMode edge_;
  int columns_ = 0;                                             // of squares of 32 x 32 pixels
  std::vector<State> states_;                                   // of the cells that those are in
  std::array<DigitalLines, side / DigitalLines::lanes> lines_;  // of a square's cells
  Image result_;
  std::vector<std::uint32_t> beyond_;  // samples of it that were clamped, one bit each
  bool any_beyond_ = false;
  std::vector<std::uint8_t> around_;  // samples that a cell reads
  Block digital_lines_;               // its lines
  std::vector<std::uint32_t> over_;   // of the lines: lanes that were clamped
};

}  // namespace fexel
