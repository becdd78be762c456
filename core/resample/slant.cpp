#include "resample/slant.h"

#include <bit>
#include <cmath>
#include <cstring>
#include <optional>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "resample/slant.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#ifndef FEXEL_RESAMPLE_SLANT_PARTS
#define FEXEL_RESAMPLE_SLANT_PARTS
namespace fexel {

/// The samples that lines are interpolated from.
struct SlantedSource {
  const std::uint8_t* origin;  // pixel (0, 0) of the first band
  std::ptrdiff_t stride, plane;
  int bands;
  std::ptrdiff_t ahead;  // to what a dozen lines later reads
};

}  // namespace fexel
#endif

#include "resample/slant-inl.h"

#if HWY_ONCE
namespace fexel {

HWY_EXPORT(RunSlantedLines);
HWY_EXPORT(StraightenLines);
HWY_EXPORT(TurnLines);

namespace {

using Lines = SlantedLines;

int taps_of(Kernel kernel) { return kernel == Kernel::cubic ? 4 : kernel == Kernel::lanczos3 ? 6 : 2; }
int rounded(double value) { return static_cast<int>(std::lround(value)); }

}  // namespace

bool SlantedTile::suits(const Image& source, Kernel kernel, const Matrix2& slope) {
  constexpr double most = 1.5, least = 0.25;
  const double size = std::sqrt(std::abs(slope.determinant()));
  return source.depth() == Depth::u8 && kernel != Kernel::nearest && size > least && size < most;
}

SlantedTile::SlantedTile(const Image& source, Kernel kernel, Edge edge, const Matrix3& pull, Region whole)
    : source_(source), kernel_(kernel), edge_(edge), pull_(pull / pull(2, 2)), whole_(whole) {
  const Point x{pull_(0, 0), pull_(1, 0)}, y{pull_(0, 1), pull_(1, 1)};
  upright_ = std::abs(x.y) <= std::abs(y.y);
  lane_ = upright_ ? x : y, row_ = upright_ ? y : x;
  cell_ = upright_ ? Size{Lines::lanes, Lines::most_rows} : Size{Lines::most_rows, Lines::lanes};
  across_ = (whole.width + cell_.width - 1) / cell_.width;
  const int down = (whole.height + cell_.height - 1) / cell_.height;
  fits_ = lay_lanes();
  cells_.assign(static_cast<std::size_t>(across_) * static_cast<std::size_t>(down),
                fits_ ? State::unasked : State::left);
  if (!fits_) return;
  const int bands = source.bands();
  result_ = Image(across_ * cell_.width, down * cell_.height, bands, Depth::u8, Image::Start::unset);
  beyond_.assign(static_cast<std::size_t>(bands) * static_cast<std::size_t>(result_.height() * across_) *
                     static_cast<std::size_t>(cell_.width / 32),
                 0);
  slanted_.resize(static_cast<std::size_t>(bands * Lines::most_lines * Lines::lanes) + 64);
  over_.assign(static_cast<std::size_t>(bands * Lines::most_lines), 0);
}

/// Where lanes stand to each other; false where that is too far.
bool SlantedTile::lay_lanes() {
  const double slope = lane_.y / row_.y;
  int least = 0, most = 0;
  std::array<int, Lines::lanes> steps;
  for (int k = 0; k < Lines::lanes; ++k) {
    steps[static_cast<std::size_t>(k)] = rounded(slope * k);
    least = std::min(least, steps[static_cast<std::size_t>(k)]), most = std::max(most, steps[static_cast<std::size_t>(k)]);
  }
  if (!(most - least < Lines::lanes)) return false;
  lines_.rows = Lines::most_rows, lines_.lines = Lines::most_rows + most - least;
  std::array<double, Lines::lanes> x, y;
  for (std::size_t k = 0; k < Lines::lanes; ++k) {
    lines_.steps[k] = static_cast<std::uint8_t>(steps[k] - least);
    x[k] = static_cast<double>(k) * lane_.x - lines_.steps[k] * row_.x;
    y[k] = static_cast<double>(k) * lane_.y - lines_.steps[k] * row_.y;
  }
  highest_ = *std::ranges::min_element(y);
  const double below = *std::ranges::max_element(y) - highest_;
  lines_.most_down = below < 0.99 ? 1 : 2;
  if (!(below < 1.99)) return false;
  const double one_row = lines_.most_down == 1 ? 0x1p15 : 0x1p14;
  for (std::size_t g = 0; g < Lines::groups; ++g) {
    const auto first = x.begin() + g * Lines::group;
    group_at_[g] = *std::min_element(first, first + Lines::group);
    if (!(*std::max_element(first, first + Lines::group) - group_at_[g] < Lines::reads - taps_of(kernel_) - 0.01))
      return false;
  }
  for (std::size_t k = 0; k < Lines::lanes; ++k) {
    (k % 2 == 0 ? lines_.even : lines_.odd)[k / 2] = rounded((x[k] - group_at_[k / Lines::group]) * 0x1p15);
    lines_.below[k] = static_cast<std::uint16_t>(rounded((y[k] - highest_) * one_row));
  }
  return true;
}

/// Where the lines of a cell stand, from where pixel 0 of line 0 does; false where that is too far for numbers.
bool SlantedTile::lay_lines(Point first) {
  constexpr double farthest = 1e9;
  const int middle = taps_of(kernel_) / 2 - 1;
  const Point last = first + static_cast<double>(lines_.lines) * row_;
  for (const double v : {first.x, first.y, last.x, last.y})
    if (!(std::abs(v) < farthest)) return false;
  // In units of 2^-32 px.
  const auto whole = [](double v) { return std::llround(v * 0x1p32); };
  const int row_bits = lines_.most_down == 1 ? 15 : 14;
  const std::int64_t step_x = whole(row_.x), step_y = whole(row_.y);
  std::int64_t y = whole(first.y + highest_) + (std::int64_t{1} << (31 - row_bits));
  std::array<std::int64_t, Lines::groups> x;
  for (std::size_t g = 0; g < Lines::groups; ++g) x[g] = whole(first.x + group_at_[g]) + (std::int64_t{1} << 16);
  for (int l = 0; l < lines_.lines; ++l, y += step_y) {
    Lines::Start& start = lines_.starts[static_cast<std::size_t>(l)];
    for (std::size_t g = 0; g < Lines::groups; ++g) {
      start.left[g] = static_cast<std::int32_t>(x[g] >> 32) - middle;
      start.part[g] = static_cast<std::int32_t>(static_cast<std::uint32_t>(x[g]) >> 17);
      x[g] += step_x;
    }
    start.top = static_cast<std::int32_t>(y >> 32) - middle;
    start.under = static_cast<std::int32_t>(static_cast<std::uint32_t>(y) >> (32 - row_bits));
  }
  return true;
}

/// Interpolates a cell; false where that must be left to others.
bool SlantedTile::fill(int column, int row) {
  const int x = column * cell_.width, y = row * cell_.height;
  const Point centre{whole_.x + x + 0.5, whole_.y + y + 0.5};
  if (!lay_lines({pull_(0, 0) * centre.x + pull_(0, 1) * centre.y + pull_(0, 2) - 0.5,
                  pull_(1, 0) * centre.x + pull_(1, 1) * centre.y + pull_(1, 2) - 0.5}))
    return false;
  // What is read lies between what the first and the last line read.
  const auto& a = lines_.starts[0];
  const auto& b = lines_.starts[static_cast<std::size_t>(lines_.lines - 1)];
  const auto [left_a, right_a] = std::ranges::minmax(a.left);
  const auto [left_b, right_b] = std::ranges::minmax(b.left);
  Region box{std::min(left_a, left_b), std::min(a.top, b.top), 0, 0};
  box.width = std::max(right_a, right_b) + Lines::reads - box.x;
  box.height = std::max(a.top, b.top) + taps_of(kernel_) + lines_.most_down - box.y;
  const int bands = source_.bands();
  SlantedSource from{source_.row<std::uint8_t>(0, 0), source_.stride<std::uint8_t>(),
                     source_.stride<std::uint8_t>() * source_.height(), bands, 0};
  if (box.x < 0 || box.y < 0 || box.x + box.width > source_.width() || box.y + box.height > source_.height()) {
    around_.resize(static_cast<std::size_t>(box.width) * static_cast<std::size_t>(box.height * bands));
    std::uint8_t* out = around_.data();
    for (int band = 0; band < bands; ++band)
      for (int j = box.y; j < box.y + box.height; ++j, out += box.width) {
        const auto* in = source_.row<std::uint8_t>(band, folded(j, source_.height(), edge_));
        const int begin = std::clamp(0, box.x, box.x + box.width);
        const int end = std::clamp(source_.width(), begin, box.x + box.width);
        for (int i = box.x; i < begin; ++i) out[i - box.x] = in[folded(i, source_.width(), edge_)];
        if (begin < end) std::memcpy(out + (begin - box.x), in + begin, static_cast<std::size_t>(end - begin));
        for (int i = end; i < box.x + box.width; ++i) out[i - box.x] = in[folded(i, source_.width(), edge_)];
      }
    from.stride = box.width, from.plane = from.stride * box.height;
    from.origin = around_.data() - box.y * from.stride - box.x;
  }
  constexpr int lines_ahead = 12;
  from.ahead = rounded(lines_ahead * row_.y) * from.stride + rounded(lines_ahead * row_.x);
  if (!HWY_DYNAMIC_DISPATCH(RunSlantedLines)(kernel_, lines_, from, slanted_.data(), over_.data())) return false;
  for (int band = 0; band < bands; ++band) {
    std::uint8_t* lines = slanted_.data() + static_cast<std::ptrdiff_t>(band) * Lines::most_lines * Lines::lanes;
    HWY_DYNAMIC_DISPATCH(StraightenLines)(lines_, lines);
    std::uint8_t* out = result_.row<std::uint8_t>(band, y) + x;
    if (upright_)
      for (int r = 0; r < lines_.rows; ++r)
        std::copy_n(lines + r * Lines::lanes, Lines::lanes, out + r * result_.stride<std::uint8_t>());
    else
      HWY_DYNAMIC_DISPATCH(TurnLines)(lines, lines_.rows, out, result_.stride<std::uint8_t>());
    for (int l = 0; l < lines_.lines; ++l) {
      std::uint32_t& over = over_[static_cast<std::size_t>(band * Lines::most_lines + l)];
      for (; over != 0; over &= over - 1) {
        const int lane = std::countr_zero(over), r = l - lines_.steps[static_cast<std::size_t>(lane)];
        if (r < 0 || r >= lines_.rows) continue;
        const int at_x = x + (upright_ ? lane : r), at_y = y + (upright_ ? r : lane);
        any_beyond_ = true;
        beyond_[(static_cast<std::size_t>(band * result_.height() + at_y) * static_cast<std::size_t>(result_.width()) +
                 static_cast<std::size_t>(at_x)) / 32] |= 1U << (at_x % 32);
      }
    }
  }
  return true;
}

/// Samples of [begin, end) that were clamped.
std::int64_t SlantedTile::clamped_in(int band, int row, int begin, int end) const {
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

void SlantedTile::write(int x, int y, int count, const RowTarget& target, std::vector<Stretch>& rest,
                        std::int64_t& clamped) {
  const int row = y - whole_.y, cells_row = row / cell_.height;
  const auto state_of = [&](int column) {
    State& state = cells_[static_cast<std::size_t>(cells_row * across_ + column)];
    if (state == State::unasked) state = fill(column, cells_row) ? State::done : State::left;
    return state;
  };
  for (int begin = x - whole_.x, end = begin + count; begin < end;) {
    int column = begin / cell_.width;
    const State state = state_of(column);
    while (++column * cell_.width < end && state_of(column) == state) {}
    const int to = std::min(column * cell_.width, end);
    if (state == State::left)
      rest.push_back({begin + whole_.x, to - begin});
    else
      for (int band = 0; band < source_.bands(); ++band) {
        std::memcpy(target.first + band * target.plane + (begin + whole_.x - x), result_.bytes(band, row) + begin,
                    static_cast<std::size_t>(to - begin));
        if (any_beyond_) clamped += clamped_in(band, row, begin, to);
      }
    begin = to;
  }
}

}  // namespace fexel
#endif
