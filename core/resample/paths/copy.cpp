#include "resample/paths/copy.h"

#include <cstring>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "resample/paths/copy.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "resample/paths/copy-inl.h"

#if HWY_ONCE
namespace fexel {

HWY_EXPORT(TurnU8);
HWY_EXPORT(TurnU16);
HWY_EXPORT(TurnF32);

namespace {

bool nearly_whole(double value, int& whole) {
  if (!(std::abs(value) < 1e9)) return false;
  whole = static_cast<int>(std::lround(value));
  return std::abs(value - whole) < 1e-3;
}

void turn(const std::uint8_t* in, std::ptrdiff_t in_stride, std::uint8_t* out, std::ptrdiff_t out_stride, int count) {
  HWY_DYNAMIC_DISPATCH(TurnU8)(in, in_stride, out, out_stride, count);
}
void turn(const std::uint16_t* in, std::ptrdiff_t in_stride, std::uint16_t* out, std::ptrdiff_t out_stride, int count) {
  HWY_DYNAMIC_DISPATCH(TurnU16)(in, in_stride, out, out_stride, count);
}
void turn(const float* in, std::ptrdiff_t in_stride, float* out, std::ptrdiff_t out_stride, int count) {
  HWY_DYNAMIC_DISPATCH(TurnF32)(in, in_stride, out, out_stride, count);
}

/// Samples of at most 16 bits in reverse, eight bytes at a time.
template <class T>
void reverse(const T* from, int count, T* to) {
  if constexpr (sizeof(T) <= 2) {
    constexpr int at_once = 8 / sizeof(T);
    for (; count >= at_once; count -= at_once, to += at_once) {
      std::uint64_t bits = 0;
      std::memcpy(&bits, from + count - at_once, 8);
      bits = __builtin_bswap64(bits);
      if constexpr (sizeof(T) == 2) bits = (bits & 0x00ff00ff00ff00ffU) << 8 | (bits >> 8 & 0x00ff00ff00ff00ffU);
      std::memcpy(to, &bits, 8);
    }
  }
  std::reverse_copy(from, from + count, to);
}

/// One band of a region, row by row.
template <class T>
class BandMove {
 public:
  BandMove(const Image& source, int band, const PixelMove& move, const Clip& clip, Region region,
           const Resampling& resampling, Image& out)
      : source_(source),
        m_(move),
        clip_(clip),
        region_(region),
        edge_(resampling.edge),
        fill_(static_cast<T>(resampling.fill_of(band))),
        band_(band),
        origin_(source.row<T>(band, 0)),
        stride_(source.stride<T>()),
        out_(out) {}

  /// Pixels [x0, x1) of the region's rows [y0, y1).
  void copy(int x0, int x1, int y0, int y1) {
    int y = y0;
    if (m_.xx == 0 && std::abs(m_.xy) == 1 && std::abs(m_.yx) == 1)
      for (; y + square_side<T> <= y1; y += square_side<T>) turn_rows(x0, x1, y);
    for (; y < y1; ++y) copy_row(x0, x1, y);
  }

 private:
  T* target(int y) { return out_.row<T>(band_, y) - region_.x; }
  const T* sample(int i, int j) const {
    return origin_ + (m_.yx * i + m_.yy * j + m_.y0) * stride_ + (m_.xx * i + m_.xy * j + m_.x0);
  }
  Clip::Span span(int x0, int x1, int y) const {
    return clip_.row(region_.y + y + 0.5, region_.x + x0, region_.x + x1);
  }

  /// As many rows as a square has, by squares where all of them are inside.
  void turn_rows(int x0, int x1, int y) {
    constexpr int side = square_side<T>;
    int begin = region_.x + x0, end = region_.x + x1;
    for (int row = y; row < y + side; ++row) {
      const auto inside = span(x0, x1, row);
      begin = std::max(begin, inside.begin);
      end = std::min(end, inside.end);
    }
    const int squares = std::max(0, end - begin) / side;
    if (squares > 0) {
      // The source's columns go with the rows here, or against them.
      const bool along = m_.xy > 0;
      const T* in = sample(begin, region_.y + (along ? y : y + side - 1));
      const std::ptrdiff_t rows = out_.stride<T>();
      turn(in, m_.yx * stride_, target(along ? y : y + side - 1) + begin, along ? rows : -rows, squares);
    }
    const int done = begin + squares * side - region_.x;
    for (int row = y; row < y + side; ++row) {
      copy_row(x0, squares > 0 ? begin - region_.x : x1, row);
      if (squares > 0) copy_row(done, x1, row);
    }
  }

  void copy_row(int x0, int x1, int y) {
    if (x0 >= x1) return;
    const int j = region_.y + y;
    T* to = target(y);
    const auto inside = span(x0, x1, y);
    const bool painted = edge_ != BorderMode::fill;
    const auto read = [&](int i) {
      const int sx = folded(m_.xx * i + m_.xy * j + m_.x0, source_.width(), edge_);
      const int sy = folded(m_.yx * i + m_.yy * j + m_.y0, source_.height(), edge_);
      return origin_[sy * stride_ + sx];
    };
    for (int i = region_.x + x0; i < inside.begin; ++i) to[i] = painted ? read(i) : fill_;
    const int count = inside.end - inside.begin;
    if (count > 0 && m_.xx == 1 && m_.yx == 0) {
      std::memcpy(to + inside.begin, sample(inside.begin, j), sizeof(T) * static_cast<std::size_t>(count));
    } else if (count > 0 && m_.xx == -1 && m_.yx == 0) {
      reverse(sample(inside.end - 1, j), count, to + inside.begin);
    } else if (count > 0) {
      const T* from = sample(inside.begin, j);
      const std::ptrdiff_t step = m_.xx + m_.yx * stride_;
      for (int i = inside.begin; i < inside.end; ++i, from += step) to[i] = *from;
    }
    for (int i = inside.end; i < region_.x + x1; ++i) to[i] = painted ? read(i) : fill_;
  }

  const Image& source_;
  const PixelMove& m_;
  const Clip& clip_;
  Region region_;
  BorderMode edge_;
  T fill_;
  int band_;
  const T* origin_;
  std::ptrdiff_t stride_;
  Image& out_;
};

}  // namespace

std::optional<PixelMove> whole_pixel_move(const Matrix3& inverse_map, Size result, Stride stride) {
  if (!(inverse_map(2, 2) > 0)) return std::nullopt;
  const Matrix3 m = inverse_map / inverse_map(2, 2);
  int a, b, c, d, x0, y0;
  if (!nearly_whole(m(0, 0), a) || !nearly_whole(m(0, 1), b) || !nearly_whole(m(1, 0), c) || !nearly_whole(m(1, 1), d))
    return std::nullopt;
  const bool upright = b == 0 && c == 0 && std::abs(a) == stride.x && std::abs(d) == stride.y;
  const bool lying = a == 0 && d == 0 && std::abs(c) == stride.x && std::abs(b) == stride.y;
  if (!upright && !lying) return std::nullopt;
  // The centre (i + 1/2, j + 1/2) goes to (a + b) / 2 further; minus one half is the pixel that holds it.
  if (!nearly_whole(m(0, 2) + (a + b - 1) / 2.0, x0) || !nearly_whole(m(1, 2) + (c + d - 1) / 2.0, y0))
    return std::nullopt;
  Matrix3 whole;
  whole << a, b, x0 - (a + b - 1) / 2.0, c, d, y0 - (c + d - 1) / 2.0, 0, 0, 1;
  for (const Point corner : {Point{0, 0}, Point{double(result.width), 0}, Point{0, double(result.height)},
                             Point{double(result.width), double(result.height)}}) {
    const auto p = Map::apply(inverse_map, corner);
    const auto q = Map::apply(whole, corner);
    if (!p || distance(*p, *q) > 1e-6) return std::nullopt;
  }
  return PixelMove{a, b, x0, c, d, y0};
}

void copy_moved(const Image& source, const PixelMove& move, const Clip& clip, Region region, int y0, int y1,
                const Resampling& resampling, Image& out) {
  // Columns at a time: where rows become columns, a block of rows that stays in the cache.
  const int block = move.yx == 0 ? region.width : 64;
  for (int x0 = 0; x0 < region.width; x0 += block)
    for (int band = 0; band < source.bands(); ++band)
      visit_depth(source.depth(), [&](auto sample) {
        BandMove<decltype(sample)>(source, band, move, clip, region, resampling, out)
            .copy(x0, std::min(x0 + block, region.width), y0, y1);
      });
}

}  // namespace fexel
#endif
