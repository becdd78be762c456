#include "resample/move.h"

#include <cstring>

namespace fexel {
namespace {

bool nearly_whole(double value, int& whole) {
  if (!(std::abs(value) < 1e9)) return false;
  whole = static_cast<int>(std::lround(value));
  return std::abs(value - whole) < 1e-3;
}

template <class T>
void copy_rows(const Image& source, const PixelMove& m, const Clip& clip, Region region, int y0, int y1,
               const Resampling& resampling, Image& out) {
  const bool painted = resampling.edge != Edge::fill;
  // Columns at a time: where rows become columns, a block of rows that stays in the cache.
  const int block = m.yx == 0 ? region.width : 64;
  for (int x0 = 0; x0 < region.width; x0 += block) {
    const int x1 = std::min(x0 + block, region.width);
    for (int y = y0; y < y1; ++y) {
      const int j = region.y + y;
      const auto span = clip.row(j + 0.5, region.x + x0, region.x + x1);
      for (int band = 0; band < source.bands(); ++band) {
        T* target = out.row<T>(band, y) - region.x;
        const T* origin = source.row<T>(band, 0);
        const auto stride = source.stride<T>();
        const auto read = [&](int i) {
          const int sx = folded(m.xx * i + m.xy * j + m.x0, source.width(), resampling.edge);
          const int sy = folded(m.yx * i + m.yy * j + m.y0, source.height(), resampling.edge);
          return origin[sy * stride + sx];
        };
        const T fill = static_cast<T>(resampling.fill_of(band));
        for (int i = region.x + x0; i < span.begin; ++i) target[i] = painted ? read(i) : fill;
        if (span.begin < span.end && m.xx == 1 && m.yx == 0) {
          const int sx = span.begin + m.xy * j + m.x0;
          std::memcpy(target + span.begin, origin + (m.yy * j + m.y0) * stride + sx,
                      sizeof(T) * static_cast<std::size_t>(span.end - span.begin));
        } else if (span.begin < span.end && m.xx == -1 && m.yx == 0) {
          const T* last = origin + (m.yy * j + m.y0) * stride - (span.end - 1) + m.xy * j + m.x0;
          std::reverse_copy(last, last + (span.end - span.begin), target + span.begin);
        } else if (span.begin < span.end) {
          const T* from = origin + (m.yx * span.begin + m.yy * j + m.y0) * stride + m.xx * span.begin + m.xy * j + m.x0;
          const std::ptrdiff_t step = m.xx + m.yx * stride;
          for (int i = span.begin; i < span.end; ++i, from += step) target[i] = *from;
        }
        for (int i = span.end; i < region.x + x1; ++i) target[i] = painted ? read(i) : fill;
      }
    }
  }
}

}  // namespace

std::optional<PixelMove> whole_pixel_move(const Matrix3& pull, Size result, Stride stride) {
  if (!(pull(2, 2) > 0)) return std::nullopt;
  const Matrix3 m = pull / pull(2, 2);
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
    const auto p = Map::apply(pull, corner);
    const auto q = Map::apply(whole, corner);
    if (!p || distance(*p, *q) > 1e-6) return std::nullopt;
  }
  return PixelMove{a, b, x0, c, d, y0};
}

void copy_moved(const Image& source, const PixelMove& move, const Clip& clip, Region region, int y0, int y1,
                const Resampling& resampling, Image& out) {
  visit_depth(source.depth(),
              [&](auto sample) { copy_rows<decltype(sample)>(source, move, clip, region, y0, y1, resampling, out); });
}

}  // namespace fexel
