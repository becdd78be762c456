// The vector code of words.cpp, compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_WORDS_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_WORDS_INL_H
#undef FEXEL_RESAMPLE_WORDS_INL_H
#else
#define FEXEL_RESAMPLE_WORDS_INL_H
#endif

#include <array>

#include "resample/walk-inl.h"

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
#if HWY_TARGET != HWY_SCALAR
constexpr int word_block = Words::block;
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

/// Linear interpolation needs no weights of its taps, but shares of what they differ by: see steps_of().
struct LinearWordWeights {
  static constexpr int taps = 2;
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

/// How much of each of `steps` steps from tap to tap a lane goes, 0 to −1 of each, by its distance from the first tap.
template <int steps>
HWY_INLINE void steps_of(Count distance, Word* out) {
  const auto twice = [](Count d) HWY_ATTR { return hn::BitCast(word_tag, hn::Add(d, d)); };
  const auto none = hn::Zero(word_tag);
  if constexpr (steps == 1) {
    out[0] = hn::Neg(twice(distance));
  } else if constexpr (steps == 2) {
    const auto beyond = hn::Add(twice(distance), all_of(minus_one));  // the second tap
    out[0] = hn::Sub(all_of(minus_one), hn::Min(beyond, none));
    out[1] = hn::Min(hn::SaturatedSub(none, beyond), none);
  } else {
    const auto one = hn::Set(count_tag, one_place);
    for (int k = 0; k < steps; ++k) {
      const auto passed = hn::Set(count_tag, static_cast<std::uint16_t>(k * one_place));
      out[k] = hn::Neg(twice(hn::Min(hn::SaturatedSub(distance, passed), one)));
    }
  }
}

/// Interpolates one row with weights W.
template <class W>
class WordLoop {
 public:
  WordLoop(const Words& words, const Matrix3& m, int x, int y, int count, const RowTarget& target,
           std::vector<Stretch>& rest, std::int64_t& clamped)
      : words_(words), target_(target), rest_(rest), clamped_(clamped), x_(x), end_(x + count), walk_(m, x, y, count) {}
  WordLoop(const Words& words, int x, int count, const RowTarget& target, std::vector<Stretch>& rest,
           std::int64_t& clamped)
      : words_(words), target_(target), rest_(rest), clamped_(clamped), x_(x), end_(x + count) {}

  /// The pixels of a row under a matrix. Blocks begin at multiples of their length, whatever the row: so a pixel comes
  /// out the same whichever part of a result it is asked for with.
  HWY_INLINE void run() {
    if (walk_.straight()) return straight();
    bent(before(x_, segment), [this](int start) HWY_ATTR {
      if (!walk_.at(start - x_, segment)) return false;
      walk_.detail();
      return true;
    });
  }

  /// The pixels of a row that bends.
  HWY_INLINE void follow(const CourseRow& row) {
    bent(row.first + (x_ - row.first) / segment * segment, [this, &row](int start) HWY_ATTR {
      const auto stretch = static_cast<std::size_t>((start - row.first) / segment);
      return row.sound[stretch] != 0 && walk_.along(row.places[stretch], row.places[stretch + 1]);
    });
  }

 private:
  static constexpr int taps = W::taps;
  static constexpr int middle = taps / 2 - 1;
  // What lanczos3 makes of the sharpest patterns does not fit a word; half of its taps do.
  static constexpr int parts = taps == 6 ? 2 : 1, share = taps / parts;

  /// The last place for a block of this length to begin, at or before x.
  int before(int x, int length) const { return ((x + words_.phase()) & -length) - words_.phase(); }
  void leave(int begin, int end) {
    if (begin >= end) return;
    if (!rest_.empty() && rest_.back().x + rest_.back().count == begin)
      rest_.back().count += end - begin;
    else
      rest_.push_back({begin, end - begin});
  }

  /// Where samples are read and written: passed by value, for bytes that are written could be any member's.
  struct Frame {
    const std::int16_t* origin;  // pixel (0, 0) of the picture
    std::ptrdiff_t stride, plane;
    int bands;
    std::byte* first;  // of the row's first pixel
    std::ptrdiff_t out_plane;
    std::int64_t left, top, right, bottom;  // of the samples
    const std::int16_t* at(std::int64_t x, std::int64_t y) const { return origin + y * stride + x; }
    /// Whether the samples of a block are there whose first tap is at (x, y).
    template <int down, int across>
    bool holds(std::int64_t x, std::int64_t y) const {
      return x >= left && x + word_block + taps + across <= right && y >= top && y + taps + down <= bottom;
    }
  };
  Frame frame() const {
    const Region& box = words_.box();
    return {words_.at(0, 0), words_.stride(), words_.plane(), words_.bands(),    target_.first,
            target_.plane,   box.x,           box.y,          box.x + box.width, box.y + box.height};
  }
  /// Distances of a block's lanes from where its taps begin.
  struct Lanes {
    Count x[word_block / word_lanes], y[word_block / word_lanes];
  };
  /// Lanes of a block that belong to the row.
  struct Part {
    int begin, end;
  };

  /// Interpolates a vector of pixels, whose taps begin at `in` for a distance of nothing: beside stepping along the row
  /// by one pixel a lane, they are at most `across` and `down` apart. The lanes of `part` are looked at for
  /// clamping.
  template <int down, int across>
  HWY_INLINE void mix(const Frame& frame, const std::int16_t* in, Count x, Count y, std::byte* out,
                      std::ptrdiff_t out_plane, Part part) {
    if constexpr (taps == 2)
      step<down + 1, across + 1>(frame, in, x, y, out, out_plane);
    else
      weigh<down, across>(frame, in, x, y, out, out_plane, part);
  }
  static HWY_INLINE void put(Word rounded, std::byte* out) {
    const hn::Rebind<std::uint8_t, Signed> bytes;
    hn::StoreU(hn::DemoteTo(bytes, rounded), bytes, reinterpret_cast<std::uint8_t*>(out));
  }
  template <int down, int across>
  HWY_INLINE void step(const Frame& frame, const std::int16_t* in, Count x, Count y, std::byte* out,
                       std::ptrdiff_t out_plane) {
    Word along[across], below[down];
    steps_of<across>(x, along);
    steps_of<down>(y, below);
    const auto toward = [](Word from, Word to, Word share)
                            HWY_ATTR { return hn::MulFixedPoint15(hn::Sub(to, from), share); };
    const auto line = [&](const std::int16_t* p) HWY_ATTR {
      auto tap = hn::LoadU(word_tag, p), sum = tap;
      for (int c = 0; c < across; ++c) {
        const auto next = hn::LoadU(word_tag, p + c + 1);
        sum = hn::Sub(sum, toward(tap, next, along[c]));
        tap = next;
      }
      return sum;
    };
    for (int band = 0; band < frame.bands; ++band, in += frame.plane, out += out_plane) {
      const std::int16_t* p = in;
      auto above = line(p), sum = hn::Add(above, all_of(64));
      for (int r = 0; r < down; ++r) {
        const auto next = line(p += frame.stride);
        sum = hn::Sub(sum, toward(above, next, below[r]));
        above = next;
      }
      put(hn::Add(hn::ShiftRight<7>(sum), all_of(128)), out);
    }
  }
  template <int down, int across>
  HWY_INLINE void weigh(const Frame& frame, const std::int16_t* in, Count x, Count y, std::byte* out,
                        std::ptrdiff_t out_plane, Part part) {
    const auto fraction = [](Count distance) HWY_ATTR {
      return hn::BitCast(word_tag, hn::And(hn::Add(distance, distance), hn::Set(count_tag, std::uint16_t{0x7fff})));
    };
    Word plain[taps], wx[taps + across], wy[parts][share + down];
    weights_(fraction(x), plain);
    spread<taps, across>(plain, x, wx);
    weights_(fraction(y), plain);
    for (int half = 0; half < parts; ++half) spread<share, down>(plain + half * share, y, wy[half]);
    for (int band = 0; band < frame.bands; ++band, in += frame.plane, out += out_plane) {
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
      const auto outside = hn::Gt(hn::BitCast(count_tag, rounded), hn::Set(count_tag, std::uint16_t{255}));
      if (HWY_UNLIKELY(!hn::AllFalse(count_tag, outside))) {
        const auto before = hn::FirstN(count_tag, static_cast<std::size_t>(std::max(part.begin, 0)));
        const auto until = hn::FirstN(count_tag, static_cast<std::size_t>(std::max(part.end, 0)));
        clamped_ += static_cast<std::int64_t>(hn::CountTrue(count_tag, hn::And(until, hn::AndNot(before, outside))));
      }
      put(rounded, out);
    }
  }

  /// A block of which only some lanes belong to the row.
  template <int down, int across>
  HWY_NOINLINE void place_part(const Frame& frame, const std::int16_t* in, const Lanes& lanes, int start) {
    const Part part{std::max(0, x_ - start), std::min(word_block, end_ - start)};
    std::byte* out = frame.first + (start - x_);
    std::array<std::byte, word_block * most_bands> aside;
    std::vector<std::byte> more;
    std::byte* at = aside.data();
    if (frame.bands > most_bands) {
      more.resize(static_cast<std::size_t>(word_block * frame.bands));
      at = more.data();
    }
    write<down, across>(frame, in, lanes, part, at, word_block);
    for (int band = 0; band < frame.bands; ++band, at += word_block, out += frame.out_plane)
      std::copy(at + part.begin, at + part.end, out + part.begin);
  }
  template <int down, int across>
  HWY_INLINE void write(const Frame& frame, const std::int16_t* in, const Lanes& lanes, Part part, std::byte* out,
                        std::ptrdiff_t out_plane) {
    for (std::size_t lane = 0; lane < word_block; lane += word_lanes) {
      const int from = static_cast<int>(lane);
      mix<down, across>(frame, in + lane, lanes.x[lane / word_lanes], lanes.y[lane / word_lanes], out + lane, out_plane,
                        {part.begin - from, part.end - from});
    }
  }

  /// Along a straight row its place is kept in whole numbers, of 32 bits a pixel, from places that stand at the same
  /// pixels whatever the row.
  HWY_INLINE void straight() {
    const typename Walk::Line line = walk_.line(0);
    constexpr double unit = 0x1p-32;
    const double rise = std::abs(static_cast<double>(line.step_y)) * unit * (word_block - 1),
                 drift = std::abs(static_cast<double>(line.step_x) * unit - 1) * (word_block - 1);
    if (drift > 0.99 || rise > 2.99) return leave(x_, end_);
    constexpr int apart = 1024;
    for (int from = before(x_, apart); from < end_; from += apart) {
      const int to = std::min(from + apart, end_);
      if (rise <= 0.99)
        straight_blocks<1, 1>(from, to);
      else if (rise <= 1.99)
        straight_blocks<2, 1>(from, to);
      else
        straight_blocks<3, 1>(from, to);
    }
  }
  /// A block on a straight row: what its lanes are apart from each other is the same in all blocks.
  struct Slant {
    Lanes apart;                        // from the lowest
    std::int64_t x, y, step_x, step_y;  // the lowest place of a lane, and from block to block, in units of 2^-32 px
    std::uint32_t upright_to;           // up to this distance from a pixel, all lanes begin at the same one
    static constexpr int coarser = 32 - place_bits;
    static std::uint32_t part(std::int64_t at) { return static_cast<std::uint32_t>(at) >> coarser; }
    std::int64_t left() const { return x >> 32; }
    std::int64_t top() const { return y >> 32; }
    bool upright() const { return part(x) <= upright_to; }
    HWY_INLINE Lanes lanes() const {
      const auto base_x = hn::Set(count_tag, static_cast<std::uint16_t>(part(x)));
      const auto base_y = hn::Set(count_tag, static_cast<std::uint16_t>(part(y)));
      Lanes out;
      for (std::size_t i = 0; i < word_block / word_lanes; ++i) {
        out.x[i] = hn::Add(apart.x[i], base_x);
        out.y[i] = hn::Add(apart.y[i], base_y);
      }
      return out;
    }
    Slant after(std::int64_t blocks) const {
      Slant out = *this;
      out.x += blocks * step_x, out.y += blocks * step_y;
      return out;
    }
  };
  Slant slant(const typename Walk::Line& line) const {
    constexpr int coarser = Slant::coarser;
    constexpr std::int64_t whole = std::int64_t{1} << 32, half = std::int64_t{1} << (coarser - 1);
    const auto apart = [](std::int64_t step, int k) { return (step * k + half) >> coarser; };
    const std::int64_t drift = line.step_x - whole;
    const std::int64_t end_x = apart(drift, word_block - 1), end_y = apart(line.step_y, word_block - 1);
    const std::int64_t low_x = std::min<std::int64_t>(end_x, 0), low_y = std::min<std::int64_t>(end_y, 0);
    alignas(64) std::uint16_t aside[word_block], below[word_block];
    for (int k = 0; k < word_block; ++k) {
      aside[k] = static_cast<std::uint16_t>(apart(drift, k) - low_x);
      below[k] = static_cast<std::uint16_t>(apart(line.step_y, k) - low_y);
    }
    Slant out;
    for (std::size_t lane = 0; lane < word_block; lane += word_lanes) {
      out.apart.x[lane / word_lanes] = hn::Load(count_tag, aside + lane);
      out.apart.y[lane / word_lanes] = hn::Load(count_tag, below + lane);
    }
    out.x = line.x + half + low_x * (std::int64_t{1} << coarser);
    out.y = line.y + half + low_y * (std::int64_t{1} << coarser);
    out.step_x = word_block * line.step_x, out.step_y = word_block * line.step_y;
    out.upright_to = one_place - 1U - static_cast<std::uint32_t>(std::abs(end_x));
    return out;
  }
  template <int down, int across>
  HWY_INLINE void straight_blocks(int from, int to) {
    const Frame frame = this->frame();
    const Slant origin = slant(walk_.line(from - x_));
    const auto held = [&](int start) {
      const Slant at = origin.after((start - from) / word_block);
      return frame.template holds<down, across>(at.left() - middle, at.top() - middle);
    };
    const auto part = [&](int start) {
      const Slant at = origin.after((start - from) / word_block);
      place_part<down, across>(frame, frame.at(at.left() - middle, at.top() - middle), at.lanes(), start);
    };
    int start = std::max(from, before(x_, word_block));
    // Places change evenly: what holds at both ends holds between.
    if (HWY_UNLIKELY(!held(start) || !held(before(to - 1, word_block)))) return leave(std::max(from, x_), to);
    if (start < x_) {
      part(start);
      start += word_block;
    }
    const int whole = std::max(0, (to - start) / word_block);
    if (whole > 0) whole_blocks<down, across>(frame, origin.after((start - from) / word_block), start, whole);
    start += whole * word_block;
    if (start < to) part(start);
  }
  /// So many blocks that all belong to the row. Nothing is called here: constants stay in registers.
  template <int down, int across>
  HWY_NOINLINE void whole_blocks(const Frame& row, const Slant& first, int start, int count) {
    const Frame frame = row;
    Slant at = first;
    std::byte* out = frame.first + (start - x_);
    for (; count > 0; --count, at.x += at.step_x, at.y += at.step_y, out += word_block) {
      const Lanes lanes = at.lanes();
      const std::int16_t* in = frame.at(at.left() - middle, at.top() - middle);
      if (HWY_LIKELY(at.upright()))
        write<down, 0>(frame, in, lanes, {0, word_block}, out, frame.out_plane);
      else
        write<down, across>(frame, in, lanes, {0, word_block}, out, frame.out_plane);
    }
  }

  /// The pixels of a row that bends, whose segments begin at `start` and so on; `find` works out the places of one.
  template <class Find>
  HWY_INLINE void bent(int start, const Find& find) {
    const Frame frame = this->frame();
    while (start < end_) {
      if (start >= x_ && start + segment <= end_) start = whole_segments(frame, start, find);
      if (start < end_) part_segment(frame, start, find);
      start += segment;
    }
  }
  /// Where a block of a segment begins to read, and how far its lanes spread.
  struct Spot {
    int left, top, most;
  };
  Spot spot(int k) const {
    const int end = k + word_block - 1;
    const int x0 = walk_.dx[k] >> fraction_bits, x1 = (walk_.dx[end] >> fraction_bits) - (word_block - 1);
    const int y0 = walk_.dy[k] >> fraction_bits, y1 = walk_.dy[end] >> fraction_bits;
    return {std::min(x0, x1), std::min(y0, y1), std::max(std::abs(x1 - x0), std::abs(y1 - y0))};
  }
  /// Segments that all belong to the row, to the first that cannot be done wholly; where that begins. Nothing is called
  /// here: constants stay in registers.
  template <class Find>
  HWY_NOINLINE int whole_segments(const Frame& row, int start, const Find& find) {
    const Frame frame = row;
    bool steep = false;
    for (; start + segment <= end_; start += segment) {
      if (HWY_UNLIKELY(!find(start))) return start;
      std::byte* out = frame.first + (start - x_);
      for (int k = 0; k < segment; k += word_block, out += word_block) {
        const Spot at = spot(k);
        if (HWY_UNLIKELY(at.most > 2)) return start;
        steep = steep || at.most == 2;
        const std::int64_t x = walk_.x + at.left - middle, y = walk_.y + at.top - middle;
        const Lanes lanes = lanes_at(at, k);
        if (HWY_UNLIKELY(steep || beyond<1>(lanes))) {
          if (HWY_UNLIKELY((beyond<2>(lanes) || !frame.template holds<2, 2>(x, y)))) return start;
          write<2, 2>(frame, frame.at(x, y), lanes, {0, word_block}, out, frame.out_plane);
        } else {
          if (HWY_UNLIKELY((!frame.template holds<1, 1>(x, y)))) return start;
          write<1, 1>(frame, frame.at(x, y), lanes, {0, word_block}, out, frame.out_plane);
        }
      }
    }
    return start;
  }
  /// A segment at an end of the row, or one of which something is left.
  template <class Find>
  HWY_NOINLINE void part_segment(const Frame& frame, int start, const Find& find) {
    if (!find(start)) return leave(std::max(start, x_), std::min(start + segment, end_));
    for (int k = 0; k < segment; k += word_block) {
      const int first = start + k;
      if (first + word_block <= x_ || first >= end_) continue;
      const Spot at = spot(k);
      const std::int64_t x = walk_.x + at.left - middle, y = walk_.y + at.top - middle;
      const Lanes lanes = at.most <= 2 ? lanes_at(at, k) : Lanes{};
      if (at.most > 2 || beyond<2>(lanes))
        leave(std::max(first, x_), std::min(first + word_block, end_));
      else if (frame.template holds<2, 2>(x, y))
        place_part<2, 2>(frame, frame.at(x, y), lanes, first);
      else if (!beyond<1>(lanes) && frame.template holds<1, 1>(x, y))
        place_part<1, 1>(frame, frame.at(x, y), lanes, first);
      else
        leave(std::max(first, x_), std::min(first + word_block, end_));
    }
  }
  HWY_INLINE Lanes lanes_at(const Spot& at, int k) const {
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
    Lanes lanes;
    for (std::size_t i = 0; i < word_block / word_lanes; ++i) {
      const std::size_t from = static_cast<std::size_t>(k) + i * word_lanes;
      const auto before = static_cast<std::int32_t>(i * word_lanes);
      lanes.x[i] = distances(walk_.dx + from, half - (at.left + before) * one_pixel, one_pixel);
      lanes.y[i] = distances(walk_.dy + from, half - at.top * one_pixel, 0);
    }
    return lanes;
  }
  /// Whether a lane is more than `most` pixels farther than the nearest: between the ends of a block, a bend may take
  /// one beyond them.
  template <int most>
  static HWY_INLINE bool beyond(const Lanes& lanes) {
    auto farthest = hn::Zero(count_tag);
    for (std::size_t i = 0; i < word_block / word_lanes; ++i)
      farthest = hn::Max(farthest, hn::Max(lanes.x[i], lanes.y[i]));
    const auto limit = hn::Set(count_tag, static_cast<std::uint16_t>((1 + most) * one_place - 1));
    return !hn::AllFalse(count_tag, hn::Gt(farthest, limit));
  }

  static constexpr int most_bands = 4;  // that are put aside without asking for memory
  const Words& words_;
  const RowTarget& target_;
  std::vector<Stretch>& rest_;
  std::int64_t& clamped_;
  int x_, end_;  // of the row
  Walk walk_;
  W weights_;
};

template <class W>
HWY_NOINLINE void RunWords(const Words& words, const Matrix3& m, int x, int y, int count, const RowTarget& target,
                           std::vector<Stretch>& rest, std::int64_t& clamped) {
  const double w = m(2, 0) * (x + 0.5) + m(2, 1) * (y + 0.5) + m(2, 2);
  WordLoop<W>(words, w < 0 ? Matrix3(-m) : m, x, y, count, target, rest, clamped).run();
}

template <class W>
HWY_NOINLINE void FollowWords(const Words& words, const CourseRow& row, int x, int count, const RowTarget& target,
                              std::vector<Stretch>& rest, std::int64_t& clamped) {
  WordLoop<W>(words, x, count, target, rest, clamped).follow(row);
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
