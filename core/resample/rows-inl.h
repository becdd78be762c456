// The vector code of rows.cpp, compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_ROWS_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_ROWS_INL_H
#undef FEXEL_RESAMPLE_ROWS_INL_H
#else
#define FEXEL_RESAMPLE_ROWS_INL_H
#endif

#include "resample/vectors-inl.h"

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
/// Pixels that are interpolated together, and whose coordinates are worked out together.
constexpr int block = 16;
constexpr int segment = 64;
constexpr int fraction_bits = 24;
constexpr std::int32_t one_pixel = 1 << fraction_bits;
constexpr std::int32_t fraction_mask = one_pixel - 1;
constexpr int coarse_bits = fraction_bits - 14;

/// Source coordinates, minus a half, of a segment of a row: whole numbers to count from, and each pixel's distance from
/// them in units of 2^-24 px.
class Walk {
 public:
  Walk(const Matrix3& m, int x, int y, int count)
      : u_(m(0, 0)),
        v_(m(1, 0)),
        w_(m(2, 0)),
        x_(x + 0.5),
        start_u_(m(0, 1) * (y + 0.5) + m(0, 2)),
        start_v_(m(1, 1) * (y + 0.5) + m(1, 2)),
        start_w_(m(2, 1) * (y + 0.5) + m(2, 2)) {
    if (w_ == 0) {
      u_ /= start_w_, v_ /= start_w_, start_u_ /= start_w_, start_v_ /= start_w_, start_w_ = 1;
      const hn::Rebind<double, hn::Half<Ints>> doubles;
      const hn::Half<Ints> half;
      const auto u = hn::Set(doubles, u_ * one_pixel), v = hn::Set(doubles, v_ * one_pixel);
      for (std::size_t k = 0; k < segment; k += hn::Lanes(doubles)) {
        const auto place = hn::Iota(doubles, static_cast<double>(k));
        hn::Store(hn::DemoteTo(half, hn::Mul(place, u)), half, offset_x_ + k);
        hn::Store(hn::DemoteTo(half, hn::Mul(place, v)), half, offset_y_ + k);
      }
    } else {
      // A cubic between exact ends and slopes is off by at most (change of w along it / w)^3 / 16 of its length.
      const double least = std::min(w_ * x_ + start_w_, w_ * (x_ + count + segment) + start_w_);
      mild_ = least > 0 && std::abs(w_) < 4e-5 * least;
    }
  }

  /// Whole pixels from there to pixel i of the segment.
  int whole_dx(int i) const { return (w_ == 0 ? part_x_ + offset_x_[i] : dx[i]) >> fraction_bits; }
  int whole_dy(int i) const { return (w_ == 0 ? part_y_ + offset_y_[i] : dy[i]) >> fraction_bits; }

  std::int64_t x = 0, y = 0;
  alignas(64) std::int32_t dx[segment], dy[segment];  // once detail() was called

  /// Where the map is affine: coordinates, minus a half, of pixel i of the row and what they change by from pixel to
  /// pixel, in units of 2^-32 px.
  struct Line {
    std::int64_t x, y, step_x, step_y;
  };
  bool straight() const { return w_ == 0; }
  Line line(int i) const {
    constexpr double unit = 4294967296.0;
    return {std::llround((u_ * (x_ + i) + start_u_ - 0.5) * unit),
            std::llround((v_ * (x_ + i) + start_v_ - 0.5) * unit), std::llround(u_ * unit), std::llround(v_ * unit)};
  }

  /// Works out dx and dy, where at() has left that for when they are needed.
  HWY_INLINE void detail() {
    if (detailed_) return;
    detailed_ = true;
    const auto part_x = hn::Set(ints, part_x_), part_y = hn::Set(ints, part_y_);
    for (std::size_t k = 0; k < segment; k += hn::Lanes(ints)) {
      hn::Store(hn::Add(part_x, hn::Load(ints, offset_x_ + k)), ints, dx + k);
      hn::Store(hn::Add(part_y, hn::Load(ints, offset_y_ + k)), ints, dy + k);
    }
  }

  /// Works out the segment that begins at pixel i of the row, `pixels` of it; false where the map is too steep for it.
  HWY_INLINE bool at(int i, int pixels) {
    if (w_ == 0) return step(i, pixels);
    return mild_ && bend(i, pixels) ? true : divide(i, pixels);
  }

  /// The pixels [first, second) of the row's `count` that lie inside a box of samples, both given as pixel centres;
  /// none when the row meets the horizon.
  std::pair<int, int> inside(int count, double left, double top, double right, double bottom) const {
    double first = 0, last = count - 1;
    const auto keep = [&](double slope, double start) {  // where slope i + start >= 0
      start += slope * x_;
      if (slope > 0) first = std::max(first, -start / slope);
      if (slope < 0) last = std::min(last, -start / slope);
      if (slope == 0 && start < 0) last = -1;
    };
    keep(w_, start_w_);
    keep(u_ - left * w_, start_u_ - left * start_w_);
    keep(v_ - top * w_, start_v_ - top * start_w_);
    keep(right * w_ - u_, right * start_w_ - start_u_);
    keep(bottom * w_ - v_, bottom * start_w_ - start_v_);
    if (!(first <= last)) return {0, 0};
    return {static_cast<int>(std::ceil(first)), static_cast<int>(std::floor(last)) + 1};
  }

 private:
  static constexpr double most_pixels = 120;  // what 32 bits hold
  HWY_INLINE void count_from(double u, double v) {
    x = static_cast<std::int64_t>(std::floor(u));
    y = static_cast<std::int64_t>(std::floor(v));
  }

  HWY_INLINE bool step(int i, int pixels) {
    if (std::max(std::abs(u_), std::abs(v_)) * pixels > most_pixels) return false;
    const double u = u_ * (x_ + i) + start_u_ - 0.5, v = v_ * (x_ + i) + start_v_ - 0.5;
    count_from(u, v);
    part_x_ = static_cast<std::int32_t>((u - static_cast<double>(x)) * one_pixel);
    part_y_ = static_cast<std::int32_t>((v - static_cast<double>(y)) * one_pixel);
    detailed_ = false;
    return true;
  }

  /// Exact coordinates at a pixel's place, and their change over a segment if it went on like that.
  struct Node {
    double u, v, du, dv;
  };
  Node node(int i) const {
    const double at = x_ + i, inverse = 1 / (w_ * at + start_w_);
    const double u = (u_ * at + start_u_) * inverse, v = (v_ * at + start_v_) * inverse;
    return {u - 0.5, v - 0.5, segment * (u_ - u * w_) * inverse, segment * (v_ - v * w_) * inverse};
  }
  /// slope i + s (a + s (b + s c)) for s = i / 64, in units of 2^-24 px; the floats hold only what is small.
  static HWY_INLINE void draw(double part, double way, double start, double end, std::int32_t* out) {
    const auto slope = static_cast<std::int32_t>(start * (one_pixel / segment));
    const auto from = hn::Set(ints, static_cast<std::int32_t>(part * one_pixel));
    const auto a = hn::Set(floats, static_cast<float>(start * one_pixel - static_cast<double>(slope) * segment));
    const auto b = hn::Set(floats, static_cast<float>((3 * way - 2 * start - end) * one_pixel));
    const auto c = hn::Set(floats, static_cast<float>((start + end - 2 * way) * one_pixel));
    for (std::size_t k = 0; k < segment; k += hn::Lanes(ints)) {
      const auto s = hn::Mul(hn::Iota(floats, static_cast<float>(k)), hn::Set(floats, 1.0F / segment));
      const auto bent = nearest(hn::Mul(s, hn::MulAdd(hn::MulAdd(c, s, b), s, a)));
      const auto straight = hn::Mul(hn::Iota(ints, static_cast<std::int32_t>(k)), hn::Set(ints, slope));
      hn::Store(hn::Add(from, hn::Add(straight, bent)), ints, out + k);
    }
  }
  HWY_INLINE bool bend(int i, int pixels) {
    const Node from = i == next_at_ ? next_ : node(i);
    next_ = node(i + segment);
    next_at_ = i + segment;
    const double most =
        std::max(std::max(std::abs(from.du), std::abs(from.dv)), std::max(std::abs(next_.du), std::abs(next_.dv)));
    const double bends = std::max(std::abs(next_.du - from.du), std::abs(next_.dv - from.dv));
    if (!(most * pixels < most_pixels * segment && most < most_pixels && bends < 0.1)) return false;
    count_from(from.u, from.v);
    draw(from.u - static_cast<double>(x), next_.u - from.u, from.du, next_.du, dx);
    draw(from.v - static_cast<double>(y), next_.v - from.v, from.dv, next_.dv, dy);
    return true;
  }

  /// One division a pixel.
  HWY_INLINE bool divide(int i, int pixels) {
    const double first = x_ + i, last = first + pixels;
    const double w0 = w_ * first + start_w_, w1 = w_ * last + start_w_;
    const double x0 = (u_ * first + start_u_) / w0 - 0.5, y0 = (v_ * first + start_v_) / w0 - 0.5;
    const double x1 = (u_ * last + start_u_) / w1 - 0.5, y1 = (v_ * last + start_v_) / w1 - 0.5;
    if (!(w1 > 0 && std::max(std::abs(x1 - x0), std::abs(y1 - y0)) < most_pixels)) return false;
    count_from(x0, y0);
    const hn::Rebind<double, hn::Half<Ints>> doubles;
    const hn::Half<Ints> half;
    const auto unit = hn::Set(doubles, one_pixel);
    const auto base_x = hn::Set(doubles, (static_cast<double>(x) + 0.5) * one_pixel);
    const auto base_y = hn::Set(doubles, (static_cast<double>(y) + 0.5) * one_pixel);
    for (std::size_t k = 0; k < static_cast<std::size_t>(pixels); k += hn::Lanes(doubles)) {
      const auto place = hn::Add(hn::Iota(doubles, static_cast<double>(k)), hn::Set(doubles, first));
      const auto w = hn::Div(unit, hn::MulAdd(hn::Set(doubles, w_), place, hn::Set(doubles, start_w_)));
      const auto u = hn::MulAdd(hn::Set(doubles, u_), place, hn::Set(doubles, start_u_));
      const auto v = hn::MulAdd(hn::Set(doubles, v_), place, hn::Set(doubles, start_v_));
      hn::Store(hn::DemoteTo(half, hn::MulSub(u, w, base_x)), half, dx + k);
      hn::Store(hn::DemoteTo(half, hn::MulSub(v, w, base_y)), half, dy + k);
    }
    return true;
  }

  double u_, v_, w_, x_, start_u_, start_v_, start_w_;
  bool mild_ = false, detailed_ = true;
  int next_at_ = -1;
  std::int32_t part_x_ = 0, part_y_ = 0;
  Node next_{};
  alignas(64) std::int32_t offset_x_[segment], offset_y_[segment];
};

struct LinearWeights {
  static constexpr int taps = 2;
  HWY_INLINE void operator()(F t, F* w) const {
    w[0] = hn::Sub(hn::Set(floats, 1.0F), t);
    w[1] = t;
  }
};

struct CubicWeights {
  static constexpr int taps = 4;
  HWY_INLINE void operator()(F t, F* w) const {
    const auto half = hn::Set(floats, 0.5F), one = hn::Set(floats, 1.0F);
    const auto t2 = hn::Mul(t, t);
    w[0] = hn::Mul(t, hn::Sub(hn::NegMulAdd(half, t2, t), half));
    w[1] = hn::MulAdd(hn::MulSub(hn::Set(floats, 1.5F), t, hn::Set(floats, 2.5F)), t2, one);
    w[3] = hn::Mul(t2, hn::MulSub(half, t, half));
    w[2] = hn::Sub(hn::Sub(one, hn::Add(w[0], w[3])), w[1]);
  }
};

struct SplineWeights {
  static constexpr int taps = 4;
  HWY_INLINE void operator()(F t, F* w) const {
    const auto half = hn::Set(floats, 0.5F), one = hn::Set(floats, 1.0F), sixth = hn::Set(floats, 1.0F / 6);
    const auto s = hn::Sub(one, t);
    const auto t2 = hn::Mul(t, t), s2 = hn::Mul(s, s);
    const auto most = hn::Set(floats, 2.0F / 3);
    w[0] = hn::Mul(hn::Mul(s2, s), sixth);
    w[1] = hn::NegMulAdd(t2, hn::NegMulAdd(half, t, one), most);
    w[2] = hn::NegMulAdd(s2, hn::NegMulAdd(half, s, one), most);
    w[3] = hn::Mul(hn::Mul(t2, t), sixth);
  }
};

/// Even and odd polynomials in the distance from the middle between two pixels.
template <int terms>
struct LanczosWeights {
  static constexpr int taps = 6;
  const LanczosFit& fit = lanczos_fit(terms);
  HWY_INLINE void operator()(F t, F* w) const {
    const auto s = hn::Sub(t, hn::Set(floats, 0.5F));
    const auto s2 = hn::Mul(s, s);
    for (int k = 0; k < 3; ++k) {
      auto even = hn::Set(floats, fit.even[k][terms - 1]);
      auto odd = hn::Set(floats, fit.odd[k][terms - 1]);
      for (int i = terms - 2; i >= 0; --i) {
        even = hn::MulAdd(even, s2, hn::Set(floats, fit.even[k][i]));
        odd = hn::MulAdd(odd, s2, hn::Set(floats, fit.odd[k][i]));
      }
      w[k] = hn::MulAdd(s, odd, even);
      w[5 - k] = hn::NegMulAdd(s, odd, even);
    }
  }
};

/// Samples at byte offsets from p, and their right neighbours.
template <int taps>
HWY_INLINE void gather(const std::uint8_t* p, I offsets, F* out) {
  // Four bytes at a time; only bytes of the taps are used.
  for (int first = 0; first < taps; first += 4) {
    const int from = taps - first < 4 && taps > 4 ? taps - 4 : first;
    const auto four =
        hn::BitCast(unsigneds, hn::GatherOffset(ints, reinterpret_cast<const std::int32_t*>(p + from), offsets));
    for (int k = first; k < taps && k < first + 4; ++k) {
      const auto one = hn::And(hn::ShiftRightSame(four, 8 * (k - from)), hn::Set(unsigneds, 255U));
      out[k] = hn::ConvertTo(floats, hn::BitCast(ints, one));
    }
  }
}
template <int taps>
HWY_INLINE void gather(const std::uint16_t* p, I offsets, F* out) {
  for (int k = 0; k < taps; k += 2) {
    const auto two =
        hn::BitCast(unsigneds, hn::GatherOffset(ints, reinterpret_cast<const std::int32_t*>(p + k), offsets));
    out[k] = hn::ConvertTo(floats, hn::BitCast(ints, hn::And(two, hn::Set(unsigneds, 65535U))));
    out[k + 1] = hn::ConvertTo(floats, hn::BitCast(ints, hn::ShiftRight<16>(two)));
  }
}
template <int taps>
HWY_INLINE void gather(const float* p, I offsets, F* out) {
  for (int k = 0; k < taps; ++k) out[k] = hn::GatherOffset(floats, p + k, offsets);
}

/// The weighted sum of n numbers whose weights sum to one: from the differences to the middle one, so that equal
/// numbers come out as they are. Where rounding hides that anyway, from the numbers themselves.
template <bool differences>
HWY_INLINE F weighted(const F* p, const F* w, int n, int middle) {
  if constexpr (differences) {
    auto sum = p[middle];
    for (int k = 0; k < n; ++k)
      if (k != middle) sum = hn::MulAdd(w[k], hn::Sub(p[k], p[middle]), sum);
    return sum;
  } else {
    auto sum = hn::Mul(p[0], w[0]);
    for (int k = 1; k < n; ++k) sum = hn::MulAdd(w[k], p[k], sum);
    return sum;
  }
}

/// Weights for taps that begin at the row's first place, for lanes that stand 0 to `span` places further.
template <int taps, int span>
HWY_INLINE void spread(const F* w, I place, F* out) {
  if constexpr (span == 0) {
    for (int k = 0; k < taps; ++k) out[k] = w[k];
  } else {
    for (int k = 0; k < taps + span; ++k) out[k] = hn::Zero(floats);
    for (int shift = 0; shift <= span; ++shift) {
      const auto here = hn::RebindMask(floats, hn::Eq(place, hn::Set(ints, shift)));
      for (int k = 0; k < taps; ++k) out[k + shift] = hn::IfThenElse(here, w[k], out[k + shift]);
    }
  }
}

#if HWY_TARGET != HWY_SCALAR
/// Weighted sums of bytes side by side, in pairs of 16-bit numbers: weights count in 2^-14, and sum to one to the last.
template <int taps>
class BytePairs {
 public:
  static constexpr float unit = 1 << 14;
  HWY_INLINE void set(const F* weights, int middle) {
    // The last 16 bits of a large float count in ones, and the others do not matter.
    I whole[taps + 1];
    auto left = hn::Set(ints, 1 << 14);
    for (int k = 0; k < taps; ++k) {
      if (k == middle) continue;
      whole[k] = hn::BitCast(ints, hn::MulAdd(weights[k], hn::Set(floats, unit), hn::Set(floats, ones)));
      left = hn::Sub(left, whole[k]);
    }
    whole[middle] = left;
    whole[taps] = hn::Zero(ints);
    for (int k = 0; k < taps; k += 2)
      pairs_[k / 2] =
          hn::BitCast(words, hn::Or(hn::And(whole[k], hn::Set(ints, 0xffff)), hn::ShiftLeft<16>(whole[k + 1])));
  }
  /// The sum of each lane's bytes p[lane] ... p[lane + taps - 1], times `unit`.
  HWY_INLINE F sum(const std::uint8_t* p) const {
    // Each part of four lanes gets the bytes that they need, and then each lane its pairs.
    alignas(64) static constexpr std::int32_t parts[16] = {0, 1, 2, 3, 1, 2, 3, 4, 2, 3, 4, 5, 3, 4, 5, 6};
    const auto bytes = hn::TableLookupLanes(hn::BitCast(ints, hn::LoadU(octets, p)), hn::SetTableIndices(ints, parts));
    I sum = hn::Zero(ints), none = hn::Zero(ints);
    for (int k = 0; k < taps; k += 2) {
      const auto here = hn::TableLookupBytesOr0(hn::BitCast(octets, bytes), hn::LoadDup128(octets, places[k / 2]));
      sum = hn::ReorderWidenMulAccumulate(ints, hn::BitCast(words, here), pairs_[k / 2], sum, none);
    }
    return hn::ConvertTo(floats, sum);
  }

  /// The same for bytes that begin at each lane's offset from p. The taps are even in number.
  HWY_INLINE F sum_at(const std::uint8_t* p, I offsets) const {
    I sum = hn::Zero(ints), none = hn::Zero(ints);
    for (int first = 0; first < taps; first += 4) {
      // Four bytes at a time; the last pair of six is the second one of the four that end with it.
      const int from = std::min(first, taps - 4);
      const auto four =
          hn::BitCast(octets, hn::GatherOffset(ints, reinterpret_cast<const std::int32_t*>(p + from), offsets));
      for (int k = first; k < std::min(first + 4, taps); k += 2) {
        const auto here = hn::TableLookupBytesOr0(four, hn::LoadDup128(octets, halves[(k - from) / 2]));
        sum = hn::ReorderWidenMulAccumulate(ints, hn::BitCast(words, here), pairs_[k / 2], sum, none);
      }
    }
    return hn::ConvertTo(floats, sum);
  }

 private:
  static constexpr hn::Repartition<std::int16_t, Ints> words{};
  static constexpr hn::Repartition<std::uint8_t, Ints> octets{};
  static constexpr std::uint8_t no = 0x80;
  alignas(16) static constexpr std::uint8_t places[4][16] = {{0, no, 1, no, 1, no, 2, no, 2, no, 3, no, 3, no, 4, no},
                                                             {2, no, 3, no, 3, no, 4, no, 4, no, 5, no, 5, no, 6, no},
                                                             {4, no, 5, no, 5, no, 6, no, 6, no, 7, no, 7, no, 8, no},
                                                             {6, no, 7, no, 7, no, 8, no, 8, no, 9, no, 9, no, 10, no}};
  alignas(16) static constexpr std::uint8_t halves[2][16] = {
      {0, no, 1, no, 4, no, 5, no, 8, no, 9, no, 12, no, 13, no},
      {2, no, 3, no, 6, no, 7, no, 10, no, 11, no, 14, no, 15, no}};
  hn::Vec<hn::Repartition<std::int16_t, Ints>> pairs_[(taps + 1) / 2];
};
#else
template <int taps>
class BytePairs {
 public:
  static constexpr float unit = 1;
  void set(const F* weights, int) { std::copy(weights, weights + taps, weights_); }
  F sum(const std::uint8_t* p) const {
    F sum = hn::Zero(floats);
    for (int k = 0; k < taps; ++k) sum = hn::MulAdd(weights_[k], load(p + k), sum);
    return sum;
  }
  F sum_at(const std::uint8_t* p, I offset) const { return sum(p + hn::GetLane(offset)); }

 private:
  F weights_[taps];
};
#endif

/// Interpolates one row of samples of type T with weights W.
template <class T, class W>
class RowLoop {
 public:
  RowLoop(const Samples& samples, const Matrix3& m, int x, int y, int count, const RowTarget& target,
          std::int64_t& clamped)
      : samples_(samples), target_(target), clamped_(clamped), walk_(m, x, y, count) {
    // Where the rows that come next are read, which the processor cannot guess.
    const double w = m(2, 1) * (y + 0.5) + m(2, 2);
    ahead_ = static_cast<std::ptrdiff_t>(rows_ahead * m(1, 1) / w) * samples.stride +
             static_cast<std::ptrdiff_t>(rows_ahead * m(0, 1) / w);
  }

  HWY_INLINE void run(int x, int count, std::vector<Stretch>& rest) {
    // One pixel more than the taps need is kept on each side.
    constexpr double spare = 1.5;
    const auto [first, last] =
        walk_.inside(count, samples_.left + middle + spare, samples_.top + middle + spare,
                     samples_.right - (taps - middle - 1) - spare, samples_.bottom - (taps - middle - 1) - spare);
    if (last - first < block) return leave(x, count, rest);
    leave(x, first, rest);
    int done = first;
#if HWY_TARGET != HWY_SCALAR
    if constexpr (sizeof(T) == 1 && taps == 2)
      if (walk_.straight() && target_.depth == Depth::u8) done = straight_bytes(first, last);
#endif
    if (done == first && walk_.straight()) done = straight_blocks(first, last);
    for (int i = done, length = segment; i < last;) {
      // The last segment begins earlier if it is too short, and writes some pixels again.
      const int start = std::min(i, last - block);
      const int pixels = std::min(length, last - start);
      if (HWY_LIKELY(walk_.at(start, pixels))) {
        blocks(start, pixels, i - start);
      } else if (length > block) {
        length = block;  // too steep for a segment at once
        continue;
      } else {
        leave(x + i, start + pixels - i, rest);
      }
      i = start + pixels;
    }
    leave(x + last, count - last, rest);
  }

 private:
  static constexpr int taps = W::taps;
  static constexpr int middle = taps / 2 - 1;
  static constexpr bool differences = taps == 2 || sizeof(T) == 4;
  static constexpr bool in_pairs = sizeof(T) == 1 && taps > 2;  // sums of bytes
  static constexpr int rows_ahead = 12;
  static constexpr int pair = 2 * block;

  static void leave(int x, int count, std::vector<Stretch>& rest) {
    if (count <= 0) return;
    if (!rest.empty() && rest.back().x + rest.back().count == x)
      rest.back().count += count;
    else
      rest.push_back({x, count});
  }
  HWY_INLINE const T* sample(std::int64_t x, std::int64_t y) const {
    return reinterpret_cast<const T*>(samples_.origin) + y * samples_.stride + x;
  }
  static HWY_INLINE F part(I distance) {
    return hn::Mul(hn::ConvertTo(floats, hn::And(distance, hn::Set(ints, fraction_mask))),
                   hn::Set(floats, 1.0F / (1 << fraction_bits)));
  }
  /// Writes the pixels from `start` + lane on.
  HWY_INLINE void write(F value, std::byte* band, int start, std::size_t lane) {
    const auto from = again_ > static_cast<int>(lane) ? static_cast<std::size_t>(again_) - lane : 0;
    const std::size_t index = static_cast<std::size_t>(start) + lane;
    constexpr bool overshoots = taps > 2;
    if constexpr (sizeof(T) < 4)
      if (HWY_LIKELY(target_.depth != Depth::f32))
        return put(value, reinterpret_cast<T*>(band) + index, overshoots, from, clamped_);
    if constexpr (sizeof(T) == 4) {
      if (target_.depth == Depth::u8)
        return put(value, reinterpret_cast<std::uint8_t*>(band) + index, overshoots, from, clamped_);
      if (target_.depth == Depth::u16)
        return put(value, reinterpret_cast<std::uint16_t*>(band) + index, overshoots, from, clamped_);
    }
    put(value, reinterpret_cast<float*>(band) + index, overshoots, from, clamped_);
  }

  /// Where samples are read for a block, and how far lanes stray from that.
  struct Place {
    std::int64_t left, top;  // first column and row, of the tap before the point
    int slip, span;          // steps aside, and up or down, within the block
  };
  HWY_INLINE Place place(int k, int pixels) const {
    const int x0 = walk_.whole_dx(k), x1 = walk_.whole_dx(k + pixels - 1) - (pixels - 1);
    const int y0 = walk_.whole_dy(k), y1 = walk_.whole_dy(k + pixels - 1);
    return {walk_.x + std::min(x0, x1), walk_.y + std::min(y0, y1), std::abs(x1 - x0), std::abs(y1 - y0)};
  }

  /// The pixels of the walk's segment, of which the first `again` are already written; it begins at pixel `start`.
  HWY_INLINE void blocks(int start, int pixels, int again) {
    for (int next = 0; next < pixels;) {
      const int k = std::min(next, pixels - block);
      again_ = std::max(again, next) - k;
#if HWY_TARGET != HWY_SCALAR
      if constexpr (sizeof(T) == 1 && taps == 2) {
        if (next + pair <= pixels && target_.depth == Depth::u8) {
          const Place at = place(next, pair);
          if (at.slip <= 1 && at.span <= 2) {
            slide_bytes(at, next, start);
            next += pair;
            continue;
          }
        }
      }
#endif
      walk_.detail();
      const Place at = place(k, block);
      if (at.slip == 0 && at.span <= 1)
        slide<1, 0>(at, k, start);
      else if (at.slip <= 1 && at.span <= 1)
        slide<1, 1>(at, k, start);
      else if (at.slip <= 1 && at.span <= 3)
        slide<3, 1>(at, k, start);
      else
        for (std::size_t lane = 0; lane < block; lane += hn::Lanes(floats)) pick(k, lane, start);
      next += block;
    }
  }

  /// Pixels that advance by one source pixel each, but for at most one step aside and `span` up or down: taps are
  /// loaded side by side from `in` on, and the lanes behind a step take theirs from weights that are moved. x and y are
  /// the lanes' distances from there in units of 2^-24 px. False where a lane stands further off.
  template <int span, int slip>
  HWY_INLINE bool mix(const T* in, I x, I y, int start, std::size_t lane) {
    const auto column = hn::ShiftRight<fraction_bits>(x), row = hn::ShiftRight<fraction_bits>(y);
    const auto bits = hn::Or(span == 1 && slip == 1 ? column : hn::Add(column, column), row);
    const auto beyond = hn::Gt(hn::BitCast(unsigneds, bits), hn::Set(unsigneds, std::uint32_t{span}));
    if (HWY_UNLIKELY(!hn::AllFalse(unsigneds, beyond))) return false;
    F plain[taps], wx[taps + slip], wy[taps + span];
    weights_(part(x), plain);
    spread<taps, slip>(plain, column, wx);
    weights_(part(y), plain);
    spread<taps, span>(plain, row, wy);
    BytePairs<taps + slip> pairs;
    if constexpr (in_pairs) pairs.set(wx, middle);
    std::byte* out = target_.first;
    for (int band = 0; band < samples_.bands; ++band, in += samples_.plane, out += target_.plane) {
      const T* p = in;
      hwy::Prefetch(p + ahead_);
      F sums[taps + span];
      for (int r = 0; r < taps + span; ++r, p += samples_.stride) {
        if constexpr (in_pairs) {
          sums[r] = pairs.sum(reinterpret_cast<const std::uint8_t*>(p));
        } else {
          F line[taps + slip];
          for (int c = 0; c < taps + slip; ++c) line[c] = load(p + c);
          sums[r] = weighted<differences>(line, wx, taps + slip, middle);
        }
      }
      auto value = weighted<differences>(sums, wy, taps + span, middle);
      if constexpr (in_pairs) value = hn::Mul(value, hn::Set(floats, 1 / pairs.unit));
      write(value, out, start, lane);
    }
    return true;
  }

  /// The rare ones, which need not stand in every loop.
  HWY_NOINLINE bool mix_slipped(const T* in, I x, I y, int start, std::size_t lane) {
    return mix<1, 1>(in, x, y, start, lane);
  }
  HWY_NOINLINE bool mix_far(const T* in, I x, I y, int start, std::size_t lane) {
    return mix<3, 1>(in, x, y, start, lane);
  }

  /// A block of a bent row.
  template <int span, int slip>
  HWY_INLINE void slide(const Place& at, int k, int start) {
    const T* first = sample(at.left - middle, at.top - middle);
    const auto base_x = static_cast<std::int32_t>(walk_.x - at.left) * one_pixel;
    const auto base_y = hn::Set(ints, static_cast<std::int32_t>(walk_.y - at.top) * one_pixel);
    for (std::size_t lane = 0; lane < block; lane += hn::Lanes(floats)) {
      const auto dx = hn::LoadU(ints, walk_.dx + k + lane), dy = hn::LoadU(ints, walk_.dy + k + lane);
      const auto less = hn::Mul(hn::Iota(ints, static_cast<std::int32_t>(lane)), hn::Set(ints, one_pixel));
      // Between the ends of a block a bend may take a lane beyond them.
      const auto x = hn::Sub(hn::Add(dx, hn::Set(ints, base_x)), less);
      const auto y = hn::Add(dy, base_y);
      const T* in = first + lane;
      const bool mixed = span == 3   ? mix_far(in, x, y, start + k, lane)
                         : slip == 1 ? mix_slipped(in, x, y, start + k, lane)
                                     : mix<1, 0>(in, x, y, start + k, lane);
      if (HWY_UNLIKELY(!mixed)) pick(k, lane, start);
    }
  }

  /// Pixels [first, last) of a straight row that is nearly level, a block at a time; returns where it ended. Its place
  /// is kept in whole numbers of 32 bits a pixel.
  HWY_INLINE int straight_blocks(int first, int last) {
    const typename Walk::Line line = walk_.line(first);
    const double most = 1.0 / (block - 1), rise = std::abs(static_cast<double>(line.step_y)) * 0x1p-32,
                 drift = std::abs(static_cast<double>(line.step_x) * 0x1p-32 - 1);
    return drift > most || rise > most ? first : level_blocks(first, last, line);
  }
  HWY_INLINE int level_blocks(int first, int last, typename Walk::Line line) {
    constexpr int fine = 32, coarser = fine - fraction_bits;
    constexpr std::int64_t whole = std::int64_t{1} << fine, half = std::int64_t{1} << (coarser - 1);
    const std::int64_t drift = line.step_x - whole, drift_x = drift * (block - 1), drift_y = line.step_y * (block - 1);
    alignas(64) std::int32_t aside[block], below[block];
    for (int k = 0; k < block; ++k) {
      aside[k] = static_cast<std::int32_t>((drift * k + half) >> coarser);
      below[k] = static_cast<std::int32_t>((line.step_y * k + half) >> coarser);
    }
    const std::int64_t low_x = std::min<std::int64_t>(drift_x, 0), low_y = std::min<std::int64_t>(drift_y, 0);
    again_ = 0;
    int i = first;
    for (; i + block <= last; i += block, line.x += block * line.step_x, line.y += block * line.step_y) {
      const std::int64_t left = (line.x + low_x) >> fine, top = (line.y + low_y) >> fine;
      const bool slips = left != (line.x + drift_x - low_x) >> fine;
      const auto base_x = static_cast<std::int32_t>((line.x - left * whole) >> coarser);
      const auto base_y = static_cast<std::int32_t>((line.y - top * whole) >> coarser);
      const T* in = sample(left - middle, top - middle);
      for (std::size_t lane = 0; lane < block; lane += hn::Lanes(floats)) {
        const auto x = hn::Add(hn::Load(ints, aside + lane), hn::Set(ints, base_x));
        const auto y = hn::Add(hn::Load(ints, below + lane), hn::Set(ints, base_y));
        const bool mixed =
            HWY_UNLIKELY(slips) ? mix_slipped(in + lane, x, y, i, lane) : mix<1, 0>(in + lane, x, y, i, lane);
        if (HWY_LIKELY(mixed)) continue;
        if (!walk_.at(i, block)) return i;
        walk_.detail();
        pick(0, lane, i);
      }
    }
    return i;
  }

#if HWY_TARGET != HWY_SCALAR
  using Words = hn::Vec<hn::CappedTag<std::int16_t, pair>>;
  using UnsignedWords = hn::Vec<hn::CappedTag<std::uint16_t, pair>>;
  /// Distances of lanes from pixel k on from where samples are read, in units of 2^-14 px: a fraction, and above it two
  /// bits for the steps before the lane. `straight` and `base` are the distance of the segment's first pixel, `along`
  /// is what a lane has less than the one before it.
  static HWY_INLINE UnsignedWords distances(const std::int32_t* d, std::int32_t base, std::int32_t along) {
    const hn::Rebind<std::uint16_t, Floats> half_words;
    const auto bits = [&](std::size_t from) HWY_ATTR {
      const auto less = hn::Mul(hn::Iota(ints, static_cast<std::int32_t>(from)), hn::Set(ints, along));
      const auto place = hn::Sub(hn::Add(hn::LoadU(ints, d + from), hn::Set(ints, base)), less);
      return hn::TruncateTo(half_words, hn::ShiftRight<coarse_bits>(hn::BitCast(unsigneds, place)));
    };
    return hn::Combine(hn::CappedTag<std::uint16_t, pair>(), bits(hn::Lanes(floats)), bits(0));
  }

  /// Pixels side by side with the linear kernel on bytes, in 16-bit numbers: samples count in 1/128, x and y are the
  /// lanes' distances from where samples are read. False where a lane stands further than `slip` aside or `span` below.
  template <int span, int slip>
  HWY_INLINE bool mix_bytes(const T* in, std::byte* out, UnsignedWords x, UnsignedWords y) const {
    const hn::CappedTag<std::int16_t, pair> words;
    const hn::CappedTag<std::uint16_t, pair> unsigned_words;
    const hn::Rebind<std::uint8_t, decltype(words)> bytes;
    constexpr std::uint16_t one = 1 << 14;
    const auto beyond = hn::Or(hn::Gt(x, hn::Set(unsigned_words, (1 + slip) * one - 1)),
                               hn::Gt(y, hn::Set(unsigned_words, (1 + span) * one - 1)));
    if (HWY_UNLIKELY(!hn::AllFalse(unsigned_words, beyond))) return false;
    const auto between = [](Words from, Words to, Words part)
                             HWY_ATTR { return hn::Add(from, hn::MulFixedPoint15(hn::Sub(to, from), part)); };
    const auto fraction = hn::Set(unsigned_words, 0x7ffe);
    const auto tx = hn::BitCast(words, hn::And(hn::Add(x, x), fraction));
    const auto ty = hn::BitCast(words, hn::And(hn::Add(y, y), fraction));
    const auto steps = [&](UnsignedWords distance, std::uint16_t count) HWY_ATTR {
      return hn::RebindMask(words,
                            hn::Gt(distance, hn::Set(unsigned_words, static_cast<std::uint16_t>(count * one - 1))));
    };
    for (int band = 0; band < samples_.bands; ++band, in += samples_.plane, out += target_.plane) {
      hwy::Prefetch(in + ahead_);
      Words upper[2 + slip], lower[2 + slip];
      for (int c = 0; c < 2 + slip; ++c) {
        Words rows[2 + span];
        for (int r = 0; r < 2 + span; ++r)
          rows[r] = hn::PromoteTo(words, hn::LoadU(bytes, in + r * samples_.stride + c));
        const auto one_below = steps(y, 1);
        rows[0] = hn::IfThenElse(one_below, rows[1], rows[0]);
        rows[1] = hn::IfThenElse(one_below, rows[2], rows[1]);
        if constexpr (span > 1) {
          const auto two_below = steps(y, 2);
          rows[0] = hn::IfThenElse(two_below, rows[2], rows[0]);
          rows[1] = hn::IfThenElse(two_below, rows[3], rows[1]);
        }
        upper[c] = hn::ShiftLeft<7>(rows[0]);
        lower[c] = hn::ShiftLeft<7>(rows[1]);
      }
      if constexpr (slip == 1)
        for (auto* line : {upper, lower}) {
          const auto one_aside = steps(x, 1);
          line[0] = hn::IfThenElse(one_aside, line[1], line[0]);
          line[1] = hn::IfThenElse(one_aside, line[2], line[1]);
        }
      const auto value = between(between(upper[0], upper[1], tx), between(lower[0], lower[1], tx), ty);
      const auto rounded = hn::ShiftRight<7>(hn::Add(value, hn::Set(words, 64)));
      hn::StoreU(hn::DemoteTo(bytes, rounded), bytes, reinterpret_cast<std::uint8_t*>(out));
    }
    return true;
  }

  /// Two blocks of a bent row.
  HWY_INLINE void slide_bytes(const Place& at, int k, int start) {
    constexpr std::int32_t half = 1 << (coarse_bits - 1);
    const auto base_x = static_cast<std::int32_t>(walk_.x - at.left) * one_pixel + half;
    const auto base_y = static_cast<std::int32_t>(walk_.y - at.top) * one_pixel + half;
    walk_.detail();
    // The distances of lanes: a fraction, and above it two bits for the steps before the lane.
    const auto distances = [](const std::int32_t* d, std::int32_t base, std::int32_t along) HWY_ATTR {
      const hn::Rebind<std::uint16_t, Floats> half_words;
      const auto bits = [&](std::size_t from) HWY_ATTR {
        const auto less = hn::Mul(hn::Iota(ints, static_cast<std::int32_t>(from)), hn::Set(ints, along));
        const auto place = hn::Sub(hn::Add(hn::LoadU(ints, d + from), hn::Set(ints, base)), less);
        return hn::TruncateTo(half_words, hn::ShiftRight<coarse_bits>(hn::BitCast(unsigneds, place)));
      };
      return hn::Combine(hn::CappedTag<std::uint16_t, pair>(), bits(hn::Lanes(floats)), bits(0));
    };
    constexpr std::size_t lanes = hn::MaxLanes(hn::CappedTag<std::int16_t, pair>());
    const T* in = sample(at.left, at.top);
    for (std::size_t lane = 0; lane < pair; lane += lanes) {
      const std::size_t from = static_cast<std::size_t>(k) + lane;
      const auto x = distances(walk_.dx + from, base_x - static_cast<std::int32_t>(lane) * one_pixel, one_pixel);
      const auto y = distances(walk_.dy + from, base_y, 0);
      std::byte* out = target_.first + start + static_cast<int>(from);
      const bool mixed = at.slip == 0 ? mix_bytes<2, 0>(in + lane, out, x, y) : mix_bytes<2, 1>(in + lane, out, x, y);
      if (HWY_LIKELY(mixed)) continue;
      for (std::size_t i = lane; i < lane + lanes; i += hn::Lanes(floats)) pick(k, i, start);
    }
  }

  /// The same, with as many rows as its slope needs; none when that is too many.
  HWY_INLINE int straight_bytes(int first, int last) {
    const typename Walk::Line line = walk_.line(first);
    const double most = 1.0 / (pair - 1), rise = std::abs(static_cast<double>(line.step_y)) * 0x1p-32,
                 drift = std::abs(static_cast<double>(line.step_x) * 0x1p-32 - 1);
    if (drift > most || rise > 2 * most) return first;
    return rise <= most ? straight_bytes<1>(first, last) : straight_bytes<2>(first, last);
  }

  /// Pixels [first, last) of a straight row that is nearly level, two blocks at a time; returns where it ended. All of
  /// it is in whole numbers: 32 bits of a pixel along the row, 14 within the blocks.
  template <int span>
  HWY_INLINE int straight_bytes(int first, int last) {
    constexpr int fine = 32, coarser = fine - 14;
    constexpr std::int64_t whole = std::int64_t{1} << fine, half = std::int64_t{1} << (coarser - 1);
    constexpr std::size_t lanes = hn::MaxLanes(hn::CappedTag<std::int16_t, pair>());
    const hn::CappedTag<std::uint16_t, pair> unsigned_words;
    typename Walk::Line line = walk_.line(first);
    const std::int64_t drift = line.step_x - whole, drift_x = drift * (pair - 1), drift_y = line.step_y * (pair - 1);
    alignas(64) std::uint16_t aside[pair], below[pair];
    for (int k = 0; k < pair; ++k) {
      aside[k] = static_cast<std::uint16_t>((drift * k + half) >> coarser);
      below[k] = static_cast<std::uint16_t>((line.step_y * k + half) >> coarser);
    }
    const std::int64_t low_x = std::min<std::int64_t>(drift_x, 0), low_y = std::min<std::int64_t>(drift_y, 0);
    int i = first;
    for (; i + pair <= last; i += pair, line.x += pair * line.step_x, line.y += pair * line.step_y) {
      const std::int64_t left = (line.x + low_x) >> fine, top = (line.y + low_y) >> fine;
      const bool slips = left != (line.x + drift_x - low_x) >> fine;
      const auto base_x = static_cast<std::uint16_t>((line.x - left * whole + half) >> coarser);
      const auto base_y = static_cast<std::uint16_t>((line.y - top * whole + half) >> coarser);
      const T* in = sample(left, top);
      for (std::size_t lane = 0; lane < pair; lane += lanes) {
        const auto x = hn::Add(hn::Load(unsigned_words, aside + lane), hn::Set(unsigned_words, base_x));
        const auto y = hn::Add(hn::Load(unsigned_words, below + lane), hn::Set(unsigned_words, base_y));
        std::byte* out = target_.first + i + static_cast<int>(lane);
        const bool mixed = slips ? mix_bytes<span, 1>(in + lane, out, x, y) : mix_bytes<span, 0>(in + lane, out, x, y);
        if (HWY_LIKELY(mixed)) continue;
        if (!walk_.at(i, pair)) return i;
        walk_.detail();
        for (std::size_t k = lane; k < lane + lanes; k += hn::Lanes(floats)) pick(0, k, i);
      }
    }
    return i;
  }

#endif

  /// Pixels anywhere near each other.
  HWY_NOINLINE void pick(int k, std::size_t lane, int start) {
    const auto dx = hn::LoadU(ints, walk_.dx + k + lane), dy = hn::LoadU(ints, walk_.dy + k + lane);
    const auto rows = hn::Mul(hn::ShiftRight<fraction_bits>(dy), hn::Set(ints, static_cast<int>(samples_.stride)));
    const auto offsets =
        hn::Mul(hn::Add(rows, hn::ShiftRight<fraction_bits>(dx)), hn::Set(ints, std::int32_t{sizeof(T)}));
    F wx[taps], wy[taps];
    weights_(part(dx), wx);
    weights_(part(dy), wy);
    BytePairs<taps> pairs;
    if constexpr (in_pairs) pairs.set(wx, middle);
    const T* in = sample(walk_.x - middle, walk_.y - middle);
    std::byte* out = target_.first;
    for (int band = 0; band < samples_.bands; ++band, in += samples_.plane, out += target_.plane) {
      const T* p = in;
      F sums[taps];
      for (int r = 0; r < taps; ++r, p += samples_.stride) {
        if constexpr (in_pairs) {
          sums[r] = pairs.sum_at(reinterpret_cast<const std::uint8_t*>(p), offsets);
        } else {
          F line[taps];
          gather<taps>(p, offsets, line);
          sums[r] = weighted<differences>(line, wx, taps, middle);
        }
      }
      auto value = weighted<differences>(sums, wy, taps, middle);
      if constexpr (in_pairs) value = hn::Mul(value, hn::Set(floats, 1 / pairs.unit));
      write(value, out, start + k, lane);
    }
  }

  const Samples& samples_;
  const RowTarget& target_;
  std::int64_t& clamped_;
  std::ptrdiff_t ahead_;
  int again_ = 0;  // pixels of the block that are already written
  Walk walk_;
  W weights_;
};

template <class T, class W>
HWY_NOINLINE void RunRow(const Samples& samples, const Matrix3& m, int x, int y, int count, const RowTarget& target,
                         std::vector<Stretch>& rest, std::int64_t& clamped) {
  const double w = m(2, 0) * (x + 0.5) + m(2, 1) * (y + 0.5) + m(2, 2);
  RowLoop<T, W>(samples, w < 0 ? Matrix3(-m) : m, x, y, count, target, clamped).run(x, count, rest);
}

void InterpolateRow(const Samples& samples, Kernel kernel, const Matrix3& pull, int x, int y, int count,
                    const RowTarget& target, std::vector<Stretch>& rest, std::int64_t& clamped) {
  if (kernel == Kernel::bspline3)
    return RunRow<float, SplineWeights>(samples, pull, x, y, count, target, rest, clamped);
  visit_depth(samples.depth, [&](auto sample) {
    using T = decltype(sample);
    constexpr int terms = sizeof(T) == 1 ? 4 : 5;
    if (kernel == Kernel::cubic)
      RunRow<T, CubicWeights>(samples, pull, x, y, count, target, rest, clamped);
    else if (kernel == Kernel::lanczos3)
      RunRow<T, LanczosWeights<terms>>(samples, pull, x, y, count, target, rest, clamped);
    else
      RunRow<T, LinearWeights>(samples, pull, x, y, count, target, rest, clamped);
  });
}

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
