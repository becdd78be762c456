// Vectors of 16-bit numbers, and the kernels' weights in them; compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_WORD_TAPS_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_WORD_TAPS_INL_H
#undef FEXEL_RESAMPLE_WORD_TAPS_INL_H
#else
#define FEXEL_RESAMPLE_WORD_TAPS_INL_H
#endif

#include <hwy/highway.h>

#include "resample/kernels/kernel.h"
#include "resample/paths/row_int16.h"

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
#if HWY_TARGET != HWY_SCALAR
namespace hn = hwy::HWY_NAMESPACE;
constexpr int word_block = Words::block;
using Signed = hn::CappedTag<std::int16_t, word_block>;
using Counts = hn::RebindToUnsigned<Signed>;
using Word = hn::Vec<Signed>;
using Count = hn::Vec<Counts>;
constexpr Signed word_tag;
constexpr Counts count_tag;
constexpr std::size_t word_lanes = hn::MaxLanes(word_tag), word_vectors = word_block / word_lanes;

/// A lane is less than 1 + most pixels away from where its block's first lane has its taps, beside stepping along the
/// row by one pixel a lane. Distances are in units of 2^-15 px, or of 2^-14 where they may exceed two.
template <int most>
inline constexpr int place_bits = most <= 1 ? 15 : 14;
template <int most>
inline constexpr std::uint16_t one_place = 1 << place_bits<most>;

/// Weights are in units of -2^-15: of the two signs only the negative one holds a one.
constexpr std::int16_t minus_one = -32768;
HWY_INLINE Word all_of(std::int16_t value) {
  return hn::Set(word_tag, value);
}

struct CubicWordWeights {
  static constexpr int taps = 4;
  HWY_INLINE void operator()(Word t, Word* w) const {
    const auto behind = hn::Add(t, all_of(minus_one));  // t - 1
    const auto half = hn::MulFixedPoint15(hn::ShiftRight<1>(t), behind);
    w[0] = hn::MulFixedPoint15(half, behind);
    const auto last = hn::MulFixedPoint15(half, t);
    w[3] = hn::Neg(last);
    w[2] = hn::Add(hn::Sub(w[0], t), hn::Add(last, last));
    w[1] = hn::SaturatedSub(hn::SaturatedSub(all_of(minus_one), w[2]), hn::Add(w[0], w[3]));
  }
};

/// Even and odd polynomials in u, twice the distance from the middle between two pixels, as LanczosWeights.
struct LanczosWordWeights {
  static constexpr int taps = 6, terms = 4;
  struct Polynomials {
    std::int16_t even[3][terms], odd[3][terms];
    Polynomials() {
      const LanczosFit& fit = lanczos_fit(terms);
      for (int k = 0; k < 3; ++k)
        for (int i = 0; i < terms; ++i) {
          const double scale = std::ldexp(-32768.0, -2 * i);
          even[k][i] = static_cast<std::int16_t>(std::lround(scale * fit.even[k][i]));
          odd[k][i] = static_cast<std::int16_t>(std::lround(scale / 2 * fit.odd[k][i]));
        }
    }
  };
  static const Polynomials& polynomials() {
    static const Polynomials made;
    return made;
  }
  const Polynomials& of = polynomials();
  HWY_INLINE void operator()(Word t, Word* w) const {
    const auto u = hn::Max(hn::Add(hn::Add(t, t), all_of(minus_one)), all_of(minus_one + 1));
    const auto u2 = hn::MulFixedPoint15(u, u);
    for (int k = 0; k < 3; ++k) {
      auto even = all_of(of.even[k][terms - 1]), odd = all_of(of.odd[k][terms - 1]);
      for (int i = terms - 2; i >= 0; --i) {
        even = hn::Add(hn::MulFixedPoint15(even, u2), all_of(of.even[k][i]));
        odd = hn::Add(hn::MulFixedPoint15(odd, u2), all_of(of.odd[k][i]));
      }
      odd = hn::MulFixedPoint15(u, odd);
      w[k] = hn::SaturatedAdd(even, odd);
      w[5 - k] = hn::SaturatedSub(even, odd);
    }
    const auto others = hn::Add(hn::Add(hn::Add(w[0], w[1]), hn::Add(w[4], w[5])), w[3]);
    w[2] = hn::SaturatedSub(all_of(minus_one), others);
  }
};

/// How far behind the tap it follows a lane stands, in units of 2^-15 px.
template <int most>
HWY_INLINE Word fraction(Count distance) {
  const auto fine = most <= 1 ? distance : hn::Add(distance, distance);
  return hn::BitCast(word_tag, most == 0 ? fine : hn::And(fine, hn::Set(count_tag, std::uint16_t{0x7fff})));
}
/// Weights for taps that begin where the block's do, for lanes that stand 0 to `steps` pixels further.
template <int count, int steps>
HWY_INLINE void spread(const Word* w, Count distance, Word* out) {
  for (int k = 0; k < count + steps; ++k) out[k] = k < count ? w[k] : hn::Zero(word_tag);
  for (int step = 1; step <= steps; ++step) {
    const auto here = hn::RebindMask(
        word_tag, hn::Gt(distance, hn::Set(count_tag, static_cast<std::uint16_t>(step * one_place<steps> - 1))));
    for (int k = 0; k < count + steps; ++k)
      out[k] = hn::IfThenElse(here, k < step || k - step >= count ? hn::Zero(word_tag) : w[k - step], out[k]);
  }
}

/// Linear interpolation by weights; along rows of words it goes by shares of what taps differ by instead.
struct LinearWordWeights {
  static constexpr int taps = 2;
  HWY_INLINE void operator()(Word t, Word* w) const {
    w[0] = hn::Add(t, all_of(minus_one));
    w[1] = hn::Neg(t);
  }
};

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
void with_word_weights(Kernel kernel, const Body& body) {
  if (kernel == Kernel::cubic)
    body(CubicWordWeights());
  else if (kernel == Kernel::lanczos3)
    body(LanczosWordWeights());
  else
    body(LinearWordWeights());
}

#endif
}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
