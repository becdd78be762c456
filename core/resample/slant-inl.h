// The vector code of slant.cpp, compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_SLANT_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_SLANT_INL_H
#undef FEXEL_RESAMPLE_SLANT_INL_H
#else
#define FEXEL_RESAMPLE_SLANT_INL_H
#endif

#include <hwy/cache_control.h>

#include "resample/squares-inl.h"
#include "resample/word_taps-inl.h"

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
#if HWY_TARGET != HWY_SCALAR
using Pairs = hn::Repartition<std::int32_t, Signed>;
using Bytes = hn::Repartition<std::uint8_t, Signed>;
using Pair = hn::Vec<Pairs>;
constexpr Pairs pair_tag;
constexpr Bytes byte_tag;
constexpr std::size_t vector_groups = word_lanes / SlantedLines::group;

/// What groups read, 16 bytes each.
template <std::size_t groups>
HWY_INLINE auto windows(const std::uint8_t* row, const std::int32_t* left) {
  const hn::FixedTag<std::uint8_t, groups * SlantedLines::reads> all;
  if constexpr (groups == 1)
    return hn::LoadU(all, row + left[0]);
  else
    return hn::Combine(all, windows<groups / 2>(row, left + groups / 2), windows<groups / 2>(row, left));
}

/// Lanes with even numbers from the lower halves of `even`, with odd ones from the upper halves of `odd`.
HWY_INLINE Word either(Pair even, Pair odd) {
  return hn::OddEven(hn::BitCast(word_tag, odd), hn::BitCast(word_tag, even));
}
HWY_INLINE Pair pairs(Word words) {
  return hn::BitCast(pair_tag, words);
}

/// Interpolates a vector of a line. Samples are read as pairs of words, 256 (sample − 128), which two taps' weights are
/// multiplied with at once; even and odd lanes by themselves.
template <class W>
class SlantedTaps {
 public:
  static constexpr int taps = W::taps, pairs_of_taps = taps / 2;
  HWY_INLINE SlantedTaps(const W& weights, const std::int32_t* even, const std::int32_t* odd,
                         const std::int32_t* parts, std::size_t group) {
    // A group's part in each of its lanes.
    alignas(16) static constexpr std::int32_t of_group[4] = {0x03020100, 0x07060504, 0x0b0a0908, 0x0f0e0d0c};
    alignas(64) std::int32_t places[hn::MaxLanes(pair_tag)];
    for (std::size_t i = 0; i < hn::MaxLanes(pair_tag); ++i) places[i] = of_group[group + i / 4];
    const auto part = hn::TableLookupBytes(hn::LoadDup128(pair_tag, parts), hn::Load(pair_tag, places));
    const auto e = hn::Add(hn::Load(pair_tag, even), part), o = hn::Add(hn::Load(pair_tag, odd), part);
    const auto t = hn::And(either(e, hn::ShiftLeft<16>(o)), all_of(0x7fff));
    Word w[taps];
    weights(t, w);
    for (int k = 0; k < pairs_of_taps; ++k) {
      even_weights_[k] = either(pairs(w[2 * k]), hn::ShiftLeft<16>(pairs(w[2 * k + 1])));
      odd_weights_[k] = either(hn::ShiftRight<16>(pairs(w[2 * k])), pairs(w[2 * k + 1]));
    }
    even_index_[0] = first_index(e);
    odd_index_[0] = first_index(o);
    const auto two = hn::Set(pair_tag, 0x02000200);
    for (int k = 1; k < pairs_of_taps; ++k) {
      even_index_[k] = hn::Add(even_index_[k - 1], two);
      odd_index_[k] = hn::Add(odd_index_[k - 1], two);
    }
  }
  /// A row of samples under the weights, in units of -2^-7, rounded down.
  HWY_INLINE Word line(hn::Vec<Bytes> window) const {
    const auto samples = hn::Xor(window, hn::Set(byte_tag, std::uint8_t{0x80}));
    auto none = hn::Zero(pair_tag), even = none, odd = none;
    for (int k = 0; k < pairs_of_taps; ++k) {
      even = taken(samples, even_index_[k], even_weights_[k], even);
      odd = taken(samples, odd_index_[k], odd_weights_[k], odd);
    }
    return either(hn::BitCast(pair_tag, hn::ShiftRight<16>(even)), odd);
  }

 private:
  /// In each word nothing and a sample, of this tap and the next.
  static HWY_INLINE Pair first_index(Pair distance) {
    const auto here = hn::And(hn::ShiftRight<7>(distance), hn::Set(pair_tag, 0x0f00));
    const auto next = hn::And(hn::ShiftLeft<9>(distance), hn::Set(pair_tag, 0x0f000000));
    return hn::Add(hn::Or(here, next), hn::Set(pair_tag, 0x01800080));
  }
  static HWY_INLINE Pair taken(hn::Vec<Bytes> samples, Pair index, Word weights, Pair sum) {
    auto none = hn::Zero(pair_tag);
    const auto words = hn::BitCast(word_tag, hn::TableLookupBytesOr0(samples, hn::BitCast(byte_tag, index)));
    return hn::ReorderWidenMulAccumulate(pair_tag, words, weights, sum, none);
  }
  Pair even_index_[pairs_of_taps], odd_index_[pairs_of_taps];
  Word even_weights_[pairs_of_taps], odd_weights_[pairs_of_taps];
};

/// All lines of a cell, band by band. `in` is pixel (0, 0) of the first band. Nothing is called here: constants stay in
/// registers.
template <class W, int down>
HWY_NOINLINE void RunSlanted(const SlantedLines& cell, const SlantedSource& source, std::uint8_t* out,
                             std::uint32_t* beyond) {
  const W weights;
  const int lines = cell.lines;
  for (int l = 0; l < lines; ++l) {
    const SlantedLines::Start& start = cell.starts[static_cast<std::size_t>(l)];
    const std::uint8_t* in = source.origin + start.top * source.stride;
    hwy::Prefetch(in + source.ahead + start.left[0]);
    hwy::Prefetch(in + source.ahead + start.left[SlantedLines::groups - 1]);
    for (std::size_t v = 0; v < word_vectors; ++v) {
      const std::size_t group = v * vector_groups;
      const SlantedTaps<W> taps(weights, cell.even.data() + v * word_lanes / 2, cell.odd.data() + v * word_lanes / 2,
                                start.part.data(), group);
      const auto distance = hn::Add(hn::Load(count_tag, cell.below.data() + v * word_lanes),
                                    hn::Set(count_tag, static_cast<std::uint16_t>(start.under)));
      const RowWeights<W, down> rows(weights, distance);
      const std::uint8_t* p = in;
      for (int band = 0; band < source.bands; ++band, p += source.plane) {
        const auto sum = rows.sum([&](int r) HWY_ATTR {
          return taps.line(windows<vector_groups>(p + r * source.stride, start.left.data() + group));
        });
        // Lines are rounded down and their signs are turned: sums are half a unit too much.
        const auto samples = to_samples(sum, 63);
        const std::ptrdiff_t place = static_cast<std::ptrdiff_t>(band) * SlantedLines::most_lines + l;
        if constexpr (W::taps > 2) {
          const auto outside = beyond_bytes(samples);
          if (HWY_UNLIKELY(!hn::AllFalse(count_tag, outside)))
            hn::StoreMaskBits(count_tag, outside, reinterpret_cast<std::uint8_t*>(beyond + place) + v * word_lanes / 8);
        }
        put_bytes(samples, out + place * SlantedLines::lanes + static_cast<std::ptrdiff_t>(v * word_lanes));
      }
    }
  }
}

bool RunSlantedLines(Kernel kernel, const SlantedLines& cell, const SlantedSource& source, std::uint8_t* out,
                     std::uint32_t* beyond) {
  with_word_weights(kernel, [&](auto weights) {
    using W = decltype(weights);
    if (cell.most_down == 1)
      RunSlanted<W, 1>(cell, source, out, beyond);
    else
      RunSlanted<W, 2>(cell, source, out, beyond);
  });
  return true;
}

/// Lanes of lines go up by their steps, so that lines become rows. `lines` is used up.
void StraightenLines(const SlantedLines& cell, std::uint8_t* lines) {
  using All = hn::CappedTag<std::uint8_t, 64>;
  constexpr All all;
  constexpr std::size_t at_once = hn::MaxLanes(all);
  static_assert(at_once >= SlantedLines::lanes);
  for (int step = 1; step < SlantedLines::lanes; step *= 2) {
    alignas(64) std::uint8_t goes[at_once];
    bool any = false;
    for (std::size_t i = 0; i < at_once; ++i) {
      goes[i] = cell.steps[i % SlantedLines::lanes] & step ? 255 : 0;
      any = any || goes[i];
    }
    if (!any) continue;
    const auto here = hn::MaskFromVec(hn::Load(all, goes));
    const std::size_t end = static_cast<std::size_t>(cell.lines) * SlantedLines::lanes;
    const std::size_t on = static_cast<std::size_t>(step) * SlantedLines::lanes;
    for (std::size_t i = 0; i + on < end; i += at_once)
      hn::StoreU(hn::IfThenElse(here, hn::LoadU(all, lines + i + on), hn::LoadU(all, lines + i)), all, lines + i);
  }
}
/// Rows of 32 become columns; as many as there are squares.
void TurnLines(const std::uint8_t* in, int rows, std::uint8_t* out, std::ptrdiff_t out_stride) {
  constexpr int side = square_side<std::uint8_t>;
  for (int r = 0; r < rows; r += side)
    for (int k = 0; k < SlantedLines::lanes; k += side)
      turn_one_square(in + r * SlantedLines::lanes + k, SlantedLines::lanes, out + k * out_stride + r, out_stride);
}
#else
// One pixel at a time, lines gain nothing.
bool RunSlantedLines(Kernel, const SlantedLines&, const SlantedSource&, std::uint8_t*, std::uint32_t*) {
  return false;
}
void StraightenLines(const SlantedLines&, std::uint8_t*) {}
void TurnLines(const std::uint8_t*, int, std::uint8_t*, std::ptrdiff_t) {}
#endif
}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
