// The vector code of halve.cpp, compiled once for each instruction set.
#if defined(FEXEL_IMAGE_HALVE_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_IMAGE_HALVE_INL_H
#undef FEXEL_IMAGE_HALVE_INL_H
#else
#define FEXEL_IMAGE_HALVE_INL_H
#endif

#include <vector>

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;
using Floats = hn::CappedTag<float, 16>;
constexpr Floats floats;
using Float = hn::Vec<Floats>;

template <class T>
HWY_INLINE Float samples_at(const T* p) {
  if constexpr (std::is_floating_point_v<T>)
    return hn::LoadU(floats, p);
  else
    return hn::ConvertTo(floats, hn::PromoteTo(hn::RebindToSigned<Floats>(), hn::LoadU(hn::Rebind<T, Floats>(), p)));
}

/// Eight samples, weighted; where they are all alike it is what they are, to the last bit.
HWY_INLINE Float halfway(Float a, Float b, Float c, Float d, Float e, Float f, Float g, Float h) {
  // The kernel at 1/4, 3/4, 5/4 and 7/4 of its unit, halved; outermost first.
  const Float twice = hn::Add(d, d);
  auto sum = hn::Mul(hn::Set(floats, -0.01171875F), hn::Sub(hn::Add(a, h), twice));
  sum = hn::MulAdd(hn::Set(floats, -0.03515625F), hn::Sub(hn::Add(b, g), twice), sum);
  sum = hn::MulAdd(hn::Set(floats, 0.11328125F), hn::Sub(hn::Add(c, f), twice), sum);
  return hn::Add(d, hn::MulAdd(hn::Set(floats, 0.43359375F), hn::Sub(e, d), sum));
}

template <class T>
HWY_INLINE void Halve(const Image& in, int band, int y0, int y1, Image& out) {
  constexpr auto lanes = static_cast<int>(hn::MaxLanes(floats));
  constexpr int before = 16, behind = 2 * lanes + 8;  // of the row, so that vectors may look beyond it
  const int width = in.width(), height = in.height();
  std::vector<float> column(static_cast<std::size_t>(before + width + lanes + behind));
  std::vector<float> half(static_cast<std::size_t>(out.width() + lanes));
  float* middle = column.data() + before;
  std::int64_t clamped = 0;
  for (int y = y0; y < y1; ++y) {
    const T* rows[8];
    for (int k = 0; k < 8; ++k) rows[k] = in.row<T>(band, std::clamp(2 * y - 3 + k, 0, height - 1));
    // Rows have room behind their ends.
    for (int x = 0; x < width; x += lanes) {
      const auto at = [&](int k) HWY_ATTR { return samples_at(rows[k] + x); };
      hn::StoreU(halfway(at(0), at(1), at(2), at(3), at(4), at(5), at(6), at(7)), floats, middle + x);
    }
    std::fill(middle - 4, middle, middle[0]);
    std::fill(middle + width, middle + width + behind, middle[width - 1]);
    for (int x = 0; x < out.width(); x += lanes) {
      // Pixels 2 x − 4 to 2 x + 5, those that stand at even places and those at odd ones.
      Float even[5], odd[5];
      for (int k = 0; k < 5; ++k) hn::LoadInterleaved2(floats, middle + 2 * (x + k) - 4, even[k], odd[k]);
      const Float sum = halfway(odd[0], even[1], odd[1], even[2], odd[2], even[3], odd[3], even[4]);
      hn::StoreU(sum, floats, half.data() + x);
    }
    T* target = out.row<T>(band, y);
    for (int x = 0; x < out.width(); ++x) target[x] = to_sample<T>(half[static_cast<std::size_t>(x)], clamped);
  }
}

void HalveRows(const Image& in, int band, int y0, int y1, Image& out) {
  visit_depth(in.depth(), [&](auto sample) HWY_ATTR { Halve<decltype(sample)>(in, band, y0, y1, out); });
}

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
