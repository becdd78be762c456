// The vector code of separable.cpp, compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_SCALE_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_SCALE_INL_H
#undef FEXEL_RESAMPLE_SCALE_INL_H
#else
#define FEXEL_RESAMPLE_SCALE_INL_H
#endif

#include "resample/vectors-inl.h"

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {

/// Which pixel is read at an index that may lie outside; `around` of them outside have samples of their own.
HWY_INLINE int place_along(int index, int count, int around, BorderMode edge) {
  if (index >= -around && index < count + around) return index;
  if (around > 0) return index < 0 ? -around : count - 1 + around;
  return folded(index, count, edge);
}

/// One band of one tile of at most `scale_rows` rows.
template <class T>
class TileScaler {
 public:
  TileScaler(const ScalePlan& plan, int band, const ScaleTile& tile, ScaleBuffers& buffers)
      : plan_(plan),
        tile_(tile),
        buffers_(buffers),
        origin_(plan.source->row<T>(band, plan.margin) + plan.margin),
        stride_(plan.source->stride<T>()),
        width_(plan.source->width() - 2 * plan.margin),
        height_(plan.source->height() - 2 * plan.margin),
        around_(plan.edge == BorderMode::fill || plan.edge == BorderMode::extend ? plan.margin : 0) {}

  /// Leaves the tile's rows in buffers.result, one behind the other, each filled up to a multiple of four.
  void run() {
    const auto [least, most] =
        std::minmax_element(plan_.columns.first.begin() + tile_.x0, plan_.columns.first.begin() + tile_.x1);
    const int left = *least, right = *most + plan_.columns.taps;
    const int width = (right - left + 3) / 4 * 4;
    const std::ptrdiff_t line = width + block;
    buffers_.lines.resize(static_cast<std::size_t>(line) * 4);
    buffers_.across.resize(static_cast<std::size_t>(width) * scale_rows);
    for (int row = 0; row < scale_rows; row += 4) {
      for (int k = 0; k < 4; ++k)
        if (tile_.y0 + row + k < tile_.y1) sum_rows(tile_.y0 + row + k, left, right, buffers_.lines.data() + k * line);
      for (int x = 0; x < width; x += 4)
        turn_square(buffers_.lines.data() + x, line, buffers_.across.data() + x * scale_rows + row, scale_rows);
    }
    sum_columns(left);
  }

 private:
  static constexpr int block = 64;
  // Sums of whole numbers are rounded to whole numbers, which hides what differences to the middle tap keep.
  static constexpr bool differences = sizeof(T) == 4;

  int place(int index, int count) const { return place_along(index, count, around_, plan_.edge); }

  /// One row of the tile, summed over the source's rows, for source columns [left, right).
  void sum_rows(int row, int left, int right, float* out) {
    const Taps& taps = plan_.rows;
    const int first = taps.first[static_cast<std::size_t>(row)];
    const float* weights = taps.weights.data() + static_cast<std::ptrdiff_t>(row) * taps.taps;
    buffers_.rows.resize(static_cast<std::size_t>(taps.taps));
    for (int k = 0; k < taps.taps; ++k)
      buffers_.rows[static_cast<std::size_t>(k)] =
          reinterpret_cast<const std::byte*>(origin_ + place(first + k, height_) * stride_);
    const auto* rows = reinterpret_cast<const T* const*>(buffers_.rows.data());
    const int inside = std::clamp(left, -around_, width_ + around_), end = std::clamp(right, inside, width_ + around_);
    int x = left;
    for (; x < std::min(inside, right); ++x) out[x - left] = sum_one(rows, weights, taps.taps, place(x, width_));
    for (; x + block <= end; x += block) sum_block<block>(rows, weights, taps.taps, x, out + (x - left));
    constexpr int lanes = static_cast<int>(hn::MaxLanes(floats));
    for (; x + lanes <= end; x += lanes) sum_block<lanes>(rows, weights, taps.taps, x, out + (x - left));
    for (; x < right; ++x) out[x - left] = sum_one(rows, weights, taps.taps, place(x, width_));
  }
  template <int pixels>
  HWY_INLINE void sum_block(const T* const* rows, const float* weights, int taps, int x, float* out) {
    constexpr int lanes = static_cast<int>(hn::MaxLanes(floats)), vectors = pixels / lanes;
    F sums[vectors], base[vectors];
    for (int v = 0; v < vectors; ++v) {
      base[v] = differences ? load(rows[taps / 2] + x + v * lanes) : hn::Zero(floats);
      sums[v] = base[v];
    }
    for (int k = 0; k < taps; ++k) {
      const auto weight = hn::Set(floats, weights[k]);
      for (int v = 0; v < vectors; ++v) {
        const auto sample = load(rows[k] + x + v * lanes);
        sums[v] = hn::MulAdd(weight, differences ? hn::Sub(sample, base[v]) : sample, sums[v]);
      }
    }
    for (int v = 0; v < vectors; ++v) hn::StoreU(sums[v], floats, out + v * lanes);
  }
  static float sum_one(const T* const* rows, const float* weights, int taps, int x) {
    const float base = differences ? static_cast<float>(rows[taps / 2][x]) : 0;
    float sum = base;
    for (int k = 0; k < taps; ++k) sum += weights[k] * (static_cast<float>(rows[k][x]) - base);
    return sum;
  }

  /// All rows of the tile at once, which stand side by side, summed over their columns.
  void sum_columns(int left) {
    const int columns = tile_.x1 - tile_.x0, stride = (columns + 3) / 4 * 4;
    buffers_.result.resize(static_cast<std::size_t>(stride) * scale_rows);
    alignas(64) float sums[4 * scale_rows];
    for (int i = 0; i < columns; i += 4) {
      sum_four(i, std::min(4, columns - i), left, sums);
      for (int row = 0; row < scale_rows; row += 4)
        turn_square(sums + row, scale_rows, buffers_.result.data() + static_cast<std::ptrdiff_t>(row) * stride + i,
                    stride);
    }
  }
  /// Up to four columns, side by side so that they need not wait for each other.
  HWY_INLINE void sum_four(int first_column, int count, int left, float* out) {
    constexpr int lanes = static_cast<int>(hn::MaxLanes(floats)), vectors = scale_rows / lanes;
    const Taps& taps = plan_.columns;
    const float* in[4];
    const float* weights[4];
    for (int c = 0; c < 4; ++c) {
      const auto at = static_cast<std::size_t>(tile_.x0 + first_column + std::min(c, count - 1));
      in[c] = buffers_.across.data() + static_cast<std::ptrdiff_t>(taps.first[at] - left) * scale_rows;
      weights[c] = taps.weights.data() + at * static_cast<std::size_t>(taps.taps);
    }
    for (int v = 0; v < vectors; ++v) {
      F sums[4], base[4];
      for (int c = 0; c < 4; ++c)
        sums[c] = base[c] =
            differences ? hn::LoadU(floats, in[c] + taps.taps / 2 * scale_rows + v * lanes) : hn::Zero(floats);
      for (int k = 0; k < taps.taps; ++k)
        for (int c = 0; c < 4; ++c) {
          const auto sample = hn::LoadU(floats, in[c] + k * scale_rows + v * lanes);
          sums[c] =
              hn::MulAdd(hn::Set(floats, weights[c][k]), differences ? hn::Sub(sample, base[c]) : sample, sums[c]);
        }
      for (int c = 0; c < 4; ++c) hn::StoreU(sums[c], floats, out + c * scale_rows + v * lanes);
    }
  }

  const ScalePlan& plan_;
  const ScaleTile& tile_;
  ScaleBuffers& buffers_;
  const T* origin_;
  std::ptrdiff_t stride_;
  int width_, height_, around_;
};

void ScaleBand(const ScalePlan& plan, int band, const ScaleTile& tile, ScaleBuffers& buffers) {
  visit_depth(plan.source->depth(),
              [&](auto sample) { TileScaler<decltype(sample)>(plan, band, tile, buffers).run(); });
}

template <class T>
void RoundLine(const float* in, T* out, int count, std::int64_t& clamped) {
  constexpr int lanes = static_cast<int>(hn::MaxLanes(floats));
  int i = 0;
  for (; i + lanes <= count; i += lanes) put(hn::LoadU(floats, in + i), out + i, true, 0, clamped);
  for (; i < count; ++i) out[i] = to_sample<T>(in[i], clamped);
}
void RoundRow(const float* in, std::byte* out, Depth depth, int count, std::int64_t& clamped) {
  visit_depth(depth, [&](auto sample) { RoundLine(in, reinterpret_cast<decltype(sample)*>(out), count, clamped); });
}

template <class T>
void HalveLine(const T* upper, const T* lower, int count, T* out) {
  int i = 0;
#if HWY_TARGET != HWY_SCALAR
  using Wide = std::conditional_t<sizeof(T) == 1, std::uint16_t, std::uint32_t>;
  constexpr int bits = 8 * sizeof(T);
  const hn::CappedTag<Wide, 32> wide;
  const hn::Rebind<hwy::MakeSigned<Wide>, decltype(wide)> wide_signed;
  const hn::Rebind<T, decltype(wide)> narrow;
  const auto first = hn::Set(wide, static_cast<Wide>((1U << bits) - 1)), one = hn::Set(wide, Wide{1});
  constexpr int lanes = static_cast<int>(hn::MaxLanes(hn::CappedTag<Wide, 32>()));
  for (; i + lanes <= count; i += lanes) {
    const auto a = hn::BitCast(wide, hn::LoadU(hn::Repartition<T, decltype(wide)>(), upper + 2 * i));
    const auto b = hn::BitCast(wide, hn::LoadU(hn::Repartition<T, decltype(wide)>(), lower + 2 * i));
    const auto sum = hn::Add(hn::Add(hn::And(a, first), hn::ShiftRight<bits>(a)),
                             hn::Add(hn::And(b, first), hn::ShiftRight<bits>(b)));
    const auto mean = hn::ShiftRight<2>(hn::Add(hn::Add(sum, one), hn::And(hn::ShiftRight<2>(sum), one)));
    hn::StoreU(hn::DemoteTo(narrow, hn::BitCast(wide_signed, mean)), narrow, out + i);
  }
#endif
  for (; i < count; ++i) {
    const std::uint32_t sum = std::uint32_t{upper[2 * i]} + upper[2 * i + 1] + lower[2 * i] + lower[2 * i + 1];
    out[i] = static_cast<T>((sum + 1 + (sum >> 2 & 1)) >> 2);
  }
}
/// The means of two by two samples, from column x on of two rows, of u8 or u16.
void HalveRow(const std::byte* upper, const std::byte* lower, Depth depth, int x, int count, std::byte* out) {
  const auto line = [&](auto sample) {
    using T = decltype(sample);
    HalveLine(reinterpret_cast<const T*>(upper) + x, reinterpret_cast<const T*>(lower) + x, count,
              reinterpret_cast<T*>(out));
  };
  if (depth == Depth::u8)
    line(std::uint8_t{});
  else
    line(std::uint16_t{});
}

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
