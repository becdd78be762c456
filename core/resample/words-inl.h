// The vector code of words.cpp, compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_WORDS_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_WORDS_INL_H
#undef FEXEL_RESAMPLE_WORDS_INL_H
#else
#define FEXEL_RESAMPLE_WORDS_INL_H
#endif

#include "resample/walk-inl.h"

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
#if HWY_TARGET != HWY_SCALAR
/// Pixels that are interpolated together.
constexpr int word_block = 32;
using Signed = hn::CappedTag<std::int16_t, word_block>;
using Counts = hn::RebindToUnsigned<Signed>;
using Word = hn::Vec<Signed>;
using Count = hn::Vec<Counts>;
constexpr Signed word_tag;
constexpr Counts count_tag;
constexpr std::size_t word_lanes = hn::MaxLanes(word_tag);

/// Distances are in units of 2^-14 px, with two bits for whole pixels above.
constexpr int place_bits = 14;
constexpr std::uint16_t one_place = 1 << place_bits;

/// Weights are in units of -2^-15: of the two signs only the negative one holds a one.
constexpr std::int16_t minus_one = -32768;
HWY_INLINE Word all_of(std::int16_t value) {
  return hn::Set(word_tag, value);
}

struct LinearWordWeights {
  static constexpr int taps = 2;
  /// `t` is the distance behind the tap, 0 to 1, in units of 2^-15.
  HWY_INLINE void operator()(Word t, Word* w) const {
    w[0] = hn::Add(t, all_of(minus_one));
    w[1] = hn::Neg(t);
  }
};

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

/// Weights for taps that begin where the block's do, for lanes that stand 0 to `steps` pixels further.
template <int count, int steps>
HWY_INLINE void spread(const Word* w, Count distance, Word* out) {
  for (int k = 0; k < count + steps; ++k) out[k] = k < count ? w[k] : hn::Zero(word_tag);
  for (int step = 1; step <= steps; ++step) {
    const auto here = hn::RebindMask(
        word_tag, hn::Gt(distance, hn::Set(count_tag, static_cast<std::uint16_t>(step * one_place - 1))));
    for (int k = 0; k < count + steps; ++k)
      out[k] = hn::IfThenElse(here, k < step || k - step >= count ? hn::Zero(word_tag) : w[k - step], out[k]);
  }
}

/// Interpolates one row with weights W.
template <class W>
class WordLoop {
 public:
  WordLoop(const Words& words, const Matrix3& m, int x, int y, int count, const RowTarget& target,
           std::int64_t& clamped)
      : words_(words), target_(target), clamped_(clamped), walk_(m, x, y, count) {}
  WordLoop(const Words& words, const RowTarget& target, std::int64_t& clamped)
      : words_(words), target_(target), clamped_(clamped) {}

  /// Pixels [x, x + count) under a matrix.
  HWY_INLINE void run(int x, int count, std::vector<Stretch>& rest) {
    const Bounds in = bounds();
    const auto [first, last] = walk_.inside(count, in.left, in.top, in.right, in.bottom);
    if (last - first < word_block) return leave(x, count, rest);
    leave(x, first, rest);
    if (walk_.straight())
      straight(x, first, last, rest);
    else
      for (int i = first; i < last;) {
        // The last segment begins earlier if it is too short, and writes some pixels again.
        const int start = std::min(i, last - word_block);
        const int pixels = std::min(segment, last - start);
        if (HWY_LIKELY(walk_.at(start, pixels)))
          bent(start, pixels, i - start, x, rest);
        else
          leave(x + i, start + pixels - i, rest);
        i = start + pixels;
      }
    leave(x + last, count - last, rest);
  }

  /// Pixels [x, x + count) of a row that bends.
  HWY_INLINE void follow(const CourseRow& row, int x, int count, std::vector<Stretch>& rest) {
    const Bounds in = bounds();
    for (int i = x; i < x + count;) {
      const auto stretch = static_cast<std::size_t>((i - row.first) / segment);
      const int begin = row.first + static_cast<int>(stretch) * segment;
      const int end = std::min(begin + segment, x + count);
      const CoursePlace &from = row.places[stretch], &to = row.places[stretch + 1];
      // A cubic lies within its control points.
      const auto within = [](double a, double da, double db, double b, double low, double high) {
        return std::min({a, a + da / 3, b - db / 3, b}) > low && std::max({a, a + da / 3, b - db / 3, b}) < high;
      };
      if (end - i >= word_block && row.sound[stretch] != 0 && within(from.x, from.dx, to.dx, to.x, in.left, in.right) &&
          within(from.y, from.dy, to.dy, to.y, in.top, in.bottom) && walk_.along(from, to)) {
        bent(begin - x, end - begin, i - begin, x, rest, i - begin);
      } else {
        leave(i, end - i, rest);
      }
      i = end;
    }
  }

 private:
  static constexpr int taps = W::taps;
  static constexpr int middle = taps / 2 - 1;
  // What lanczos3 makes of the sharpest patterns does not fit a word; half of its taps do.
  static constexpr int parts = taps == 6 ? 2 : 1, share = taps / parts;

  /// Where points may stand so that every tap is there, and a block beyond the last one.
  struct Bounds {
    double left, top, right, bottom;
  };
  Bounds bounds() const {
    constexpr double spare = 3;
    const Region& box = words_.box();
    return {box.x + middle + spare, box.y + middle + spare, box.x + box.width - (taps - middle) - spare,
            box.y + box.height - (taps - middle) - spare};
  }
  static void leave(int x, int count, std::vector<Stretch>& rest) {
    if (count <= 0) return;
    if (!rest.empty() && rest.back().x + rest.back().count == x)
      rest.back().count += count;
    else
      rest.push_back({x, count});
  }

  /// Where samples are read and written: passed by value, for bytes that are written could be any member's.
  struct Frame {
    const std::int16_t* origin;  // pixel (0, 0) of the picture
    std::ptrdiff_t stride, plane;
    int bands;
    std::byte* first;
    std::ptrdiff_t out_plane;
    const std::int16_t* at(std::int64_t x, std::int64_t y) const { return origin + y * stride + x; }
  };
  Frame frame() const {
    return {words_.at(0, 0), words_.stride(), words_.plane(), words_.bands(), target_.first, target_.plane};
  }

  /// Interpolates a vector of pixels, whose taps begin at `in` for a distance of nothing: beside stepping along the row
  /// by one pixel a lane, they are at most `across` and `down` apart. The lanes from `again` on are looked at for
  /// clamping.
  template <int down, int across>
  HWY_INLINE void mix(const Frame& frame, const std::int16_t* in, Count x, Count y, std::byte* out, int again) {
    const auto part = [](Count distance) HWY_ATTR {
      return hn::BitCast(word_tag, hn::And(hn::Add(distance, distance), hn::Set(count_tag, std::uint16_t{0x7fff})));
    };
    Word plain[taps], wx[taps + across], wy[parts][share + down];
    weights_(part(x), plain);
    spread<taps, across>(plain, x, wx);
    weights_(part(y), plain);
    for (int half = 0; half < parts; ++half) spread<share, down>(plain + half * share, y, wy[half]);
    for (int band = 0; band < frame.bands; ++band, in += frame.plane, out += frame.out_plane) {
      Word sums[parts];
      const std::int16_t* p = in;
      for (int r = 0; r < taps + down; ++r, p += frame.stride) {
        auto line = hn::MulFixedPoint15(hn::LoadU(word_tag, p), wx[0]);
        for (int c = 1; c < taps + across; ++c)
          line = hn::Add(line, hn::MulFixedPoint15(hn::LoadU(word_tag, p + c), wx[c]));
        for (int half = 0; half < parts; ++half) {
          const int k = r - half * share;
          if (k < 0 || k >= share + down) continue;
          const auto product = hn::MulFixedPoint15(line, wy[half][k]);
          sums[half] = k == 0 ? product : hn::Add(sums[half], product);
        }
      }
      const auto value = hn::SaturatedAdd(parts > 1 ? hn::SaturatedAdd(sums[0], sums[parts - 1]) : sums[0], all_of(64));
      const auto rounded = hn::Add(hn::ShiftRight<7>(value), all_of(128));
      if constexpr (taps > 2) {
        const auto outside = hn::Gt(hn::BitCast(count_tag, rounded), hn::Set(count_tag, std::uint16_t{255}));
        if (HWY_UNLIKELY(!hn::AllFalse(count_tag, outside))) {
          const auto from = hn::FirstN(count_tag, static_cast<std::size_t>(std::max(again, 0)));
          clamped_ += static_cast<std::int64_t>(hn::CountTrue(count_tag, hn::AndNot(from, outside)));
        }
      }
      const hn::Rebind<std::uint8_t, Signed> bytes;
      hn::StoreU(hn::DemoteTo(bytes, rounded), bytes, reinterpret_cast<std::uint8_t*>(out));
    }
  }

  /// A block at pixel `start` of the row, the first `again` of which are already written.
  template <int down, int across, class Lanes>
  HWY_INLINE void place(const Frame& frame, const std::int16_t* in, const Lanes& lanes, int start, int again) {
    for (std::size_t lane = 0; lane < word_block; lane += word_lanes) {
      const auto [x, y] = lanes(lane);
      const int from = static_cast<int>(lane);
      mix<down, across>(frame, in + lane, x, y, frame.first + start + from, again - from);
    }
  }

  /// Along a straight row: its place is kept in 32 bits of a pixel, and lanes are what blocks have in common.
  HWY_INLINE void straight(int x, int first, int last, std::vector<Stretch>& rest) {
    const typename Walk::Line line = walk_.line(first);
    constexpr double unit = 0x1p-32;
    const double rise = std::abs(static_cast<double>(line.step_y)) * unit * (word_block - 1),
                 drift = std::abs(static_cast<double>(line.step_x) * unit - 1) * (word_block - 1);
    if (drift > 1.9 || rise > 1.9) return leave(x + first, last - first, rest);
    if (drift <= 0.99 && rise <= 0.99)
      straight_blocks<1, 1>(first, last, line);
    else if (drift <= 0.99)
      straight_blocks<2, 1>(first, last, line);
    else
      straight_blocks<2, 2>(first, last, line);
  }
  template <int down, int across>
  HWY_INLINE void straight_blocks(int first, int last, const typename Walk::Line& line) {
    constexpr int coarser = 32 - place_bits;
    constexpr std::int64_t whole = std::int64_t{1} << 32, half = std::int64_t{1} << (coarser - 1);
    const Frame frame = this->frame();
    const std::int64_t drift = line.step_x - whole;
    alignas(64) std::uint16_t aside[word_block], below[word_block];
    for (int k = 0; k < word_block; ++k) {
      aside[k] = static_cast<std::uint16_t>((drift * k + half) >> coarser);
      below[k] = static_cast<std::uint16_t>((line.step_y * k + half) >> coarser);
    }
    const std::int64_t end_x = (drift * (word_block - 1) + half) >> coarser;
    const std::int64_t end_y = (line.step_y * (word_block - 1) + half) >> coarser;
    for (int next = first; next < last; next += word_block) {
      // The last block begins earlier, and writes some pixels again.
      const int i = std::min(next, last - word_block);
      const std::int64_t x = (line.x + (i - first) * line.step_x + half) >> coarser;
      const std::int64_t y = (line.y + (i - first) * line.step_y + half) >> coarser;
      const std::int64_t left = (x + std::min<std::int64_t>(end_x, 0)) >> place_bits;
      const std::int64_t top = (y + std::min<std::int64_t>(end_y, 0)) >> place_bits;
      const std::int64_t right = (x + std::max<std::int64_t>(end_x, 0)) >> place_bits;
      const auto base_x = hn::Set(count_tag, static_cast<std::uint16_t>(x - (left << place_bits)));
      const auto base_y = hn::Set(count_tag, static_cast<std::uint16_t>(y - (top << place_bits)));
      const auto lanes = [&](std::size_t lane) HWY_ATTR {
        return std::pair(hn::Add(hn::Load(count_tag, aside + lane), base_x),
                         hn::Add(hn::Load(count_tag, below + lane), base_y));
      };
      const std::int16_t* in = frame.at(left - middle, top - middle);
      if (HWY_LIKELY(left == right))
        place<down, 0>(frame, in, lanes, i, next - i);
      else
        place<down, across>(frame, in, lanes, i, next - i);
    }
  }

  /// The pixels of the walk's segment from `begin` on, of which the first `again` are already written; it begins at
  /// pixel `start` of the row, whose first is `x`. Blocks that spread too far are left.
  HWY_INLINE void bent(int start, int pixels, int again, int x, std::vector<Stretch>& rest, int begin = 0) {
    walk_.detail();
    const Frame frame = this->frame();
    for (int next = begin; next < pixels; next += word_block) {
      const int k = std::min(next, pixels - word_block), end = k + word_block - 1;
      const int x0 = walk_.dx[k] >> fraction_bits, x1 = (walk_.dx[end] >> fraction_bits) - (word_block - 1);
      const int y0 = walk_.dy[k] >> fraction_bits, y1 = walk_.dy[end] >> fraction_bits;
      const int most = std::max(std::abs(x1 - x0), std::abs(y1 - y0));
      const int left = std::min(x0, x1), top = std::min(y0, y1);
      const std::int16_t* in = frame.at(walk_.x + left - middle, walk_.y + top - middle);
      steep_ = steep_ || most == 2;
      const auto done = std::max(again, next) - k;
      const bool placed = most <= 2 && (steep_ ? bent_block<2>(frame, in, left, top, k, start + k, done)
                                               : bent_block<1>(frame, in, left, top, k, start + k, done));
      if (HWY_UNLIKELY(!placed)) leave(x + start + k + done, word_block - done, rest);
    }
  }
  template <int most>
  HWY_INLINE bool bent_block(const Frame& frame, const std::int16_t* in, int left, int top, int k, int start,
                             int again) {
    constexpr int coarser = fraction_bits - place_bits;
    constexpr std::int32_t half = 1 << (coarser - 1);
    const hn::Rebind<std::uint16_t, Floats> half_words;
    const auto distances = [&](const std::int32_t* d, std::int32_t base, std::int32_t along) HWY_ATTR {
      const auto bits = [&](std::size_t from) HWY_ATTR {
        const auto less = hn::Mul(hn::Iota(ints, static_cast<std::int32_t>(from)), hn::Set(ints, along));
        const auto place = hn::Sub(hn::Add(hn::LoadU(ints, d + from), hn::Set(ints, base)), less);
        return hn::TruncateTo(half_words, hn::ShiftRight<coarser>(hn::BitCast(unsigneds, place)));
      };
      return hn::Combine(count_tag, bits(hn::Lanes(floats)), bits(0));
    };
    Count x[word_block / word_lanes], y[word_block / word_lanes];
    auto beyond = hn::Zero(count_tag);
    for (std::size_t i = 0; i < word_block / word_lanes; ++i) {
      const std::size_t from = static_cast<std::size_t>(k) + i * word_lanes;
      const auto before = static_cast<std::int32_t>(i * word_lanes);
      x[i] = distances(walk_.dx + from, half - (left + before) * one_pixel, one_pixel);
      y[i] = distances(walk_.dy + from, half - top * one_pixel, 0);
      beyond = hn::Max(beyond, hn::Max(x[i], y[i]));
    }
    // Between the ends of a block a bend may take a lane beyond them.
    const auto far = hn::Gt(beyond, hn::Set(count_tag, static_cast<std::uint16_t>((1 + most) * one_place - 1)));
    if (HWY_UNLIKELY(!hn::AllFalse(count_tag, far))) return false;
    const auto lanes = [&](std::size_t lane) HWY_ATTR { return std::pair(x[lane / word_lanes], y[lane / word_lanes]); };
    place<most, most>(frame, in, lanes, start, again);
    return true;
  }

  const Words& words_;
  const RowTarget& target_;
  std::int64_t& clamped_;
  bool steep_ = false;
  Walk walk_;
  W weights_;
};

template <class W>
HWY_NOINLINE void RunWords(const Words& words, const Matrix3& m, int x, int y, int count, const RowTarget& target,
                           std::vector<Stretch>& rest, std::int64_t& clamped) {
  const double w = m(2, 0) * (x + 0.5) + m(2, 1) * (y + 0.5) + m(2, 2);
  WordLoop<W>(words, w < 0 ? Matrix3(-m) : m, x, y, count, target, clamped).run(x, count, rest);
}

template <class W>
HWY_NOINLINE void FollowWords(const Words& words, const CourseRow& row, int x, int count, const RowTarget& target,
                              std::vector<Stretch>& rest, std::int64_t& clamped) {
  WordLoop<W>(words, target, clamped).follow(row, x, count, rest);
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

void InterpolateWords(const Words& words, Kernel kernel, const Matrix3& pull, int x, int y, int count,
                      const RowTarget& target, std::vector<Stretch>& rest, std::int64_t& clamped) {
  with_word_weights(
      kernel, [&](auto weights) { RunWords<decltype(weights)>(words, pull, x, y, count, target, rest, clamped); });
}

void InterpolateWordsAlong(const Words& words, Kernel kernel, const CourseRow& row, int x, int count,
                           const RowTarget& target, std::vector<Stretch>& rest, std::int64_t& clamped) {
  with_word_weights(kernel,
                    [&](auto weights) { FollowWords<decltype(weights)>(words, row, x, count, target, rest, clamped); });
}
#else
// One pixel at a time, small numbers gain nothing.
void InterpolateWords(const Words&, Kernel, const Matrix3&, int x, int, int count, const RowTarget&,
                      std::vector<Stretch>& rest, std::int64_t&) {
  rest.push_back({x, count});
}
void InterpolateWordsAlong(const Words&, Kernel, const CourseRow&, int x, int count, const RowTarget&,
                           std::vector<Stretch>& rest, std::int64_t&) {
  rest.push_back({x, count});
}
#endif

/// One row of bytes as words; a row that is wanted soon lies `ahead` bytes further.
void LayWords(const std::uint8_t* in, int count, [[maybe_unused]] std::ptrdiff_t ahead, std::int16_t* out) {
  int i = 0;
#if HWY_TARGET != HWY_SCALAR
  const hn::Rebind<std::uint8_t, Signed> bytes;
  for (; i + static_cast<int>(word_lanes) <= count; i += static_cast<int>(word_lanes)) {
    hwy::Prefetch(in + i + ahead);
    const auto samples = hn::PromoteTo(word_tag, hn::LoadU(bytes, in + i));
    hn::StoreU(hn::Sub(hn::ShiftLeft<7>(samples), all_of(128 * 128)), word_tag, out + i);
  }
#endif
  for (; i < count; ++i) out[i] = static_cast<std::int16_t>((in[i] - 128) * 128);
}

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
