#include "resample/paths/digital_lines.h"

#include <bit>
#include <cmath>
#include <cstring>
#include <optional>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "resample/paths/digital_lines.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#ifndef FEXEL_RESAMPLE_SLANT_PARTS
#define FEXEL_RESAMPLE_SLANT_PARTS
namespace fexel {

/// The samples that lines are interpolated from.
struct LineSource {
  const std::uint8_t* origin;  // pixel (0, 0) of the first band
  std::ptrdiff_t stride, plane;
  int bands;
  double row_step, step;  // of lines, about
};

}  // namespace fexel
#endif

#include "resample/paths/border_copy.h"
#include "resample/paths/digital_lines-inl.h"

#if HWY_ONCE
namespace fexel {

HWY_EXPORT(LayDigitalLines);
HWY_EXPORT(RunLinesOfTile);
HWY_EXPORT(StraightenLines);
HWY_EXPORT(TurnLines);

namespace {

using Lines = DigitalLines;

int taps_of(Kernel kernel) {
  return kernel == Kernel::cubic ? 4 : kernel == Kernel::lanczos3 ? 6 : 2;
}

}  // namespace

Point DigitalLines::place(int lane, int row) const {
  const auto index = static_cast<std::size_t>(lane);
  const double line = row + steps[index];
  const auto begin = [&](std::size_t i) {
    return ((begins[3][i] * line + begins[2][i]) * line + begins[1][i]) * line + begins[0][i];
  };
  const auto on = [&](const Lanes& lanes) {
    const auto& of = lane % 2 == 0 ? lanes.even : lanes.odd;
    return ((of[3][index / 2] * line + of[2][index / 2]) * line + of[1][index / 2]) * line + of[0][index / 2];
  };
  return {begin(index / group) + on(right) * 0x1p-15,
          begin(groups + index / group) + on(below) * (max_down == 1 ? 0x1p-15 : 0x1p-14)};
}

DigitalLineSampler::DigitalLineSampler(const TilePlan& plan, BorderMode edge)
    : plan_(plan), source_(*plan.plain), edge_(edge) {
  const int across = (plan.whole.width + side - 1) / side, down = (plan.whole.height + side - 1) / side,
            bands = source_.bands();
  columns_ = across * side / Lines::lanes;
  states_.assign(static_cast<std::size_t>(columns_ * down * (side / Lines::lanes)), State::unasked);
  for (Lines& lines : lines_) lines.bent = !plan.affine();
  // Rows that do not begin at multiples of a large power of two stay apart in the caches.
  result_ = Image(across * side + 64, down * side, bands, Depth::u8, Image::Start::unset);
  beyond_.assign(static_cast<std::size_t>(bands * result_.height()) * static_cast<std::size_t>(result_.width() / 32),
                 0);
  // Lines are made rows by reading a little beyond the last.
  digital_lines_ = take_block(static_cast<std::size_t>((bands * Lines::max_lines + 2) * Lines::lanes));
  over_.assign(static_cast<std::size_t>(bands * Lines::max_lines), 0);
}

/// Lays the lines of the cell at (x, y) of the tile; false where they cannot be, or are off by more than a hair.
bool DigitalLineSampler::lay_lines(int x, int y, bool upright, Lines& lines) const {
  const auto place = [&](double lane, double row) {
    return plan_.place(
        {plan_.whole.x + x + 0.5 + (upright ? lane : row), plan_.whole.y + y + 0.5 + (upright ? row : lane)});
  };
  constexpr double farthest = 1e8;
  std::array<double, 16> xs, ys;
  for (std::size_t i = 0; i < 16; ++i) {
    const auto at =
        place(static_cast<double>(i % 4) * (Lines::lanes - 1) / 3, static_cast<double>(i / 4) * (lines.rows - 1) / 3);
    if (!at || !(std::abs(at->x) < farthest && std::abs(at->y) < farthest)) return false;
    xs[i] = at->x - 0.5, ys[i] = at->y - 0.5;
  }
  const int taps = taps_of(plan_.plain_kernel), middle = taps / 2 - 1;
  if (!HWY_DYNAMIC_DISPATCH(LayDigitalLines)(xs, ys, taps, lines)) return false;
  // Rows that are far apart in the source share nothing.
  if (const Region box = reads(lines); box.width > max_read || box.height > max_read) return false;
  if (!lines.bent) return true;
  constexpr double tolerance_px = 0x1p-13;
  for (const auto& [lane, row] : {std::pair{5, lines.rows / 6}, {26, lines.rows * 5 / 6}, {16, lines.rows / 2}}) {
    const auto at = place(lane, row);
    const Point there = lines.place(lane, row);
    if (!at || !(std::abs(there.x + middle + 0.5 - at->x) < tolerance_px &&
                 std::abs(there.y + middle + 0.5 - at->y) < tolerance_px))
      return false;
  }
  return true;
}

/// What lines read, lanes beside the cell and all.
Region DigitalLineSampler::reads(const Lines& lines) const {
  std::array<double, 2 * Lines::groups> low, high;
  const double last = lines.lines - 1;
  for (std::size_t i = 0; i < low.size(); ++i) {
    const auto of = [&](std::size_t power) { return lines.begins[power][i]; };
    low[i] = 1e9, high[i] = -1e9;
    constexpr int parts = 4;
    for (int k = 0; k <= parts; ++k) {
      const double l = k * last / parts, at = ((of(3) * l + of(2)) * l + of(1)) * l + of(0);
      low[i] = std::min(low[i], at), high[i] = std::max(high[i], at);
    }
    // How far a curve may go from its chords.
    const double step = last / parts;
    const double bend = step * step / 8 * std::max(std::abs(2 * of(2)), std::abs(2 * of(2) + 6 * of(3) * last));
    low[i] -= bend + 1e-6, high[i] += bend + 1e-6;
  }
  const auto least = [&](std::size_t from) {
    return static_cast<int>(std::floor(*std::min_element(low.begin() + from, low.begin() + from + Lines::groups)));
  };
  const auto most = [&](std::size_t from) {
    return static_cast<int>(std::floor(*std::max_element(high.begin() + from, high.begin() + from + Lines::groups)));
  };
  const int x = least(0), y = least(Lines::groups);
  return {x, y, most(0) + Lines::reads - x, most(Lines::groups) + taps_of(plan_.plain_kernel) + lines.max_down - y};
}

/// Interpolates the cell at (x, y) of the tile.
void DigitalLineSampler::fill(const Lines& lines, int x, int y, bool upright) {
  const Region box = reads(lines);
  const int bands = source_.bands();
  LineSource from{source_.row<std::uint8_t>(0, 0),
                  source_.stride<std::uint8_t>(),
                  source_.stride<std::uint8_t>() * source_.height(),
                  bands,
                  0,
                  0};
  if (!holds(source_, box)) {
    from.stride = box.width, from.plane = from.stride * box.height;
    around_.resize(static_cast<std::size_t>(from.plane * bands));
    copy_with_border(source_, box, edge_, around_.data(), from.stride, from.plane);
    from.origin = around_.data() - box.y * from.stride - box.x;
  }
  const auto step = [&](std::size_t i) { return lines.begins[1][i] + lines.lines * lines.begins[2][i]; };
  from.row_step = step(Lines::groups), from.step = step(0);
  std::uint8_t* const slanted = reinterpret_cast<std::uint8_t*>(digital_lines_.get());
  const bool any_beyond = HWY_DYNAMIC_DISPATCH(RunLinesOfTile)(plan_.plain_kernel, lines, from, slanted, over_.data());
  for (int band = 0; band < bands; ++band) {
    std::uint8_t* in = slanted + static_cast<std::ptrdiff_t>(band) * Lines::max_lines * Lines::lanes;
    std::uint8_t* out = result_.row<std::uint8_t>(band, y) + x;
    const std::ptrdiff_t stride = result_.stride<std::uint8_t>();
    if (upright) {
      HWY_DYNAMIC_DISPATCH(StraightenLines)(lines, in, out, stride);
    } else {
      alignas(64) std::array<std::uint8_t, static_cast<std::size_t>(Lines::max_rows * Lines::lanes)> turned;
      HWY_DYNAMIC_DISPATCH(StraightenLines)(lines, in, turned.data(), Lines::lanes);
      HWY_DYNAMIC_DISPATCH(TurnLines)(turned.data(), lines.rows, out, stride);
    }
    if (any_beyond) note_beyond(lines, band, x, y, upright);
  }
}

/// Notes which pixels of a cell were clamped.
void DigitalLineSampler::note_beyond(const Lines& lines, int band, int x, int y, bool upright) {
  for (int l = 0; l < lines.lines; ++l) {
    std::uint32_t& over = over_[static_cast<std::size_t>(band * Lines::max_lines + l)];
    for (; over != 0; over &= over - 1) {
      const int lane = std::countr_zero(over), r = l - lines.steps[static_cast<std::size_t>(lane)];
      if (r < 0 || r >= lines.rows) continue;
      const int at_x = x + (upright ? lane : r), at_y = y + (upright ? r : lane);
      any_beyond_ = true;
      beyond_[static_cast<std::size_t>((band * result_.height() + at_y) * (result_.width() / 32) + at_x / 32)] |=
          1U << (at_x % 32);
    }
  }
}

/// Samples of [begin, end) that were clamped.
std::int64_t DigitalLineSampler::clamped_in(int band, int row, int begin, int end) const {
  const std::uint32_t* bits = beyond_.data() + (band * result_.height() + row) * (result_.width() / 32);
  std::int64_t count = 0;
  for (int word = begin / 32; word * 32 < end; ++word) {
    std::uint32_t some = bits[word];
    if (some == 0) continue;
    if (word * 32 < begin) some &= ~0U << (begin % 32);
    if (word * 32 + 32 > end) some &= ~0U >> (32 - end % 32);
    count += std::popcount(some);
  }
  return count;
}

/// Interpolates a square of the tile, in cells as long as its sides, or its quarters where these have to be shorter.
void DigitalLineSampler::fill_square(int x, int y, int size) {
  constexpr int part = Lines::lanes;
  // Lanes go along the result's rows where it turns less that way.
  const auto slope = plan_.slope({plan_.whole.x + x + 0.5 * size, plan_.whole.y + y + 0.5 * size});
  const bool upright = slope && std::abs((*slope)(1, 0)) <= std::abs((*slope)(1, 1));
  const auto at_x = [&](int cell) { return upright ? x + cell * part : x; };
  const auto at_y = [&](int cell) { return upright ? y : y + cell * part; };
  const int cells = size / part;
  int laid = 0;
  while (slope && laid < cells) {
    Lines& lines = lines_[static_cast<std::size_t>(laid)];
    lines.rows = size;
    if (!lay_lines(at_x(laid), at_y(laid), upright, lines)) break;
    ++laid;
  }
  if (laid < cells && size > part) {
    for (const int i : {0, 1, 2, 3}) fill_square(x + i % 2 * size / 2, y + i / 2 * size / 2, size / 2);
    return;
  }
  for (int cell = 0; cell < laid; ++cell) fill(lines_[static_cast<std::size_t>(cell)], at_x(cell), at_y(cell), upright);
  for (int row = y; row < y + size; row += part)
    std::fill_n(&state_at(x, row), cells, laid == cells ? State::done : State::left);
}

void DigitalLineSampler::write(int x, int y, int count, const RowTarget& target, std::vector<PixelSpan>& rest,
                               std::int64_t& clamped) {
  const int row = y - plan_.whole.y;
  for (int begin = x - plan_.whole.x, end = begin + count; begin < end;) {
    int to = begin;
    std::optional<State> here;
    for (; to < end; to = to / Lines::lanes * Lines::lanes + Lines::lanes) {
      const State& state = state_at(to, row);
      if (state == State::unasked) fill_square(to / side * side, row / side * side, side);
      if (here && *here != state) break;
      here = state;
    }
    to = std::min(to, end);
    if (here == State::left)
      rest.push_back({begin + plan_.whole.x, to - begin});
    else
      for (int band = 0; band < source_.bands(); ++band) {
        std::memcpy(target.first + band * target.plane + (begin + plan_.whole.x - x), result_.bytes(band, row) + begin,
                    static_cast<std::size_t>(to - begin));
        if (any_beyond_) clamped += clamped_in(band, row, begin, to);
      }
    begin = to;
  }
}

}  // namespace fexel
#endif
