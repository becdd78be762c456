// The vector types and conversions that the resampling loops share, compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_VECTORS_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_VECTORS_INL_H
#undef FEXEL_RESAMPLE_VECTORS_INL_H
#else
#define FEXEL_RESAMPLE_VECTORS_INL_H
#endif

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

using Floats = hn::CappedTag<float, 16>;
using Ints = hn::Rebind<std::int32_t, Floats>;
using Unsigned = hn::Rebind<std::uint32_t, Floats>;
using F = hn::Vec<Floats>;
using I = hn::Vec<Ints>;
constexpr Floats floats;
constexpr Ints ints;
constexpr Unsigned unsigneds;

/// Adding this to a float of up to four millions leaves its nearest whole number in the last bits of the sum.
constexpr float ones = 12582912.0F;
HWY_INLINE I nearest(F value) {
  const auto counter = hn::Set(floats, ones);
  return hn::Sub(hn::BitCast(ints, hn::Add(value, counter)), hn::BitCast(ints, counter));
}

/// Samples side by side, as many as a vector has lanes.
HWY_INLINE F load(const float* p) {
  return hn::LoadU(floats, p);
}
template <class T>
HWY_INLINE F load(const T* p) {
  return hn::ConvertTo(floats, hn::PromoteTo(ints, hn::LoadU(hn::Rebind<T, Floats>(), p)));
}

/// Writes a vector, rounded and clamped to u8 or u16. The lanes from `count_from` on are looked at for clamping.
template <class T>
HWY_INLINE void put(F value, T* out, bool overshoots, std::size_t count_from, std::int64_t& clamped) {
  constexpr std::uint32_t top = sizeof(T) == 1 ? 255 : 65535;
  const auto rounded = nearest(value);
  if (overshoots) {
    const auto outside = hn::Gt(hn::BitCast(unsigneds, rounded), hn::Set(unsigneds, top));
    if (HWY_UNLIKELY(!hn::AllFalse(unsigneds, outside))) {
      const auto counted = hn::AndNot(hn::FirstN(unsigneds, count_from), outside);
      clamped += static_cast<std::int64_t>(hn::CountTrue(unsigneds, counted));
    }
  }
  hn::StoreU(hn::DemoteTo(hn::Rebind<T, Floats>(), rounded), hn::Rebind<T, Floats>(), out);
}
HWY_INLINE void put(F value, float* out, bool, std::size_t, std::int64_t&) {
  hn::StoreU(value, floats, out);
}

/// Writes 4 x 4 numbers, read row by row, column by column.
HWY_INLINE void turn_square(const float* in, std::ptrdiff_t in_stride, float* out, std::ptrdiff_t out_stride) {
#if HWY_TARGET == HWY_SCALAR
  for (int row = 0; row < 4; ++row)
    for (int column = 0; column < 4; ++column) out[column * out_stride + row] = in[row * in_stride + column];
#else
  const hn::FixedTag<float, 4> four;
  const hn::FixedTag<double, 2> pairs;
  const auto a = hn::LoadU(four, in), b = hn::LoadU(four, in + in_stride);
  const auto c = hn::LoadU(four, in + 2 * in_stride), d = hn::LoadU(four, in + 3 * in_stride);
  const auto left_ab = hn::BitCast(pairs, hn::InterleaveLower(four, a, b));
  const auto left_cd = hn::BitCast(pairs, hn::InterleaveLower(four, c, d));
  const auto right_ab = hn::BitCast(pairs, hn::InterleaveUpper(four, a, b));
  const auto right_cd = hn::BitCast(pairs, hn::InterleaveUpper(four, c, d));
  hn::StoreU(hn::BitCast(four, hn::InterleaveLower(pairs, left_ab, left_cd)), four, out);
  hn::StoreU(hn::BitCast(four, hn::InterleaveUpper(pairs, left_ab, left_cd)), four, out + out_stride);
  hn::StoreU(hn::BitCast(four, hn::InterleaveLower(pairs, right_ab, right_cd)), four, out + 2 * out_stride);
  hn::StoreU(hn::BitCast(four, hn::InterleaveUpper(pairs, right_ab, right_cd)), four, out + 3 * out_stride);
#endif
}

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
