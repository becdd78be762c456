// The vector code of widened.cpp, compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_WIDENED_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_WIDENED_INL_H
#undef FEXEL_RESAMPLE_WIDENED_INL_H
#else
#define FEXEL_RESAMPLE_WIDENED_INL_H
#endif

#include "resample/vectors-inl.h"

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
using Pieces = ShrinkingKernel::Pieces;

/// The widened kernel, its terms in registers where those are wide enough. Nothing, exactly, beyond its end.
class WidenedKernel {
 public:
  HWY_INLINE explicit WidenedKernel(const Pieces& pieces)
      : pieces_(pieces), per_pixel_(hn::Set(floats, pieces.per_pixel)) {
#if HWY_TARGET != HWY_SCALAR
    for (int k = 0; k <= Pieces::degree; ++k)
      for (int part = 0; part < parts; ++part)
        terms_[k][part] = hn::Load(floats, pieces.terms[k] + part * static_cast<int>(hn::MaxLanes(floats)));
#endif
  }
  HWY_INLINE F along_u(F x) const {
    return value(x);
  }
  HWY_INLINE F along_v(F x) const {
    return value(x);
  }

 private:
  HWY_INLINE F value(F x) const {
    const auto at = hn::Mul(hn::Abs(x), per_pixel_);
    // The nearest whole number below, or one less where it is whole itself: there two pieces meet. It stands in the
    // last bits of a large float.
    const auto least = hn::Min(at, hn::Set(floats, Pieces::count - 0.5F));
    const auto counted = hn::Add(hn::Sub(least, hn::Set(floats, 0.5F)), hn::Set(floats, ones));
    const auto t = hn::Sub(at, hn::Sub(counted, hn::Set(floats, ones)));
    const auto piece = hn::And(hn::BitCast(ints, counted), hn::Set(ints, Pieces::count - 1));
    auto sum = term(Pieces::degree, piece);
    for (int k = Pieces::degree - 1; k >= 0; --k) sum = hn::MulAdd(t, sum, term(k, piece));
    return hn::IfThenElseZero(hn::Lt(at, hn::Set(floats, float{Pieces::count})), sum);
  }
#if HWY_TARGET == HWY_SCALAR
  F term(int k, I piece) const {
    return hn::Set(floats, pieces_.terms[k][hn::GetLane(piece)]);
  }
#else
  static constexpr int parts = Pieces::count / static_cast<int>(hn::MaxLanes(floats));
  static_assert(parts == 1 || parts == 2, "vectors of 8 or 16 floats");
  HWY_INLINE F term(int k, I piece) const {
    if constexpr (parts == 1) return hn::TableLookupLanes(terms_[k][0], hn::IndicesFromVec(floats, piece));
    const auto last = hn::Set(ints, Pieces::count / parts - 1);
    const auto within = hn::IndicesFromVec(floats, hn::And(piece, last));
    return hn::IfThenElse(hn::RebindMask(floats, hn::Gt(piece, last)),
                          hn::TableLookupLanes(terms_[k][parts - 1], within),
                          hn::TableLookupLanes(terms_[k][0], within));
  }
  F terms_[Pieces::degree + 1][parts];
#endif
  const Pieces& pieces_;
  F per_pixel_;
};

/// For area: the share of a source pixel that lies under the result pixel along each of the result's axes. It ends half
/// of a result pixel and half of what a source pixel reaches along the axis from the middle.
class SharedArea {
 public:
  HWY_INLINE SharedArea(float end_u, float end_v) : u_(end_u), v_(end_v) {}
  HWY_INLINE F along_u(F x) const { return u_.of(x); }
  HWY_INLINE F along_v(F x) const { return v_.of(x); }

 private:
  struct Axis {
    HWY_INLINE explicit Axis(float end) : end_(hn::Set(floats, end)), per_length_(hn::Set(floats, 1 / (2 * end - 1))) {}
    HWY_INLINE F of(F x) const {
      const auto share = hn::Mul(hn::Sub(end_, hn::Abs(x)), per_length_);
      return hn::Min(hn::Max(share, hn::Zero(floats)), hn::Set(floats, 1.0F));
    }
    F end_, per_length_;
  };
  Axis u_, v_;
};

constexpr int float_lanes = static_cast<int>(hn::MaxLanes(floats));

/// Where rows of taps begin and end that may weigh something, for as many rows as a vector has lanes.
struct TapRows {
  alignas(64) std::int32_t first[float_lanes], last[float_lanes];
  HWY_INLINE TapRows(const WidenedTaps& taps, int from) {
    const auto y = hn::Iota(floats, taps.y + static_cast<float>(from));
    auto low = hn::Zero(floats), high = hn::Set(floats, static_cast<float>(taps.columns));
    const auto keep = [&](float along, float down, float end) HWY_ATTR {
      constexpr float spare = 1e-2F;  // for rounding
      if (std::abs(along) < 1e-4F) return;
      const float per = 1 / along;
      const auto middle = hn::NegMulAdd(y, hn::Set(floats, down * per), hn::Set(floats, -taps.x));
      const auto reach = hn::Set(floats, std::abs(end * per) + spare);
      low = hn::Max(low, hn::Sub(middle, reach));
      high = hn::Min(high, hn::Add(hn::Add(middle, reach), hn::Set(floats, 1.0F)));
    };
    keep(taps.ux, taps.uy, taps.end_u);
    keep(taps.vx, taps.vy, taps.end_v);
    // A row that only touches the corner of the footprint may have none.
    low = hn::Min(low, hn::Set(floats, static_cast<float>(taps.columns)));
    hn::Store(hn::ConvertTo(ints, low), ints, first);
    hn::Store(hn::ConvertTo(ints, hn::Max(high, hn::Zero(floats))), ints, last);
  }
};

/// Sums over taps for `most` bands: of the weights, and of weights times what samples differ from one of them, so that
/// equal samples come out as they are.
template <int most, class T, class Kernel>
class TapSums {
 public:
  HWY_INLINE TapSums(const Kernel& kernel, const WidenedTaps& taps, const T* in, std::ptrdiff_t stride,
                     std::ptrdiff_t plane)
      : kernel_(kernel), plane_(plane), x_(taps.x), ux_(hn::Set(floats, taps.ux)), vx_(hn::Set(floats, taps.vx)) {
    for (int b = 0; b < most; ++b) {
      sums_[b] = hn::Zero(floats);
      base_[b] = hn::Set(floats, static_cast<float>(in[b * plane + taps.rows / 2 * stride + taps.columns / 2]));
    }
  }
  struct Row {
    const T* in;
    F u, v;  // of x = 0
    int last;
  };
  HWY_INLINE void add(const Row& row, int c) {
    const auto x = hn::Iota(floats, x_ + static_cast<float>(c));
    const auto weight = hn::Mul(kernel_.along_u(hn::MulAdd(ux_, x, row.u)), kernel_.along_v(hn::MulAdd(vx_, x, row.v)));
    total_ = hn::Add(total_, weight);
    for (int b = 0; b < most; ++b) {
      auto difference = hn::Sub(load(row.in + b * plane_ + c), base_[b]);
      // No weight makes nothing of what is not a number.
      if constexpr (sizeof(T) == 4)
        difference =
            hn::IfThenElseZero(hn::FirstN(floats, static_cast<std::size_t>(std::max(row.last - c, 0))), difference);
      sums_[b] = hn::MulAdd(weight, difference, sums_[b]);
    }
  }
  HWY_INLINE void write(float* out) const {
    const float inverse = 1 / hn::GetLane(hn::SumOfLanes(floats, total_));
    for (int b = 0; b < most; ++b)
      out[b] = hn::GetLane(base_[b]) + inverse * hn::GetLane(hn::SumOfLanes(floats, sums_[b]));
  }

 private:
  const Kernel kernel_;
  std::ptrdiff_t plane_;
  float x_;
  F ux_, vx_, total_ = hn::Zero(floats);
  F sums_[most], base_[most];
};

template <int most, class T, class Kernel>
HWY_INLINE void weighted_means(const WidenedTaps& taps, const Kernel& kernel, const T* in, std::ptrdiff_t stride,
                               std::ptrdiff_t plane, float* out) {
  TapSums<most, T, Kernel> sums(kernel, taps, in, stride, plane);
  for (int from = 0; from < taps.rows; from += float_lanes) {
    const TapRows rows(taps, from);
    const int count = std::min(float_lanes, taps.rows - from);
    const auto row = [&](int r) HWY_ATTR {
      const float y = taps.y + static_cast<float>(from + r);
      return typename TapSums<most, T, Kernel>::Row{in + (from + r) * stride, hn::Set(floats, taps.uy * y),
                                                    hn::Set(floats, taps.vy * y), rows.last[r]};
    };
    // Two rows at a time: each is a chain of operations that wait for each other.
    for (int r = 0; r < count; r += 2) {
      const int next = std::min(r + 1, count - 1);
      const auto one = row(r), other = row(next);
      int c = rows.first[r], d = next > r ? rows.first[next] : other.last;
      for (; c < one.last && d < other.last; c += float_lanes, d += float_lanes) {
        sums.add(one, c);
        sums.add(other, d);
      }
      for (; c < one.last; c += float_lanes) sums.add(one, c);
      for (; d < other.last; d += float_lanes) sums.add(other, d);
    }
  }
  sums.write(out);
}

template <class T>
HWY_INLINE void widened(const Pieces* pieces, const WidenedTaps& taps, const T* in, std::ptrdiff_t stride,
                        std::ptrdiff_t plane, int bands, float* out) {
  const auto with = [&](const auto& kernel) HWY_ATTR {
    int b = 0;
    for (; b + 3 <= bands; b += 3) weighted_means<3>(taps, kernel, in + b * plane, stride, plane, out + b);
    for (; b < bands; ++b) weighted_means<1>(taps, kernel, in + b * plane, stride, plane, out + b);
  };
  if (pieces)
    with(WidenedKernel(*pieces));
  else
    with(SharedArea(taps.end_u, taps.end_v));
}
void WidenedU8(const Pieces* pieces, const WidenedTaps& taps, const std::uint8_t* in, std::ptrdiff_t stride,
               std::ptrdiff_t plane, int bands, float* out) {
  widened(pieces, taps, in, stride, plane, bands, out);
}
void WidenedU16(const Pieces* pieces, const WidenedTaps& taps, const std::uint16_t* in, std::ptrdiff_t stride,
                std::ptrdiff_t plane, int bands, float* out) {
  widened(pieces, taps, in, stride, plane, bands, out);
}
void WidenedF32(const Pieces* pieces, const WidenedTaps& taps, const float* in, std::ptrdiff_t stride,
                std::ptrdiff_t plane, int bands, float* out) {
  widened(pieces, taps, in, stride, plane, bands, out);
}

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
