// The vector code of rows.cpp, compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_ROWS_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_ROWS_INL_H
#undef FEXEL_RESAMPLE_ROWS_INL_H
#else
#define FEXEL_RESAMPLE_ROWS_INL_H
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

/// Pixels whose coordinates are worked out together.
constexpr int block = 16;
constexpr int fraction_bits = 24;
constexpr std::int32_t fraction_mask = (1 << fraction_bits) - 1;

/// Source coordinates of a block, minus a half: whole numbers to count from, and each pixel's distance from them in
/// units of 2^-24 px.
struct Block {
  int x, y;            // of the first pixel
  int x_step, y_step;  // whole pixels from the first one to one at or behind the last
  bool usable;
  alignas(64) std::int32_t dx[block], dy[block];
};

/// Walks along a row under an affine map, in fixed point with 40 bits behind the point.
class AffineWalk {
 public:
  AffineWalk(const Matrix3& m, int x, int y) {
    const double w = 1 / m(2, 2);
    u_ = fixed((m(0, 0) * (x + 0.5) + m(0, 1) * (y + 0.5) + m(0, 2)) * w - 0.5);
    v_ = fixed((m(1, 0) * (x + 0.5) + m(1, 1) * (y + 0.5) + m(1, 2)) * w - 0.5);
    du_ = m(0, 0) * w;
    dv_ = m(1, 0) * w;
    step_u_ = fixed(du_);
    step_v_ = fixed(dv_);
    for (int i = 0; i < block; ++i) {
      offset_u_[i] = static_cast<std::int32_t>(std::lround(std::ldexp(du_ * i, fraction_bits)));
      offset_v_[i] = static_cast<std::int32_t>(std::lround(std::ldexp(dv_ * i, fraction_bits)));
    }
  }
  /// The block that begins at pixel i of the row.
  HWY_INLINE void at(int i, Block& out) const {
    const std::int64_t u = u_ + step_u_ * i;
    const std::int64_t v = v_ + step_v_ * i;
    out.x = static_cast<int>(u >> point);
    out.y = static_cast<int>(v >> point);
    out.x_step = static_cast<int>((u + step_u_ * block) >> point) - out.x;
    out.y_step = static_cast<int>((v + step_v_ * block) >> point) - out.y;
    out.usable = true;
    const auto part_u = hn::Set(ints, static_cast<std::int32_t>(u >> (point - fraction_bits)) & fraction_mask);
    const auto part_v = hn::Set(ints, static_cast<std::int32_t>(v >> (point - fraction_bits)) & fraction_mask);
    for (std::size_t k = 0; k < block; k += hn::Lanes(ints)) {
      hn::Store(hn::Add(part_u, hn::Load(ints, offset_u_ + k)), ints, out.dx + k);
      hn::Store(hn::Add(part_v, hn::Load(ints, offset_v_ + k)), ints, out.dy + k);
    }
  }

 private:
  static constexpr int point = 40;
  static std::int64_t fixed(double v) { return std::llround(std::ldexp(v, point)); }
  std::int64_t u_, v_, step_u_, step_v_;
  double du_, dv_;
  alignas(64) std::int32_t offset_u_[block], offset_v_[block];
};

/// Walks along a row under a perspective map, with one division a pixel.
class ProjectiveWalk {
 public:
  ProjectiveWalk(const Matrix3& m, int x, int y)
      : u_(m(0, 0)), v_(m(1, 0)), w_(m(2, 0)), x_(x + 0.5), start_u_(m(0, 1) * (y + 0.5) + m(0, 2)),
        start_v_(m(1, 1) * (y + 0.5) + m(1, 2)), start_w_(m(2, 1) * (y + 0.5) + m(2, 2)) {}
  HWY_INLINE void at(int i, Block& out) const {
    const double first = x_ + i, last = x_ + i + block;
    const double w0 = w_ * first + start_w_, w1 = w_ * last + start_w_;
    const double x0 = (u_ * first + start_u_) / w0 - 0.5, y0 = (v_ * first + start_v_) / w0 - 0.5;
    const double x1 = (u_ * last + start_u_) / w1 - 0.5, y1 = (v_ * last + start_v_) / w1 - 0.5;
    out.usable = (w0 > 0) == (w1 > 0) && std::abs(x0) < farthest && std::abs(y0) < farthest &&
                 std::abs(x1 - x0) < steepest && std::abs(y1 - y0) < steepest;
    if (!out.usable) return;
    out.x = static_cast<int>(std::floor(x0));
    out.y = static_cast<int>(std::floor(y0));
    out.x_step = static_cast<int>(std::floor(x1)) - out.x;
    out.y_step = static_cast<int>(std::floor(y1)) - out.y;
    const hn::Rebind<double, hn::Half<Ints>> doubles;
    const hn::Half<Ints> half;
    const auto unit = hn::Set(doubles, 1 << fraction_bits);
    const auto base_x = hn::Set(doubles, out.x + 0.5), base_y = hn::Set(doubles, out.y + 0.5);
    for (std::size_t k = 0; k < block; k += hn::Lanes(doubles)) {
      const auto x = hn::Add(hn::Iota(doubles, static_cast<double>(k)), hn::Set(doubles, first));
      const auto w = hn::Div(hn::Set(doubles, 1.0), hn::MulAdd(hn::Set(doubles, w_), x, hn::Set(doubles, start_w_)));
      const auto u = hn::Mul(hn::MulAdd(hn::Set(doubles, u_), x, hn::Set(doubles, start_u_)), w);
      const auto v = hn::Mul(hn::MulAdd(hn::Set(doubles, v_), x, hn::Set(doubles, start_v_)), w);
      hn::Store(hn::DemoteTo(half, hn::Mul(hn::Sub(u, base_x), unit)), half, out.dx + k);
      hn::Store(hn::DemoteTo(half, hn::Mul(hn::Sub(v, base_y), unit)), half, out.dy + k);
    }
  }

 private:
  static constexpr double farthest = 1 << 28, steepest = 100;
  double u_, v_, w_, x_, start_u_, start_v_, start_w_;
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

/// Samples side by side, as many as a vector has lanes.
HWY_INLINE F load(const float* p) {
  return hn::LoadU(floats, p);
}
template <class T>
HWY_INLINE F load(const T* p) {
  return hn::ConvertTo(floats, hn::PromoteTo(ints, hn::LoadU(hn::Rebind<T, Floats>(), p)));
}

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

/// The weighted sum of n numbers whose weights sum to one: from the differences to the middle one, so that equal numbers
/// come out as they are. Where rounding hides that anyway, from the numbers themselves.
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

/// Writes a vector, rounded and clamped to u8 or u16. The lanes from `count_from` on are looked at for clamping.
template <class T>
HWY_INLINE void put(F value, T* out, bool overshoots, std::size_t count_from, std::int64_t& clamped) {
  constexpr float top = sizeof(T) == 1 ? 255.0F : 65535.0F;
  const auto rounded = hn::Add(value, hn::Set(floats, 0.5F));
  if (overshoots) {
    const auto outside = hn::Or(hn::Lt(rounded, hn::Zero(floats)), hn::Ge(rounded, hn::Set(floats, top + 1.0F)));
    const auto counted = hn::AndNot(hn::FirstN(floats, count_from), outside);
    clamped += static_cast<std::int64_t>(hn::CountTrue(floats, counted));
  }
  hn::StoreU(hn::DemoteTo(hn::Rebind<T, Floats>(), hn::ConvertTo(ints, rounded)), hn::Rebind<T, Floats>(), out);
}
HWY_INLINE void put(F value, float* out, bool, std::size_t, std::int64_t&) {
  hn::StoreU(value, floats, out);
}

/// Interpolates one row of samples of type T with weights W.
template <class T, class W>
class RowLoop {
 public:
  RowLoop(const Samples& samples, const RowTarget& target, std::int64_t& clamped)
      : samples_(samples), target_(target), clamped_(clamped) {}

  template <class Walk>
  HWY_INLINE void run(const Walk& walk, int x, int count, std::vector<Stretch>& rest) {
    Block at;
    for (int i = 0; i < count; i += block) {
      // The last block begins earlier, and writes some pixels again.
      const int start = i + block <= count ? i : count - block;
      const int again = i - start;
      if (start >= 0) walk.at(start, at);
      if (start < 0 || !at.usable || !readable(at)) {
        const int first = x + i, pixels = std::min(block, count - i);
        if (!rest.empty() && rest.back().x + rest.back().count == first)
          rest.back().count += pixels;
        else
          rest.push_back({first, pixels});
        continue;
      }
      const int sideways = at.x_step - block;
      if (sideways == 0 && std::abs(at.y_step) <= 1)
        slide<1, 0>(at, start, again);
      else if (std::abs(sideways) <= 1 && std::abs(at.y_step) <= 1)
        slide<1, 1>(at, start, again);
      else if (std::abs(sideways) <= 1 && std::abs(at.y_step) <= 3)
        slide<3, 1>(at, start, again);
      else
        pick(at, start, again);
    }
  }

 private:
  static constexpr int taps = W::taps;
  static constexpr int middle = taps / 2 - 1;
  static constexpr bool differences = taps == 2 || sizeof(T) > 1;

  /// One pixel more than the taps need can be read on each side.
  bool readable(const Block& at) const {
    const int x0 = std::min(at.x, at.x + at.x_step), x1 = std::max(at.x, at.x + at.x_step);
    const int y0 = std::min(at.y, at.y + at.y_step), y1 = std::max(at.y, at.y + at.y_step);
    return x0 - middle > samples_.left && y0 - middle > samples_.top && x1 + taps - middle < samples_.right &&
           y1 + taps - middle < samples_.bottom;
  }
  const T* sample(int band, int x, int y) const {
    return reinterpret_cast<const T*>(samples_.origin) + band * samples_.plane + y * samples_.stride + x;
  }
  static HWY_INLINE F part(I distance) {
    return hn::Mul(hn::ConvertTo(floats, hn::And(distance, hn::Set(ints, fraction_mask))),
                   hn::Set(floats, 1.0F / (1 << fraction_bits)));
  }
  HWY_INLINE void write(F value, int band, int index, int again) {
    const auto from = static_cast<std::size_t>(std::max(0, again));
    std::byte* first = target_.first + band * target_.plane;
    constexpr bool overshoots = taps > 2;
    if (target_.depth == Depth::f32) return put(value, reinterpret_cast<float*>(first) + index, overshoots, from, clamped_);
    if constexpr (sizeof(T) == 1 || sizeof(T) == 4)
      if (target_.depth == Depth::u8)
        return put(value, reinterpret_cast<std::uint8_t*>(first) + index, overshoots, from, clamped_);
    if constexpr (sizeof(T) == 2 || sizeof(T) == 4)
      if (target_.depth == Depth::u16)
        return put(value, reinterpret_cast<std::uint16_t*>(first) + index, overshoots, from, clamped_);
  }

  /// Pixels that advance by one source pixel each, but for at most one step aside and `span` up or down: taps are loaded
  /// side by side, and the lanes behind a step take theirs from weights that are moved.
  template <int span, int slip>
  HWY_INLINE void slide(const Block& at, int start, int again) {
    const int left = std::min(at.x, at.x + at.x_step - block), top = std::min(at.y, at.y + at.y_step);
    const T* first = sample(0, left - middle, top - middle);
    for (std::size_t k = 0; k < block; k += hn::Lanes(floats)) {
      const auto dx = hn::Load(ints, at.dx + k), dy = hn::Load(ints, at.dy + k);
      const auto column = hn::Sub(hn::Add(hn::ShiftRight<fraction_bits>(dx), hn::Set(ints, at.x - left)),
                                  hn::Iota(ints, static_cast<std::int32_t>(k)));
      const auto row = hn::Add(hn::ShiftRight<fraction_bits>(dy), hn::Set(ints, at.y - top));
      const auto beyond = hn::Or(hn::Gt(hn::BitCast(unsigneds, column), hn::Set(unsigneds, std::uint32_t{slip})),
                                 hn::Gt(hn::BitCast(unsigneds, row), hn::Set(unsigneds, std::uint32_t{span})));
      if (HWY_UNLIKELY(!hn::AllFalse(unsigneds, beyond))) {
        pick_lanes(at, k, start, again);
        continue;
      }
      F plain[taps], wx[taps + slip], wy[taps + span];
      weights_(part(dx), plain);
      spread<taps, slip>(plain, column, wx);
      weights_(part(dy), plain);
      spread<taps, span>(plain, row, wy);
      for (int band = 0; band < samples_.bands; ++band) {
        const T* p = first + band * samples_.plane + k;
        F sums[taps + span];
        for (int r = 0; r < taps + span; ++r, p += samples_.stride) {
          F line[taps + slip];
          for (int c = 0; c < taps + slip; ++c) line[c] = load(p + c);
          sums[r] = weighted<differences>(line, wx, taps + slip, middle);
        }
        write(weighted<differences>(sums, wy, taps + span, middle), band, start + static_cast<int>(k),
              again - static_cast<int>(k));
      }
    }
  }

  /// Pixels anywhere near each other.
  HWY_INLINE void pick(const Block& at, int start, int again) {
    for (std::size_t k = 0; k < block; k += hn::Lanes(floats)) pick_lanes(at, k, start, again);
  }
  HWY_INLINE void pick_lanes(const Block& at, std::size_t k, int start, int again) {
    const auto dx = hn::Load(ints, at.dx + k), dy = hn::Load(ints, at.dy + k);
    const auto rows = hn::Mul(hn::ShiftRight<fraction_bits>(dy), hn::Set(ints, static_cast<int>(samples_.stride)));
    const auto offsets =
        hn::Mul(hn::Add(rows, hn::ShiftRight<fraction_bits>(dx)), hn::Set(ints, std::int32_t{sizeof(T)}));
    F wx[taps], wy[taps];
    weights_(part(dx), wx);
    weights_(part(dy), wy);
    for (int band = 0; band < samples_.bands; ++band) {
      const T* p = sample(band, at.x - middle, at.y - middle);
      F sums[taps];
      for (int r = 0; r < taps; ++r, p += samples_.stride) {
        F line[taps];
        gather<taps>(p, offsets, line);
        sums[r] = weighted<differences>(line, wx, taps, middle);
      }
      write(weighted<differences>(sums, wy, taps, middle), band, start + static_cast<int>(k),
            again - static_cast<int>(k));
    }
  }

  const Samples& samples_;
  const RowTarget& target_;
  std::int64_t& clamped_;
  W weights_;
};

template <class T, class W>
HWY_NOINLINE void RunRow(const Samples& samples, const Matrix3& m, int x, int y, int count, const RowTarget& target,
                         std::vector<Stretch>& rest, std::int64_t& clamped) {
  RowLoop<T, W> loop(samples, target, clamped);
  if (m(2, 0) != 0) return loop.run(ProjectiveWalk(m, x, y), x, count, rest);
  // Fixed point holds what is near the picture.
  constexpr double farthest = 1 << 21, steepest = 6;
  const double w = m(2, 1) * (y + 0.5) + m(2, 2);
  Matrix3 affine = m / w;
  affine.row(2) << 0, 0, 1;
  double most = std::max(std::abs(affine(0, 0)), std::abs(affine(1, 0)));
  bool near = std::isfinite(most) && most < steepest;
  for (const double column : {x + 0.5, x + count + 0.5})
    for (int axis = 0; axis < 2; ++axis)
      near = near && std::abs(affine(axis, 0) * column + affine(axis, 1) * (y + 0.5) + affine(axis, 2)) < farthest;
  if (!near) {
    rest.push_back({x, count});
    return;
  }
  loop.run(AffineWalk(affine, x, y), x, count, rest);
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
