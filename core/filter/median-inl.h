// Medians of small windows by exchanges, compiled once for each instruction set.
#if defined(FEXEL_FILTER_MEDIAN_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_FILTER_MEDIAN_INL_H
#undef FEXEL_FILTER_MEDIAN_INL_H
#else
#define FEXEL_FILTER_MEDIAN_INL_H
#endif

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

/// The median of a window in every lane: the smallest and the largest of more than half of its numbers cannot be it and
/// are forgotten, and one more is looked at (J. L. Smith, 1996, "Implementing median filters"). The numbers stay in
/// registers, so every loop is written out.
template <class T, int side>
class WindowMedian {
 public:
  static constexpr hn::CappedTag<T, 64> tag{};
  using V = hn::Vec<decltype(tag)>;
  static constexpr int lanes = hn::MaxLanes(tag);

  HWY_INLINE explicit WindowMedian(const T* const* rows, int x) : rows_(rows), x_(x) {}
  HWY_INLINE V value() const {
    V some[held];
    HWY_UNROLL(16)
    for (int k = 0; k < held; ++k) some[k] = number(k);
    return reduced<held>(some);
  }

 private:
  static constexpr int held = side * side / 2 + 2;

  HWY_INLINE V number(int k) const { return hn::LoadU(tag, rows_[k / side] + x_ + k % side); }
  static HWY_INLINE void order(V& a, V& b) {
    const V low = hn::Min(a, b);
    b = hn::Max(a, b);
    a = low;
  }
  /// Of `size` held numbers, two are forgotten and one comes, until three are left.
  template <int size>
  HWY_INLINE V reduced(V* some) const {
    HWY_UNROLL(16)
    for (int i = 0; i < size / 2; ++i) order(some[i], some[size - 1 - i]);
    HWY_UNROLL(16)
    for (int i = 1; i < (size + 1) / 2; ++i) order(some[0], some[i]);
    HWY_UNROLL(16)
    for (int i = size / 2; i < size - 1; ++i) order(some[i], some[size - 1]);
    if constexpr (size == 3) {
      return some[1];
    } else {
      some[0] = number(2 * held - size);  // in the place of the smallest; the largest is left behind
      return reduced<size - 1>(some);
    }
  }

  const T* const* rows_;
  int x_;
};

template <class T, int side>
void MedianLine(const T* const* rows, int width, T* out) {
  using Window = WindowMedian<T, side>;
  int x = 0;
  for (; x + Window::lanes <= width; x += Window::lanes) hn::StoreU(Window(rows, x).value(), Window::tag, out + x);
  if (x == width) return;
  // The rows can be read beyond their end, but the result cannot be written there.
  T last[Window::lanes];
  hn::StoreU(Window(rows, x).value(), Window::tag, last);
  std::copy_n(last, width - x, out + x);
}

void MedianBytes(const std::uint8_t* const* rows, int radius, int width, std::uint8_t* out) {
  radius == 1 ? MedianLine<std::uint8_t, 3>(rows, width, out) : MedianLine<std::uint8_t, 5>(rows, width, out);
}
void MedianWords(const std::uint16_t* const* rows, int radius, int width, std::uint16_t* out) {
  radius == 1 ? MedianLine<std::uint16_t, 3>(rows, width, out) : MedianLine<std::uint16_t, 5>(rows, width, out);
}

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
