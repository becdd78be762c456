// The vector code of row_float.cpp, compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_ROWS_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_ROWS_INL_H
#undef FEXEL_RESAMPLE_ROWS_INL_H
#else
#define FEXEL_RESAMPLE_ROWS_INL_H
#endif

#include "resample/coordinates/row_coordinates-inl.h"
#include "resample/paths/taps-inl.h"

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
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

  RowLoop(const Samples& samples, const MapGridRow& row, const RowTarget& target, std::int64_t& clamped)
      : samples_(samples),
        target_(target),
        clamped_(clamped),
        ahead_(static_cast<std::ptrdiff_t>(rows_ahead * row.down.y) * samples.stride +
               static_cast<std::ptrdiff_t>(rows_ahead * row.down.x)) {}

  /// Pixels [x, x + count) of a row that bends.
  HWY_INLINE void follow(const MapGridRow& row, int x, int count, std::vector<PixelSpan>& rest) {
    const auto [left, top, right, bottom] = room();
    for (int i = x; i < x + count;) {
      const auto stretch = static_cast<std::size_t>((i - row.first) / segment);
      const int begin = row.first + static_cast<int>(stretch) * segment;
      const int end = std::min(begin + segment, x + count);
      const GridPlace &from = row.places[stretch], &to = row.places[stretch + 1];
      // A cubic lies within its control points.
      const auto within = [](double a, double da, double db, double b, double low, double high) {
        return std::min({a, a + da / 3, b - db / 3, b}) > low && std::max({a, a + da / 3, b - db / 3, b}) < high;
      };
      if (end - i >= block && row.sound[stretch] != 0 && within(from.x, from.dx, to.dx, to.x, left, right) &&
          within(from.y, from.dy, to.dy, to.y, top, bottom) && walk_.along(from, to))
        blocks_apart(begin - x, end - begin, i - begin, i - begin);
      else
        leave(i, end - i, rest);
      i = end;
    }
  }

  /// A run of pixels whose places are given; false where one of them has to be left.
  HWY_INLINE bool place(const SourcePoints& run) {
    const auto [left, top, right, bottom] = room();
    if (run.count < block) return false;
    for (std::size_t i = 0; i < static_cast<std::size_t>(run.count); ++i)
      if (!(run.x[i] > left && run.x[i] < right && run.y[i] > top && run.y[i] < bottom)) return false;
    if (!walk_.given(run)) return false;
    blocks_apart(0, run.count, 0, 0);
    return true;
  }

  HWY_INLINE void run(int x, int count, std::vector<PixelSpan>& rest) {
    const auto [left, top, right, bottom] = room();
    const auto [first, last] = walk_.inside(count, left, top, right, bottom);
    if (last - first < block) return leave(x, count, rest);
    leave(x, first, rest);
    int done = first;
    if constexpr (in_rows)
      if (walk_.straight()) done = straight_blocks(first, last);
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
  // Pixels that lie side by side are worked on in rows; bytes are done as words there, see words.h. Without vectors
  // there is nothing to gain.
  static constexpr bool in_rows = sizeof(T) > 1 && HWY_TARGET != HWY_SCALAR;
  static constexpr int rows_ahead = 12;

  /// Where points may stand so that all taps are there, and one pixel more on each side.
  struct Room {
    double left, top, right, bottom;
  };
  Room room() const {
    constexpr double before = middle + 1.5, behind = taps - middle + 0.5;
    return {samples_.left + before, samples_.top + before, samples_.right - behind, samples_.bottom - behind};
  }
  static void leave(int x, int count, std::vector<PixelSpan>& rest) {
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

  /// The pixels of the walk's segment from `begin` on, of which the first `again` are already written; it begins at
  /// pixel `start`.
  HWY_INLINE void blocks(int start, int pixels, int again, int begin = 0) {
    for (int next = begin; next < pixels;) {
      const int k = std::min(next, pixels - block);
      again_ = std::max(again, next) - k;
      walk_.detail();
      bool done = false;
      if constexpr (in_rows) done = side_by_side(k, start);
      if (!done)
        for (std::size_t lane = 0; lane < block; lane += hn::Lanes(floats)) pick(k, lane, start);
      next += block;
    }
  }

  /// For rows that bend, so that blocks need not stand in every loop.
  HWY_NOINLINE void blocks_apart(int start, int pixels, int again, int begin) { blocks(start, pixels, again, begin); }

  /// A block whose pixels lie nearly side by side; false where they do not.
  HWY_INLINE bool side_by_side(int k, int start) {
    const Place at = place(k, block);
    if (at.slip > 1 || at.span > 3) return false;
    if (at.span > 1)
      slide<3, 1>(at, k, start);
    else if (at.slip == 1)
      slide<1, 1>(at, k, start);
    else
      slide<1, 0>(at, k, start);
    return true;
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
    std::byte* out = target_.first;
    for (int band = 0; band < samples_.bands; ++band, in += samples_.plane, out += target_.plane) {
      const T* p = in;
      hwy::Prefetch(p + ahead_);
      F sums[taps + span];
      for (int r = 0; r < taps + span; ++r, p += samples_.stride) {
        F line[taps + slip];
        for (int c = 0; c < taps + slip; ++c) line[c] = load(p + c);
        sums[r] = weighted<differences>(line, wx, taps + slip, middle);
      }
      write(weighted<differences>(sums, wy, taps + span, middle), out, start, lane);
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
    const typename RowCoordinates::Line line = walk_.line(first);
    const double most = 1.0 / (block - 1), rise = std::abs(static_cast<double>(line.step_y)) * 0x1p-32,
                 drift = std::abs(static_cast<double>(line.step_x) * 0x1p-32 - 1);
    return drift > most || rise > most ? first : level_blocks(first, last, line);
  }
  HWY_INLINE int level_blocks(int first, int last, typename RowCoordinates::Line line) {
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

  /// Pixels anywhere near each other.
  HWY_NOINLINE void pick(int k, std::size_t lane, int start) {
    const auto dx = hn::LoadU(ints, walk_.dx + k + lane), dy = hn::LoadU(ints, walk_.dy + k + lane);
    const auto rows = hn::Mul(hn::ShiftRight<fraction_bits>(dy), hn::Set(ints, static_cast<int>(samples_.stride)));
    const auto offsets =
        hn::Mul(hn::Add(rows, hn::ShiftRight<fraction_bits>(dx)), hn::Set(ints, std::int32_t{sizeof(T)}));
    F wx[taps], wy[taps];
    weights_(part(dx), wx);
    weights_(part(dy), wy);
    const T* in = sample(walk_.x - middle, walk_.y - middle);
    std::byte* out = target_.first;
    for (int band = 0; band < samples_.bands; ++band, in += samples_.plane, out += target_.plane) {
      const T* p = in;
      F sums[taps];
      for (int r = 0; r < taps; ++r, p += samples_.stride) {
        F line[taps];
        gather<taps>(p, offsets, line);
        sums[r] = weighted<differences>(line, wx, taps, middle);
      }
      write(weighted<differences>(sums, wy, taps, middle), out, start + k, lane);
    }
  }

  const Samples& samples_;
  const RowTarget& target_;
  std::int64_t& clamped_;
  std::ptrdiff_t ahead_;
  int again_ = 0;  // pixels of the block that are already written
  RowCoordinates walk_;
  W weights_;
};

template <class T, class W>
HWY_NOINLINE void RunRow(const Samples& samples, const Matrix3& m, int x, int y, int count, const RowTarget& target,
                         std::vector<PixelSpan>& rest, std::int64_t& clamped) {
  const double w = m(2, 0) * (x + 0.5) + m(2, 1) * (y + 0.5) + m(2, 2);
  RowLoop<T, W>(samples, w < 0 ? Matrix3(-m) : m, x, y, count, target, clamped).run(x, count, rest);
}

template <class T, class W>
HWY_NOINLINE void FollowRow(const Samples& samples, const MapGridRow& row, int x, int count, const RowTarget& target,
                            std::vector<PixelSpan>& rest, std::int64_t& clamped) {
  RowLoop<T, W>(samples, row, target, clamped).follow(row, x, count, rest);
}

template <class T, class W>
HWY_NOINLINE bool InterpolateAt(const Samples& samples, const SourcePoints& run, const RowTarget& target,
                                std::int64_t& clamped) {
  return RowLoop<T, W>(samples, MapGridRow{}, target, clamped).place(run);
}

/// Calls `body` with a sample type and weights.
template <class Body>
HWY_INLINE auto with_weights(Depth depth, Kernel kernel, const Body& body) {
  if (kernel == Kernel::bspline3) return body(float{}, SplineWeights());
  return visit_depth(depth, [&](auto sample) {
    constexpr int terms = sizeof(sample) == 1 ? 4 : 5;
    if (kernel == Kernel::cubic) return body(sample, CubicWeights());
    if (kernel == Kernel::lanczos3) return body(sample, LanczosWeights<terms>());
    return body(sample, LinearWeights());
  });
}

void InterpolateAlong(const Samples& samples, Kernel kernel, const MapGridRow& row, int x, int count,
                      const RowTarget& target, std::vector<PixelSpan>& rest, std::int64_t& clamped) {
  with_weights(samples.depth, kernel, [&](auto sample, auto weights) {
    FollowRow<decltype(sample), decltype(weights)>(samples, row, x, count, target, rest, clamped);
  });
}

void InterpolateRow(const Samples& samples, Kernel kernel, const Matrix3& inverse_map, int x, int y, int count,
                    const RowTarget& target, std::vector<PixelSpan>& rest, std::int64_t& clamped) {
  with_weights(samples.depth, kernel, [&](auto sample, auto weights) {
    RunRow<decltype(sample), decltype(weights)>(samples, inverse_map, x, y, count, target, rest, clamped);
  });
}

bool InterpolatePoints(const Samples& samples, Kernel kernel, const SourcePoints& run, const RowTarget& target,
                       std::int64_t& clamped) {
  return with_weights(samples.depth, kernel, [&](auto sample, auto weights) {
    return InterpolateAt<decltype(sample), decltype(weights)>(samples, run, target, clamped);
  });
}

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
