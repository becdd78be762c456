// Scaling of bytes in whole numbers, two taps to an instruction; compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_SCALE_BYTES_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_SCALE_BYTES_INL_H
#undef FEXEL_RESAMPLE_SCALE_BYTES_INL_H
#else
#define FEXEL_RESAMPLE_SCALE_BYTES_INL_H
#endif

#include "resample/paths/separable-inl.h"

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {

#if HWY_TARGET == HWY_SCALAR
void ScaleBytes(const ScalePlan& plan, int band, const ScaleTile& tile, ScaleBuffers& buffers) {
  ScaleBand(plan, band, tile, buffers);
}
#else

/// One band of one tile of at most `scale_rows` rows. Sums over the source's rows are kept in 1/64 of a grey level in
/// 16 bits, which hold what a kernel overshoots; two neighbours in a row stand side by side, as their taps do.
class ByteScaler {
 public:
  ByteScaler(const ScalePlan& plan, int band, const ScaleTile& tile, ScaleBuffers& buffers)
      : plan_(plan),
        tile_(tile),
        buffers_(buffers),
        origin_(plan.source->row<std::uint8_t>(band, 0)),
        stride_(plan.source->stride<std::uint8_t>()),
        width_(plan.source->width()),
        height_(plan.source->height()) {}

  /// Leaves the tile's rows in buffers.result, one behind the other, each filled up to a multiple of four.
  void run() {
    const TapPairs& columns = plan_.column_pairs;
    const auto [least, most] = std::minmax_element(columns.first.begin() + tile_.x0, columns.first.begin() + tile_.x1);
    const int left = *least, right = *most + 2 * columns.pairs;
    const int pairs = ((right - left) / 2 + 3) / 4 * 4;
    const std::ptrdiff_t line = pairs + block / 2;  // in pairs, for each is as large as a float
    buffers_.lines.resize(static_cast<std::size_t>(line) * 4);
    buffers_.across.resize(static_cast<std::size_t>(pairs) * scale_rows);
    for (int row = 0; row < scale_rows; row += 4) {
      for (int k = 0; k < 4; ++k)
        if (tile_.y0 + row + k < tile_.y1)
          sum_rows(tile_.y0 + row + k, left, right, reinterpret_cast<std::int16_t*>(buffers_.lines.data() + k * line));
      for (int x = 0; x < pairs; x += 4)
        turn_square(buffers_.lines.data() + x, line, buffers_.across.data() + x * scale_rows + row, scale_rows);
    }
    sum_columns(left);
  }

 private:
  static constexpr int part_bits = 6, rows_ahead = 2;
  static constexpr hn::CappedTag<std::int16_t, 32> words{};
  static constexpr hn::Rebind<std::uint8_t, decltype(words)> bytes{};
  static constexpr hn::Repartition<std::int32_t, decltype(words)> sums{};
  static constexpr int lanes = hn::MaxLanes(words);
  static constexpr int block = 4 * lanes;

  /// One row of the tile, summed over the source's rows, for source columns [left, right).
  void sum_rows(int row, int left, int right, std::int16_t* out) {
    const TapPairs& taps = plan_.row_pairs;
    const std::int32_t* weights = taps.weights.data() + static_cast<std::ptrdiff_t>(row) * taps.pairs;
    const int first = taps.first[static_cast<std::size_t>(row)];
    buffers_.rows.resize(static_cast<std::size_t>(taps.pairs) * 2);
    for (int k = 0; k < 2 * taps.pairs; ++k)
      buffers_.rows[static_cast<std::size_t>(k)] =
          reinterpret_cast<const std::byte*>(origin_ + place_along(first + k, height_, 0, plan_.edge) * stride_);
    const auto* rows = reinterpret_cast<const std::uint8_t* const*>(buffers_.rows.data());
    // What the row after the next ones needs first.
    const int later = std::min(row + rows_ahead, static_cast<int>(taps.first.size()) - 1);
    const int new_rows =
        taps.first[static_cast<std::size_t>(later)] - taps.first[static_cast<std::size_t>(later) - (later > 0)];
    for (int k = 0; k < 2; ++k) {
      const int y = taps.first[static_cast<std::size_t>(later)] + 2 * taps.pairs - 1 - std::min(k, new_rows);
      ahead_[k] = origin_ + std::clamp(y, 0, height_ - 1) * stride_;
    }
    // The last pair may weigh nothing.
    const int pairs = weights[taps.pairs - 1] == 0 ? taps.pairs - 1 : taps.pairs;
    const int inside = std::clamp(left, 0, width_), end = std::clamp(right, inside, width_);
    int x = left;
    for (; x < std::min(inside, right); ++x)
      out[x - left] = sum_one(rows, weights, pairs, place_along(x, width_, 0, plan_.edge));
    for (; x + block <= end; x += block) sum_block<block / lanes>(rows, weights, pairs, x, out + (x - left));
    for (; x + lanes <= end; x += lanes) sum_block<1>(rows, weights, pairs, x, out + (x - left));
    if (x < end && end - inside >= lanes) {
      // Some columns again rather than some by themselves.
      sum_block<1>(rows, weights, pairs, end - lanes, out + (end - lanes - left));
      x = end;
    }
    for (; x < right; ++x) out[x - left] = sum_one(rows, weights, pairs, place_along(x, width_, 0, plan_.edge));
  }
  template <int vectors>
  HWY_INLINE void sum_block(const std::uint8_t* const* rows, const std::int32_t* weights, int pairs, int x,
                            std::int16_t* out) const {
    const int spare = plan_.row_pairs.bits - part_bits;
    using S = hn::Vec<decltype(sums)>;
    S low[vectors], high[vectors], none = hn::Zero(sums);
    for (int v = 0; v < vectors; ++v) low[v] = high[v] = hn::Set(sums, 1 << (spare - 1));
    for (const std::uint8_t* ahead : ahead_)
      for (int v = 0; v < vectors; v += 2) hwy::Prefetch(ahead + x + v * lanes);
    for (int k = 0; k < pairs; ++k) {
      const auto weight = hn::BitCast(words, hn::Set(sums, weights[k]));
      for (int v = 0; v < vectors; ++v) {
        const auto upper = hn::PromoteTo(words, hn::LoadU(bytes, rows[2 * k] + x + v * lanes));
        const auto lower = hn::PromoteTo(words, hn::LoadU(bytes, rows[2 * k + 1] + x + v * lanes));
        low[v] = hn::ReorderWidenMulAccumulate(sums, hn::InterleaveLower(words, upper, lower), weight, low[v], none);
        high[v] = hn::ReorderWidenMulAccumulate(sums, hn::InterleaveUpper(words, upper, lower), weight, high[v], none);
      }
    }
    // What was taken apart within each 128 bits is put together there again.
    for (int v = 0; v < vectors; ++v)
      hn::StoreU(hn::ReorderDemote2To(words, hn::ShiftRightSame(low[v], spare), hn::ShiftRightSame(high[v], spare)),
                 words, out + v * lanes);
  }
  std::int16_t sum_one(const std::uint8_t* const* rows, const std::int32_t* weights, int pairs, int x) const {
    const int spare = plan_.row_pairs.bits - part_bits;
    std::int32_t sum = 1 << (spare - 1);
    for (int k = 0; k < pairs; ++k)
      sum += static_cast<std::int16_t>(weights[k] & 0xffff) * rows[2 * k][x] + (weights[k] >> 16) * rows[2 * k + 1][x];
    return static_cast<std::int16_t>(std::clamp(sum >> spare, -32768, 32767));
  }

  /// All rows of the tile at once, which stand side by side, summed over their columns.
  void sum_columns(int left) {
    const int columns = tile_.x1 - tile_.x0, stride = (columns + 3) / 4 * 4;
    buffers_.result.resize(static_cast<std::size_t>(stride) * scale_rows);
    alignas(64) float four[4 * scale_rows];
    for (int i = 0; i < columns; i += 4) {
      sum_four(i, std::min(4, columns - i), left, four);
      for (int row = 0; row < scale_rows; row += 4)
        turn_square(four + row, scale_rows, buffers_.result.data() + static_cast<std::ptrdiff_t>(row) * stride + i,
                    stride);
    }
  }
  /// Up to four columns, side by side so that they need not wait for each other.
  HWY_INLINE void sum_four(int first_column, int count, int left, float* out) const {
    constexpr int rows = static_cast<int>(hn::MaxLanes(floats)), vectors = scale_rows / rows;
    const TapPairs& taps = plan_.column_pairs;
    const auto unit = hn::Set(floats, 1.0F / static_cast<float>(std::int64_t{1} << (taps.bits + part_bits)));
    const hn::Repartition<std::int16_t, Ints> halves;
    const auto* across = reinterpret_cast<const std::int16_t*>(buffers_.across.data());
    const std::int16_t* in[4];
    const std::int32_t* weights[4];
    for (int c = 0; c < 4; ++c) {
      const auto at = static_cast<std::size_t>(tile_.x0 + first_column + std::min(c, count - 1));
      in[c] = across + static_cast<std::ptrdiff_t>(taps.first[at] - left) * scale_rows;
      weights[c] = taps.weights.data() + at * static_cast<std::size_t>(taps.pairs);
    }
    for (int v = 0; v < vectors; ++v) {
      I total[4], none = hn::Zero(ints);
      for (int c = 0; c < 4; ++c) total[c] = hn::Zero(ints);
      for (int k = 0; k < taps.pairs; ++k)
        for (int c = 0; c < 4; ++c)
          total[c] = hn::ReorderWidenMulAccumulate(ints, hn::LoadU(halves, in[c] + (k * scale_rows + v * rows) * 2),
                                                   hn::BitCast(halves, hn::Set(ints, weights[c][k])), total[c], none);
      for (int c = 0; c < 4; ++c)
        hn::StoreU(hn::Mul(hn::ConvertTo(floats, total[c]), unit), floats, out + c * scale_rows + v * rows);
    }
  }

  const ScalePlan& plan_;
  const ScaleTile& tile_;
  ScaleBuffers& buffers_;
  const std::uint8_t* origin_;
  std::ptrdiff_t stride_;
  int width_, height_;
  const std::uint8_t* ahead_[2];
};

void ScaleBytes(const ScalePlan& plan, int band, const ScaleTile& tile, ScaleBuffers& buffers) {
  ByteScaler(plan, band, tile, buffers).run();
}
#endif

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
