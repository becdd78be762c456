// The vector code of row_int16.cpp, compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_WORDS_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_WORDS_INL_H
#undef FEXEL_RESAMPLE_WORDS_INL_H
#else
#define FEXEL_RESAMPLE_WORDS_INL_H
#endif

#include "resample/paths/blocks-inl.h"

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
#if HWY_TARGET != HWY_SCALAR
using Bytes = hn::CappedTag<std::uint8_t, int16_block>;
constexpr Bytes byte_tag;
/// Vectors of words that a vector of bytes makes.
constexpr std::size_t int16_of_bytes = hn::MaxLanes(byte_tag) / int16_lanes;

/// One of the vectors of words that bytes make.
template <class V>
HWY_INLINE Word promoted(V bytes, [[maybe_unused]] std::size_t index) {
  if constexpr (int16_of_bytes == 1)
    return hn::PromoteTo(int16_tag, bytes);
  else
    return hn::PromoteTo(int16_tag, index == 0 ? hn::LowerHalf(bytes) : hn::UpperHalf(hn::Half<Bytes>(), bytes));
}

/// Which lanes stand how many taps further than their block's first; none is more than `most` further.
template <int most>
class Passed {
 public:
  HWY_INLINE explicit Passed(const Count* distances) {
    for (int k = 0; k < most; ++k) {
      const auto first = hn::Set(count_tag, static_cast<std::uint16_t>((k + 1) * one_place<most> - 1));
#if HWY_TARGET <= HWY_AVX3
      // There masks tell of lanes, whatever their size.
      masks_[k] = hn::Mask<Bytes>{hn::Gt(distances[0], first).raw};
#else
      const auto side = [&](Count distance) HWY_ATTR {
        const auto passed = hn::BitCast(int16_tag, hn::VecFromMask(count_tag, hn::Gt(distance, first)));
        return hn::BitCast(hn::Half<Bytes>(), hn::DemoteTo(hn::Rebind<std::int8_t, Signed>(), passed));
      };
      masks_[k] = hn::MaskFromVec(hn::Combine(byte_tag, side(distances[1]), side(distances[0])));
#endif
    }
  }
  /// Of the bytes at(0), at(1) ... to `most`, each lane's own.
  template <class At>
  HWY_INLINE hn::Vec<Bytes> choose(const At& at) const {
    auto chosen = at(0);
    for (int k = 0; k < most; ++k) chosen = hn::IfThenElse(masks_[k], at(k + 1), chosen);
    return chosen;
  }

 private:
  hn::Mask<Bytes> masks_[most > 0 ? most : 1];
};

/// Finds the ends of the stretch that begins with pixel `start`; false where no cubic between them will do.
struct UnderMatrix {
  static constexpr int stretch = gentle_stretch;
  using Bend = CurvedSpan<stretch / int16_block, false>;
  RowCoordinates& walk;
  int x;  // of the walk's first pixel
  HWY_INLINE bool operator()(int start, GridPlace& from, GridPlace& to) const { return walk.ends(start - x, from, to); }
};
struct AlongMapGrid {
  static constexpr int stretch = MapGrid::stretch;
  using Bend = CurvedSpan<stretch / int16_block, true>;
  const MapGridRow& row;
  HWY_INLINE bool operator()(int start, GridPlace& from, GridPlace& to) const {
    const auto index = static_cast<std::size_t>((start - row.first) / stretch);
    if (row.sound[index] == 0) return false;
    from = row.places[index], to = row.places[index + 1];
    return true;
  }
};

/// Interpolates one row with weights W.
template <class W>
class Int16Loop {
 public:
  Int16Loop(const Int16Tile& words, const Matrix3& m, int x, int y, int count, const RowTarget& target,
            std::vector<PixelSpan>& rest, std::int64_t& clamped)
      : words_(words), target_(target), rest_(rest), clamped_(clamped), x_(x), end_(x + count), walk_(m, x, y, count) {}
  Int16Loop(const Int16Tile& words, int x, int count, const RowTarget& target, std::vector<PixelSpan>& rest,
            std::int64_t& clamped)
      : words_(words), target_(target), rest_(rest), clamped_(clamped), x_(x), end_(x + count) {}

  /// The pixels of a row under a matrix. Blocks begin at multiples of their length, whatever the row: so a pixel comes
  /// out the same whichever part of a result it is asked for with.
  HWY_INLINE void run() {
    if (walk_.straight()) return straight();
    bent(before(x_, UnderMatrix::stretch), UnderMatrix{walk_, x_});
  }

  /// The pixels of a row that bends.
  HWY_INLINE void follow(const MapGridRow& row) {
    bent(row.first + (x_ - row.first) / MapGrid::stretch * MapGrid::stretch, AlongMapGrid{row});
  }

 private:
  static constexpr int taps = W::taps;
  static constexpr int middle = taps / 2 - 1;
  static constexpr bool by_bytes = taps == 2;
  using Sample = std::conditional_t<by_bytes, std::uint8_t, std::int16_t>;
  static constexpr int rows_ahead = 8;  // that are fetched before they are read

  /// The last place for a block of this length to begin, at or before x.
  int before(int x, int length) const { return ((x + words_.phase()) & -length) - words_.phase(); }
  void leave(int begin, int end) {
    if (begin >= end) return;
    if (!rest_.empty() && rest_.back().x + rest_.back().count == begin)
      rest_.back().count += end - begin;
    else
      rest_.push_back({begin, end - begin});
  }

  /// Where samples are read and written. Loops work on copies, for bytes that are written could be any member's.
  struct Frame {
    const Sample* origin;  // pixel (0, 0) of the picture
    std::ptrdiff_t stride, plane;
    int bands;
    std::byte* first;  // of the row's first pixel
    std::ptrdiff_t out_plane;
    std::int64_t left, top, right, bottom;  // of the samples
    const Sample* at(std::int64_t x, std::int64_t y) const { return origin + y * stride + x; }
    /// Whether the samples of a block are there whose first tap is at (x, y).
    template <int down, int across>
    bool holds(std::int64_t x, std::int64_t y) const {
      return x >= left && x + int16_block + taps + across <= right && y >= top && y + taps + down <= bottom;
    }
  };
  Frame frame() const {
    const Region& box = words_.box();
    return {words_.template origin<Sample>(),
            words_.stride(),
            words_.plane(),
            words_.bands(),
            target_.first,
            target_.plane,
            box.x,
            box.y,
            box.x + box.width,
            box.y + box.height};
  }
  /// Lanes of a block that belong to the row.
  struct Part {
    int begin, end;
  };

  /// Linear: each lane's four taps are chosen as bytes before anything is made of them.
  template <int down, int across>
  HWY_INLINE void choose(const Frame& frame, const Sample* in, const Count* x, const Count* y, std::byte* out,
                         std::ptrdiff_t out_plane) {
    Word right[int16_of_bytes], below[int16_of_bytes];
    for (std::size_t v = 0; v < int16_of_bytes; ++v) right[v] = fraction<across>(x[v]), below[v] = fraction<down>(y[v]);
    const Passed<across> along(x);
    const Passed<down> under(y);
    constexpr int rows = down + 2;
    for (int band = 0; band < frame.bands; ++band, in += frame.plane, out += out_plane) {
      hwy::Prefetch(in + rows_ahead * frame.stride);
      hn::Vec<Bytes> read[2][rows], tap[2][2];
      for (int r = 0; r < rows; ++r)
        for (int c = 0; c < 2; ++c)
          read[c][r] = along.choose([&](int k) HWY_ATTR { return hn::LoadU(byte_tag, in + r * frame.stride + c + k); });
      for (int r = 0; r < 2; ++r)
        for (int c = 0; c < 2; ++c) tap[r][c] = under.choose([&](int k) HWY_ATTR { return read[c][r + k]; });
      for (std::size_t v = 0; v < int16_of_bytes; ++v) {
        const auto line = [&](int r) HWY_ATTR { return between(tap[r][0], tap[r][1], v, right[v]); };
        const auto above = line(0), sum = hn::Add(above, hn::MulFixedPoint15(hn::Sub(line(1), above), below[v]));
        put_bytes(hn::ShiftRight<raised_bits>(hn::Add(sum, all_of(1 << (raised_bits - 1)))),
                  reinterpret_cast<std::uint8_t*>(out) + v * int16_lanes);
      }
    }
  }
  /// In units of 2^-7, nothing is lost between taps.
  static constexpr int raised_bits = 7;
  static HWY_INLINE Word between(hn::Vec<Bytes> from, hn::Vec<Bytes> to, std::size_t vector, Word share) {
    const auto first = hn::ShiftLeft<raised_bits>(promoted(from, vector)),
               second = hn::ShiftLeft<raised_bits>(promoted(to, vector));
    return hn::Add(first, hn::MulFixedPoint15(hn::Sub(second, first), share));
  }

  template <int down, int across>
  HWY_INLINE void weigh(const Frame& frame, const Sample* in, Count x, Count y, std::byte* out,
                        std::ptrdiff_t out_plane, Part part) {
    Word plain[taps], wx[taps + across];
    weights_(fraction<across>(x), plain);
    spread<taps, across>(plain, x, wx);
    const RowWeights<W, down> rows(weights_, y);
    for (int band = 0; band < frame.bands; ++band, in += frame.plane, out += out_plane) {
      const auto samples = to_samples(rows.sum([&](int r) HWY_ATTR {
        const Sample* p = in + r * frame.stride;
        auto line = hn::MulFixedPoint15(hn::LoadU(int16_tag, p), wx[0]);
        for (int c = 1; c < taps + across; ++c)
          line = hn::Add(line, hn::MulFixedPoint15(hn::LoadU(int16_tag, p + c), wx[c]));
        return line;
      }),
                                      64);
      const auto outside = beyond_bytes(samples);
      if (HWY_UNLIKELY(!hn::AllFalse(count_tag, outside))) {
        const auto before = hn::FirstN(count_tag, static_cast<std::size_t>(std::max(part.begin, 0)));
        const auto until = hn::FirstN(count_tag, static_cast<std::size_t>(std::max(part.end, 0)));
        clamped_ += static_cast<std::int64_t>(hn::CountTrue(count_tag, hn::And(until, hn::AndNot(before, outside))));
      }
      put_bytes(samples, reinterpret_cast<std::uint8_t*>(out));
    }
  }

  /// A block of which only some lanes belong to the row.
  template <int down, int across>
  HWY_NOINLINE void place_part(const Frame& frame, const Sample* in, const Lanes& x, const Lanes& y, int start) {
    const Part part{std::max(0, x_ - start), std::min(int16_block, end_ - start)};
    std::byte* out = frame.first + (start - x_);
    std::array<std::byte, int16_block * max_bands> aside;
    std::vector<std::byte> more;
    std::byte* at = aside.data();
    if (frame.bands > max_bands) {
      more.resize(static_cast<std::size_t>(int16_block * frame.bands));
      at = more.data();
    }
    write<down, across>(frame, in, x, y, part, at, int16_block);
    for (int band = 0; band < frame.bands; ++band, at += int16_block, out += frame.out_plane)
      std::copy(at + part.begin, at + part.end, out + part.begin);
  }
  /// Interpolates a block, whose taps begin at `in` for a distance of nothing: beside stepping along the row by one
  /// pixel a lane, they are at most `across` and `down` apart. The lanes of `part` are looked at for clamping.
  template <int down, int across>
  HWY_INLINE void write(const Frame& frame, const Sample* in, const Lanes& x, const Lanes& y, Part part, std::byte* out,
                        std::ptrdiff_t out_plane) {
    constexpr std::size_t each = by_bytes ? int16_of_bytes : 1;
    for (std::size_t i = 0; i < int16_vectors; i += each) {
      const auto from = static_cast<int>(i * int16_lanes);
      if constexpr (by_bytes)
        choose<down, across>(frame, in + from, x.v + i, y.v + i, out + from, out_plane);
      else
        weigh<down, across>(frame, in + from, x.v[i], y.v[i], out + from, out_plane,
                            {part.begin - from, part.end - from});
    }
  }

  /// Along a straight row its place is kept in whole numbers, of 32 bits a pixel, from places that stand at the same
  /// pixels whatever the row.
  HWY_INLINE void straight() {
    const typename RowCoordinates::Line line = walk_.line(0);
    constexpr double unit = 0x1p-32;
    const double rise = std::abs(static_cast<double>(line.step_y)) * unit * (int16_block - 1),
                 drift = std::abs(static_cast<double>(line.step_x) * unit - 1) * (int16_block - 1);
    if (drift > 0.99 || rise > 2.99) return leave(x_, end_);
    constexpr int apart = 1024;
    for (int from = before(x_, apart); from < end_; from += apart) {
      const int to = std::min(from + apart, end_);
      if (rise <= 0.99)
        straight_blocks<1>(from, to);
      else if (rise <= 1.99)
        straight_blocks<2>(from, to);
      else
        straight_blocks<3>(from, to);
    }
  }
  /// A block of a straight row, along both axes.
  template <int down>
  struct CurvedLine {
    LineBlock<1> x;
    LineBlock<down> y;
    HWY_INLINE void go() { x.go(), y.go(); }
    CurvedLine after(int blocks) const {
      CurvedLine out = *this;
      out.x.go(blocks), out.y.go(blocks);
      return out;
    }
  };
  template <int down>
  HWY_INLINE void straight_blocks(int from, int to) {
    const Frame frame = this->frame();
    const typename RowCoordinates::Line line = walk_.line(from - x_);
    const CurvedLine<down> origin{{line.x, line.step_x - (std::int64_t{1} << 32), 1}, {line.y, line.step_y, 0}};
    const auto held = [&](int start) {
      const auto at = origin.after((start - from) / int16_block);
      return frame.template holds<down, 1>(at.x.first() - middle, at.y.first() - middle);
    };
    const auto part = [&](int start) {
      const auto at = origin.after((start - from) / int16_block);
      place_part<down, 1>(frame, frame.at(at.x.first() - middle, at.y.first() - middle), at.x.lanes(), at.y.lanes(),
                          start);
    };
    int start = std::max(from, before(x_, int16_block));
    // Places change evenly: what holds at both ends holds between.
    if (HWY_UNLIKELY(!held(start) || !held(before(to - 1, int16_block)))) return leave(std::max(from, x_), to);
    if (start < x_) {
      part(start);
      start += int16_block;
    }
    const int whole = std::max(0, (to - start) / int16_block);
    if (whole > 0) whole_blocks<down>(frame, origin.after((start - from) / int16_block), start, whole);
    start += whole * int16_block;
    if (start < to) part(start);
  }
  /// So many blocks that all belong to the row. Nothing is called here: constants stay in registers.
  template <int down>
  HWY_NOINLINE void whole_blocks(const Frame& row, const CurvedLine<down>& first, int start, int count) {
    const Frame frame = row;
    auto at = first;
    std::byte* out = frame.first + (start - x_);
    for (; count > 0; --count, at.go(), out += int16_block) {
      const Lanes x = at.x.lanes(), y = at.y.lanes();
      const Sample* in = frame.at(at.x.first() - middle, at.y.first() - middle);
      if (HWY_LIKELY(at.x.upright()))
        write<down, 0>(frame, in, x, y, {0, int16_block}, out, frame.out_plane);
      else
        write<down, 1>(frame, in, x, y, {0, int16_block}, out, frame.out_plane);
    }
  }

  /// The pixels of a row that bends, whose stretches begin at `start` and so on.
  template <class Find>
  HWY_INLINE void bent(int start, const Find& find) {
    const Frame frame = this->frame();
    while (start < end_) {
      if (start >= x_ && start + Find::stretch <= end_) start = whole_stretches(frame, start, find);
      const bool whole = start >= x_ && start + Find::stretch <= end_;
      if (start < end_ && !(whole && far_stretch(frame, start, find))) part_stretch(frame, start, find);
      start += Find::stretch;
    }
  }
  /// Stretches that all belong to the row, to the first that is not done whole: where that begins. Nothing is called
  /// here: constants stay in registers.
  template <class Find>
  HWY_NOINLINE int whole_stretches(const Frame& row, int start, const Find& find) {
    const Frame frame = row;
    GridPlace from, to;
    for (; start + Find::stretch <= end_; start += Find::stretch) {
      if (HWY_UNLIKELY(!find(start, from, to))) return start;
      const typename Find::Bend bend(from, to);
      if (HWY_UNLIKELY(!bend.near())) return start;
      const auto lanes = bend.template lanes<1>();
      const std::int64_t clamped_before = clamped_;
      std::byte* out = frame.first + (start - x_);
      for (int k = 0; k < Find::stretch / int16_block; ++k, out += int16_block) {
        const std::int64_t x = bend.left(k) - middle, y = bend.top(k) - middle;
        if (HWY_UNLIKELY((!frame.template holds<1, 1>(x, y)))) {
          clamped_ = clamped_before;  // the stretch is done once more
          return start;
        }
        write<1, 1>(frame, frame.at(x, y), lanes.x(k), lanes.y(k), {0, int16_block}, out, frame.out_plane);
      }
    }
    return start;
  }
  /// A stretch that belongs to the row, some of whose lanes stand further from their first taps; false where they stand
  /// too far.
  template <class Find>
  HWY_NOINLINE bool far_stretch(const Frame& frame, int start, const Find& find) {
    GridPlace from, to;
    if (!find(start, from, to)) return false;
    const typename Find::Bend bend(from, to);
    constexpr int blocks = Find::stretch / int16_block;
    for (int k = 0; k < blocks; ++k)
      if (bend.most(k) > 2 || !frame.template holds<2, 2>(bend.left(k) - middle, bend.top(k) - middle)) return false;
    // Each block as part_stretch() does it, so that its pixels are the same in whatever region they are asked for.
    const auto near = bend.template lanes<1>();
    const auto far = bend.template lanes<2>();
    std::byte* out = frame.first + (start - x_);
    for (int k = 0; k < blocks; ++k, out += int16_block) {
      const Sample* in = frame.at(bend.left(k) - middle, bend.top(k) - middle);
      if (bend.most(k) == 1)
        write<1, 1>(frame, in, near.x(k), near.y(k), {0, int16_block}, out, frame.out_plane);
      else
        write<2, 2>(frame, in, far.x(k), far.y(k), {0, int16_block}, out, frame.out_plane);
    }
    return true;
  }
  /// A stretch at an end of the row, or one that is steep or of which something is left.
  template <class Find>
  HWY_NOINLINE void part_stretch(const Frame& frame, int start, const Find& find) {
    GridPlace from, to;
    if (!find(start, from, to)) return leave(std::max(start, x_), std::min(start + Find::stretch, end_));
    const typename Find::Bend bend(from, to);
    const auto near = bend.template lanes<1>();
    const auto far = bend.template lanes<2>();
    for (int k = 0; k < Find::stretch / int16_block; ++k) {
      const int first = start + k * int16_block;
      if (first + int16_block <= x_ || first >= end_) continue;
      const int most = bend.most(k);
      const std::int64_t x = most <= 2 ? bend.left(k) - middle : 0, y = most <= 2 ? bend.top(k) - middle : 0;
      if (most == 1 && frame.template holds<1, 1>(x, y))
        place_part<1, 1>(frame, frame.at(x, y), near.x(k), near.y(k), first);
      else if (most == 2 && frame.template holds<2, 2>(x, y))
        place_part<2, 2>(frame, frame.at(x, y), far.x(k), far.y(k), first);
      else
        leave(std::max(first, x_), std::min(first + int16_block, end_));
    }
  }

  static constexpr int max_bands = 4;  // that are put aside without asking for memory
  const Int16Tile& words_;
  const RowTarget& target_;
  std::vector<PixelSpan>& rest_;
  std::int64_t& clamped_;
  int x_, end_;  // of the row
  RowCoordinates walk_;
  W weights_;
};

template <class W>
HWY_NOINLINE void RunInt16(const Int16Tile& words, const Matrix3& m, int x, int y, int count, const RowTarget& target,
                           std::vector<PixelSpan>& rest, std::int64_t& clamped) {
  const double w = m(2, 0) * (x + 0.5) + m(2, 1) * (y + 0.5) + m(2, 2);
  Int16Loop<W>(words, w < 0 ? Matrix3(-m) : m, x, y, count, target, rest, clamped).run();
}

template <class W>
HWY_NOINLINE void FollowInt16Row(const Int16Tile& words, const MapGridRow& row, int x, int count,
                                 const RowTarget& target, std::vector<PixelSpan>& rest, std::int64_t& clamped) {
  Int16Loop<W>(words, x, count, target, rest, clamped).follow(row);
}

void InterpolateInt16(const Int16Tile& words, Kernel kernel, const Matrix3& inverse_map, int x, int y, int count,
                      const RowTarget& target, std::vector<PixelSpan>& rest, std::int64_t& clamped) {
  with_int16_weights(kernel, [&](auto weights) {
    RunInt16<decltype(weights)>(words, inverse_map, x, y, count, target, rest, clamped);
  });
}

void InterpolateInt16Along(const Int16Tile& words, Kernel kernel, const MapGridRow& row, int x, int count,
                           const RowTarget& target, std::vector<PixelSpan>& rest, std::int64_t& clamped) {
  with_int16_weights(
      kernel, [&](auto weights) { FollowInt16Row<decltype(weights)>(words, row, x, count, target, rest, clamped); });
}
#else
// One pixel at a time, small numbers gain nothing.
void InterpolateInt16(const Int16Tile&, Kernel, const Matrix3&, int x, int, int count, const RowTarget&,
                      std::vector<PixelSpan>& rest, std::int64_t&) {
  rest.push_back({x, count});
}
void InterpolateInt16Along(const Int16Tile&, Kernel, const MapGridRow&, int x, int count, const RowTarget&,
                           std::vector<PixelSpan>& rest, std::int64_t&) {
  rest.push_back({x, count});
}
#endif

/// One row of bytes as words; a row that is wanted soon lies `ahead` bytes further.
void LayInt16(const std::uint8_t* in, int count, [[maybe_unused]] std::ptrdiff_t ahead, std::int16_t* out) {
  int i = 0;
#if HWY_TARGET != HWY_SCALAR
  const hn::Rebind<std::uint8_t, Signed> bytes;
  for (; i + static_cast<int>(int16_lanes) <= count; i += static_cast<int>(int16_lanes)) {
    hwy::Prefetch(in + i + ahead);
    const auto samples = hn::PromoteTo(int16_tag, hn::LoadU(bytes, in + i));
    hn::StoreU(hn::Sub(hn::ShiftLeft<7>(samples), all_of(128 * 128)), int16_tag, out + i);
  }
#endif
  for (; i < count; ++i) out[i] = static_cast<std::int16_t>((in[i] - 128) * 128);
}

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
