// The vector code of antialias.cpp, compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_WIDENED_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_WIDENED_INL_H
#undef FEXEL_RESAMPLE_WIDENED_INL_H
#else
#define FEXEL_RESAMPLE_WIDENED_INL_H
#endif

#include "resample/paths/taps-inl.h"

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
using Pieces = ShrinkingKernel::Pieces;

/// The widened kernel, its terms in registers where those are wide enough; distances count in pieces. Nothing, exactly,
/// beyond its end: the last piece is that.
class AxisPieces {
 public:
  HWY_INLINE explicit AxisPieces(const Pieces& pieces) : pieces_(pieces) {
#if HWY_TARGET != HWY_SCALAR
    for (int k = 0; k <= Pieces::degree; ++k)
      for (int part = 0; part < parts; ++part)
        terms_[k][part] = hn::Load(floats, pieces.terms[k] + part * static_cast<int>(hn::MaxLanes(floats)));
#endif
  }
  HWY_INLINE F of(F x) const {
    const auto at = hn::Min(hn::Abs(x), hn::Set(floats, Pieces::count - 0.5F));
    const auto piece = hn::ConvertTo(ints, at);
    const auto t = hn::Sub(at, hn::ConvertTo(floats, piece));
    auto sum = term(Pieces::degree, piece);
    for (int k = Pieces::degree - 1; k >= 0; --k) sum = hn::MulAdd(t, sum, term(k, piece));
    return sum;
  }

 private:
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
};

/// One kernel along both axes of the footprint.
class WidenedKernel {
 public:
  HWY_INLINE WidenedKernel(const Pieces& u, const Pieces&, F, F, F, F) : both_(u) {}
  HWY_INLINE F along_u(F x) const { return both_.of(x); }
  HWY_INLINE F along_v(F x) const { return both_.of(x); }

 private:
  AxisPieces both_;
};

/// A kernel for each.
class TwoKernels {
 public:
  HWY_INLINE TwoKernels(const Pieces& u, const Pieces& v, F, F, F, F) : u_(u), v_(v) {}
  HWY_INLINE F along_u(F x) const { return u_.of(x); }
  HWY_INLINE F along_v(F x) const { return v_.of(x); }

 private:
  AxisPieces u_, v_;
};

/// For area: the share of a source pixel that lies under the result pixel along each of the result's axes. It ends half
/// of a result pixel and half of what a source pixel reaches along the axis from the middle.
class SharedArea {
 public:
  HWY_INLINE SharedArea(const Pieces&, const Pieces&, F ux, F uy, F vx, F vy) : u_(ux, uy), v_(vx, vy) {}
  HWY_INLINE F along_u(F x) const { return u_.of(x); }
  HWY_INLINE F along_v(F x) const { return v_.of(x); }

 private:
  struct Axis {
    HWY_INLINE Axis(F right, F down) {
      const auto half = hn::Set(floats, 0.5F), length = hn::Add(hn::Abs(right), hn::Abs(down));
      end_ = hn::MulAdd(half, length, half);
      per_length_ = hn::Div(hn::Set(floats, 1.0F), length);
      most_ = hn::Min(per_length_, hn::Set(floats, 1.0F));
    }
    HWY_INLINE F of(F x) const {
      const auto share = hn::Mul(hn::Sub(end_, hn::Abs(x)), per_length_);
      return hn::Min(hn::Max(share, hn::Zero(floats)), most_);
    }
    F end_, per_length_, most_;
  };
  Axis u_, v_;
};

constexpr int float_lanes = static_cast<int>(hn::MaxLanes(floats));

/// Where rows of taps begin and end that may weigh something, for as many rows as a vector has lanes.
struct TapRows {
  alignas(64) std::int32_t first[float_lanes], last[float_lanes];
  HWY_INLINE TapRows(const WidenedTaps& taps, int from) {
    // A tap of the row stands up to a pixel above, and up to a pixel to the left, of where it is counted.
    const auto y = hn::Iota(floats, static_cast<float>(taps.top + from) - 0.5F);
    auto low = hn::Zero(floats), high = hn::Set(floats, static_cast<float>(taps.columns));
    const auto keep = [&](const WidenedTaps::Band& band) HWY_ATTR {
      if (std::abs(band.right) < 1e-4F) return;
      const float per = 1 / band.right, slope = std::abs(band.down * per);
      const float spare = 1e-2F + 1e-6F * slope * static_cast<float>(std::abs(taps.top) + taps.rows);  // for rounding
      const auto middle =
          hn::NegMulAdd(y, hn::Set(floats, band.down * per), hn::Set(floats, -static_cast<float>(taps.left)));
      const auto reach = hn::Set(floats, std::abs(band.end * per) + 0.5F * slope + spare);
      low = hn::Max(low, hn::Sub(middle, reach));
      high = hn::Min(high, hn::Add(hn::Add(middle, reach), hn::Set(floats, 2.0F)));
    };
    keep(taps.along_u);
    keep(taps.along_v);
    // A row that only touches the corner of the footprint may have none.
    low = hn::Min(low, hn::Set(floats, static_cast<float>(taps.columns)));
    hn::Store(hn::ConvertTo(ints, low), ints, first);
    hn::Store(hn::ConvertTo(ints, hn::Max(high, hn::Zero(floats))), ints, last);
  }
};

/// The means of `most` bands for as many pixels as a vector has lanes: sums of weights, and of weights times what
/// samples differ from one of them, so that equal samples come out as they are. Taps are added in the same order
/// whichever pixels are done together.
template <int most, class T, class Kernel>
HWY_NOINLINE void weighted_means(const WidenedTaps& taps, const Pieces& u, const Pieces& v, std::size_t lane,
                                 const T* in, std::ptrdiff_t stride, std::ptrdiff_t plane, float* out) {
  constexpr int together = 4 / static_cast<int>(sizeof(T));  // samples that one gather brings
  const auto place = hn::Iota(floats, static_cast<float>(taps.first + static_cast<int>(lane)));
  const auto along = [&](const WidenedTaps::Line& line) HWY_ATTR {
    return hn::MulAdd(place, hn::Set(floats, line.step), hn::Set(floats, line.start));
  };
  const F ux = along(taps.ux), uy = along(taps.uy), vx = along(taps.vx), vy = along(taps.vy);
  const Kernel kernel(u, v, ux, uy, vx, vy);
  const F x = hn::Load(floats, taps.x + lane), y = hn::Load(floats, taps.y + lane);
  const I offsets = hn::Load(ints, taps.offset + lane);
  F total = hn::Zero(floats), sums[most], base[most];
  for (int b = 0; b < most; ++b) {
    F line[together];
    gather<together>(in + b * plane, hn::Load(ints, taps.nearest + lane), line);
    base[b] = line[0];
    sums[b] = hn::Zero(floats);
  }
  for (int from = 0; from < taps.rows; from += float_lanes) {
    const TapRows rows(taps, from);
    for (int r = 0; r < std::min(float_lanes, taps.rows - from); ++r) {
      const int row = taps.top + from + r;
      const auto down = hn::Sub(hn::Set(floats, static_cast<float>(row)), y);
      const F u_row = hn::Mul(uy, down), v_row = hn::Mul(vy, down);
      const T* line = in + row * stride + taps.left + rows.first[r];
      auto right = hn::Set(floats, static_cast<float>(taps.left + rows.first[r]));
      for (int c = rows.first[r]; c < rows.last[r]; c += together, line += together) {
        F samples[most][together];
        for (int b = 0; b < most; ++b) gather<together>(line + b * plane, offsets, samples[b]);
        for (int k = 0; k < together; ++k) {
          const auto across = hn::Sub(right, x);
          right = hn::Add(right, hn::Set(floats, 1.0F));
          const auto weight =
              hn::Mul(kernel.along_u(hn::MulAdd(ux, across, u_row)), kernel.along_v(hn::MulAdd(vx, across, v_row)));
          total = hn::Add(total, weight);
          for (int b = 0; b < most; ++b) {
            auto difference = hn::Sub(samples[b][k], base[b]);
            // No weight makes nothing of what is not a number.
            if constexpr (sizeof(T) == 4) difference = hn::IfThenElseZero(hn::Ne(weight, hn::Zero(floats)), difference);
            sums[b] = hn::MulAdd(weight, difference, sums[b]);
          }
        }
      }
    }
  }
  for (int b = 0; b < most; ++b)
    hn::StoreU(hn::Add(base[b], hn::Div(sums[b], total)), floats, out + b * WidenedTaps::pixels + lane);
}

template <class T, class Kernel>
HWY_INLINE void all_means(const WidenedTaps& taps, int count, const Pieces& u, const Pieces& v, const T* in,
                          std::ptrdiff_t stride, std::ptrdiff_t plane, int bands, float* out) {
  for (std::size_t lane = 0; lane < static_cast<std::size_t>(count); lane += hn::Lanes(floats)) {
    int b = 0;
    for (; b + 3 <= bands; b += 3)
      weighted_means<3, T, Kernel>(taps, u, v, lane, in + b * plane, stride, plane, out + b * WidenedTaps::pixels);
    for (; b < bands; ++b)
      weighted_means<1, T, Kernel>(taps, u, v, lane, in + b * plane, stride, plane, out + b * WidenedTaps::pixels);
  }
}

void WidenedMeans(const WidenedTaps& taps, int count, const Pieces& u, const Pieces& v, bool area, Depth depth,
                  const std::byte* in, std::ptrdiff_t stride, std::ptrdiff_t plane, int bands, float* out) {
  visit_depth(depth, [&](auto sample) {
    using T = decltype(sample);
    const T* samples = reinterpret_cast<const T*>(in);
    if (area)
      all_means<T, SharedArea>(taps, count, u, v, samples, stride, plane, bands, out);
    else if (&u == &v)
      all_means<T, WidenedKernel>(taps, count, u, v, samples, stride, plane, bands, out);
    else
      all_means<T, TwoKernels>(taps, count, u, v, samples, stride, plane, bands, out);
  });
}

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
