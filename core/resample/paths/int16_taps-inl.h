// Weights for blocks of lanes, and sums of taps in 16-bit numbers; compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_INT16_TAPS_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_INT16_TAPS_INL_H
#undef FEXEL_RESAMPLE_INT16_TAPS_INL_H
#else
#define FEXEL_RESAMPLE_INT16_TAPS_INL_H
#endif

#include <hwy/highway.h>

#include "resample/kernels/int16_weights-inl.h"
#include "resample/paths/row_int16.h"

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
#if HWY_TARGET != HWY_SCALAR
static_assert(int16_block == Int16Tile::block);

/// A lane is less than 1 + most pixels away from where its block's first lane has its taps, beside stepping along the
/// row by one pixel a lane. Distances are in units of 2^-15 px, or of 2^-14 where they may exceed two.
template <int most>
inline constexpr int place_bits = most <= 1 ? 15 : 14;
template <int most>
inline constexpr std::uint16_t one_place = 1 << place_bits<most>;

/// How far behind the tap it follows a lane stands, in units of 2^-15 px.
template <int most>
HWY_INLINE Word fraction(Count distance) {
  const auto fine = most <= 1 ? distance : hn::Add(distance, distance);
  return hn::BitCast(int16_tag, most == 0 ? fine : hn::And(fine, hn::Set(count_tag, std::uint16_t{0x7fff})));
}
/// Weights for taps that begin where the block's do, for lanes that stand 0 to `steps` pixels further.
template <int count, int steps>
HWY_INLINE void spread(const Word* w, Count distance, Word* out) {
  for (int k = 0; k < count + steps; ++k) out[k] = k < count ? w[k] : hn::Zero(int16_tag);
  for (int step = 1; step <= steps; ++step) {
    const auto here = hn::RebindMask(
        int16_tag, hn::Gt(distance, hn::Set(count_tag, static_cast<std::uint16_t>(step * one_place<steps> - 1))));
    for (int k = 0; k < count + steps; ++k)
      out[k] = hn::IfThenElse(here, k < step || k - step >= count ? hn::Zero(int16_tag) : w[k - step], out[k]);
  }
}

/// The weights of rows, for lanes that stand at most `down` rows further than where the block's taps begin.
template <class W, int down>
class RowWeights {
 public:
  static constexpr int rows = W::taps + down;
  HWY_INLINE RowWeights(const W& weights, Count distance) {
    Word plain[W::taps];
    weights(fraction<down>(distance), plain);
    for (int part = 0; part < parts; ++part) spread<share, down>(plain + part * share, distance, w_[part]);
  }
  /// The sum of line(0), line(1) ..., which are in units of -2^-7, in units of 2^-7.
  template <class Line>
  HWY_INLINE Word sum(const Line& line) const {
    Word sums[parts];
    for (int r = 0; r < rows; ++r) {
      const auto value = line(r);
      for (int part = 0; part < parts; ++part) {
        const int k = r - part * share;
        if (k < 0 || k >= share + down) continue;
        const auto product = hn::MulFixedPoint15(value, w_[part][k]);
        sums[part] = k == 0 ? product : hn::Add(sums[part], product);
      }
    }
    return parts > 1 ? hn::SaturatedAdd(sums[0], sums[parts - 1]) : sums[0];
  }

 private:
  // What lanczos3 makes of the sharpest patterns does not fit a word; half of its taps do.
  static constexpr int parts = W::taps == 6 ? 2 : 1, share = W::taps / parts;
  Word w_[parts][share + down];
};

/// Samples of 0 to 255 and beyond from sums in units of 2^-7 that count from 128.
HWY_INLINE Word to_samples(Word sum, std::int16_t half) {
  return hn::Add(hn::ShiftRight<7>(hn::SaturatedAdd(sum, all_of(half))), all_of(128));
}
HWY_INLINE auto beyond_bytes(Word samples) {
  return hn::Gt(hn::BitCast(count_tag, samples), hn::Set(count_tag, std::uint16_t{255}));
}
HWY_INLINE void put_bytes(Word samples, std::uint8_t* out) {
  const hn::Rebind<std::uint8_t, Signed> bytes;
  hn::StoreU(hn::DemoteTo(bytes, samples), bytes, out);
}

template <class Body>
void with_int16_weights(Kernel kernel, const Body& body) {
  if (kernel == Kernel::cubic)
    body(CubicInt16Weights());
  else if (kernel == Kernel::lanczos3)
    body(LanczosInt16Weights());
  else
    body(LinearInt16Weights());
}

#endif
}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
