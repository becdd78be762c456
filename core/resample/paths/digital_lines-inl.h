// The vector code of digital_lines.cpp, compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_SLANT_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_SLANT_INL_H
#undef FEXEL_RESAMPLE_SLANT_INL_H
#else
#define FEXEL_RESAMPLE_SLANT_INL_H
#endif

#include <hwy/cache_control.h>

#include "resample/paths/int16_taps-inl.h"
#include "resample/paths/transpose-inl.h"

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
#if HWY_TARGET != HWY_SCALAR
using Pairs = hn::Repartition<std::int32_t, Signed>;
using Bytes = hn::Repartition<std::uint8_t, Signed>;
using Pair = hn::Vec<Pairs>;
constexpr Pairs pair_tag;
constexpr Bytes byte_tag;
constexpr std::size_t vector_groups = int16_lanes / DigitalLines::group;

/// What the groups of a vector read, 16 bytes each.
HWY_INLINE hn::Vec<Bytes> windows(const std::uint8_t* const* groups, std::ptrdiff_t offset) {
  const auto at = [&](std::size_t i) HWY_ATTR { return hn::LoadDup128(byte_tag, groups[i] + offset); };
  if constexpr (vector_groups == 1)
    return at(0);
  else if constexpr (vector_groups == 2)
    return hn::OddEvenBlocks(at(1), at(0));
  else
    return hn::ConcatUpperLower(byte_tag, hn::OddEvenBlocks(at(3), at(2)), hn::OddEvenBlocks(at(1), at(0)));
}

/// Lanes with even numbers from the lower halves of `even`, with odd ones from the upper halves of `odd`.
HWY_INLINE Word either(Pair even, Pair odd) {
  return hn::OddEven(hn::BitCast(int16_tag, odd), hn::BitCast(int16_tag, even));
}
HWY_INLINE Pair pairs(Word words) {
  return hn::BitCast(pair_tag, words);
}

/// Interpolates a vector of a line. Samples are read as pairs of words, 256 (sample − 128), which two taps' weights are
/// multiplied with at once; even and odd lanes by themselves.
template <class W>
class LineTaps {
 public:
  static constexpr int taps = W::taps, pairs_of_taps = taps / 2;
  /// Distances of even and odd lanes from their group's first tap, in units of 2^-15 px.
  HWY_INLINE LineTaps(const W& weights, Pair e, Pair o) {
    const auto t = hn::And(either(e, hn::ShiftLeft<16>(o)), all_of(0x7fff));
    Word w[taps];
    weights(t, w);
    for (int k = 0; k < pairs_of_taps; ++k) {
      even_weights_[k] = either(pairs(w[2 * k]), hn::ShiftLeft<16>(pairs(w[2 * k + 1])));
      odd_weights_[k] = either(hn::ShiftRight<16>(pairs(w[2 * k])), pairs(w[2 * k + 1]));
    }
    even_index_[0] = first_index(e);
    odd_index_[0] = first_index(o);
    const auto two = hn::Set(pair_tag, 0x02000200);
    for (int k = 1; k < pairs_of_taps; ++k) {
      even_index_[k] = hn::Add(even_index_[k - 1], two);
      odd_index_[k] = hn::Add(odd_index_[k - 1], two);
    }
  }
  /// A row of samples under the weights, in units of -2^-7, rounded down.
  HWY_INLINE Word line(hn::Vec<Bytes> window) const {
    const auto samples = hn::Xor(window, hn::Set(byte_tag, std::uint8_t{0x80}));
    auto none = hn::Zero(pair_tag), even = none, odd = none;
    for (int k = 0; k < pairs_of_taps; ++k) {
      even = taken(samples, even_index_[k], even_weights_[k], even);
      odd = taken(samples, odd_index_[k], odd_weights_[k], odd);
    }
    return either(hn::BitCast(pair_tag, hn::ShiftRight<16>(even)), odd);
  }

 private:
  /// In each word nothing and a sample, of this tap and the next.
  static HWY_INLINE Pair first_index(Pair distance) {
    const auto here = hn::And(hn::ShiftRight<7>(distance), hn::Set(pair_tag, 0x0f00));
    const auto next = hn::And(hn::ShiftLeft<9>(distance), hn::Set(pair_tag, 0x0f000000));
    return hn::Add(hn::Or(here, next), hn::Set(pair_tag, 0x01800080));
  }
  static HWY_INLINE Pair taken(hn::Vec<Bytes> samples, Pair index, Word weights, Pair sum) {
    auto none = hn::Zero(pair_tag);
    const auto words = hn::BitCast(int16_tag, hn::TableLookupBytesOr0(samples, hn::BitCast(byte_tag, index)));
    return hn::ReorderWidenMulAccumulate(pair_tag, words, weights, sum, none);
  }
  Pair even_index_[pairs_of_taps], odd_index_[pairs_of_taps];
  Word even_weights_[pairs_of_taps], odd_weights_[pairs_of_taps];
};

/// Where a line begins: see DigitalLines.
struct LineBegin {
  alignas(64) std::int32_t first[2 * DigitalLines::groups], part[2 * DigitalLines::groups];
  HWY_INLINE LineBegin(const DigitalLines& cell, int line, bool bent) {
    using Eight = hn::CappedTag<double, 2 * DigitalLines::groups>;
    constexpr Eight eight;
    constexpr hn::Rebind<std::int32_t, Eight> whole;
    const auto l = hn::Set(eight, line);
    for (std::size_t i = 0; i < 2 * DigitalLines::groups; i += hn::MaxLanes(eight)) {
      const auto of = [&](std::size_t power) HWY_ATTR { return hn::Load(eight, cell.begins[power].data() + i); };
      const auto curve = bent ? hn::MulAdd(hn::MulAdd(of(3), l, of(2)), l, of(1)) : of(1);
      const auto at = hn::MulAdd(curve, l, of(0)), floor = hn::Floor(at);
      hn::Store(hn::DemoteTo(whole, floor), whole, first + i);
      const auto rest = hn::MulAdd(hn::Sub(at, floor), hn::Set(eight, 0x1p15), hn::Set(eight, 0.5));
      hn::Store(hn::DemoteTo(whole, rest), whole, part + i);
    }
  }
};

/// Distances of a vector's lanes along a line.
template <bool bent>
HWY_INLINE Pair lanes_at(const std::array<std::array<float, DigitalLines::lanes / 2>, 4>& of, std::size_t from,
                         int line) {
  const hn::Rebind<float, Pairs> tag;
  const auto power = [&](std::size_t i) HWY_ATTR { return hn::Load(tag, of[i].data() + from); };
  if constexpr (!bent) return hn::NearestInt(power(0));
  const auto l = hn::Set(tag, static_cast<float>(line));
  return hn::NearestInt(hn::MulAdd(hn::MulAdd(hn::MulAdd(power(3), l, power(2)), l, power(1)), l, power(0)));
}

/// All lines of a cell, band by band; says whether any sample was clamped, which are noted a bit each.
template <class W, int down, bool bent>
HWY_NOINLINE bool RunDigitalLines(const DigitalLines& cell, const LineSource& source, std::uint8_t* out,
                                  std::uint32_t* beyond) {
  const W weights;
  bool any = false;
  // Of each vector of lanes: the parts of its groups, which are added to all lanes.
  alignas(64) std::int32_t group_parts[DigitalLines::lanes / 2];
  for (int i = 0; i < DigitalLines::lanes / 2; ++i) group_parts[i] = 0x03020100 + 0x04040404 * (i / 4);
  // What is read some lines later, for the first time.
  const auto after = [&](int lines) {
    const int rows = static_cast<int>(lines * source.row_step) + (source.row_step > 0 ? W::taps + down - 1 : 0);
    return rows * source.stride + static_cast<int>(lines * source.step);
  };
  constexpr int lines_ahead = 12;
  const std::ptrdiff_t ahead = after(lines_ahead);
  constexpr std::size_t groups = DigitalLines::groups;
  // A line's begin is worked out while the one before it is interpolated.
  LineBegin begins[2] = {{cell, 0, bent}, {cell, 1, bent}};
  const auto starts = [&](const LineBegin& begin, const std::uint8_t** in) HWY_ATTR {
    for (std::size_t g = 0; g < groups; ++g)
      in[g] = source.origin + begin.first[groups + g] * source.stride + begin.first[g];
  };
  const std::uint8_t* in[groups];
  starts(begins[0], in);
  for (int l = -W::taps; l < lines_ahead; ++l)
    for (const std::uint8_t* group : {in[0], in[groups - 1]}) hwy::Prefetch(group + after(l));
  for (int l = 0; l < cell.lines; ++l) {
    const LineBegin& begin = begins[l % 2];
    starts(begin, in);
    for (const std::uint8_t* group : {in[0], in[groups - 1]}) hwy::Prefetch(group + ahead);
    for (std::size_t v = 0; v < int16_vectors; ++v) {
      const std::size_t from = v * int16_lanes / 2;
      const auto of_group = hn::Load(pair_tag, group_parts + from);
      const auto lanes = [&](const DigitalLines::Lanes& of, const std::int32_t* parts, auto unit) HWY_ATTR {
        const auto part = hn::ShiftRight<15 - unit()>(hn::TableLookupBytes(hn::LoadDup128(pair_tag, parts), of_group));
        return std::pair{hn::Add(lanes_at<bent>(of.even, from, l), part),
                         hn::Add(lanes_at<bent>(of.odd, from, l), part)};
      };
      const auto [even, odd] = lanes(cell.right, begin.part, std::integral_constant<int, 15>());
      const LineTaps<W> taps(weights, even, odd);
      const auto [below_even, below_odd] =
          lanes(cell.below, begin.part + groups, std::integral_constant<int, place_bits<down>>());
      const RowWeights<W, down> rows(weights, hn::BitCast(count_tag, either(below_even, hn::ShiftLeft<16>(below_odd))));
      std::ptrdiff_t plane = 0;
      for (int band = 0; band < source.bands; ++band, plane += source.plane) {
        const auto sum = rows.sum(
            [&](int r) HWY_ATTR { return taps.line(windows(in + v * vector_groups, plane + r * source.stride)); });
        // Lines are rounded down and their signs are turned: sums are half a unit too much.
        const auto samples = to_samples(sum, 63);
        const std::ptrdiff_t place = static_cast<std::ptrdiff_t>(band) * DigitalLines::max_lines + l;
        if constexpr (W::taps > 2) {
          const auto outside = beyond_bytes(samples);
          if (HWY_UNLIKELY(!hn::AllFalse(count_tag, outside)))
            any = hn::StoreMaskBits(count_tag, outside,
                                    reinterpret_cast<std::uint8_t*>(beyond + place) + v * int16_lanes / 8) > 0;
        }
        put_bytes(samples, out + place * DigitalLines::lanes + static_cast<std::ptrdiff_t>(v * int16_lanes));
      }
    }
    begins[l % 2] = LineBegin(cell, l + 2, bent);
  }
  return any;
}

bool RunLinesOfTile(Kernel kernel, const DigitalLines& cell, const LineSource& source, std::uint8_t* out,
                    std::uint32_t* beyond) {
  bool any = false;
  with_int16_weights(kernel, [&](auto weights) {
    using W = decltype(weights);
    const auto run = cell.max_down > 1 ? RunDigitalLines<W, 2, true>
                     : cell.bent       ? RunDigitalLines<W, 1, true>
                                       : RunDigitalLines<W, 1, false>;
    any = run(cell, source, out, beyond);
  });
  return any;
}

/// Coefficients of the cubic through four numbers, at 0, 1/3, 2/3 and 1 of a length.
HWY_INLINE void cubic_through(double f0, double f1, double f2, double f3, double length, double* c) {
  const double unit = 3 / length;
  c[0] = f0;
  c[1] = unit * (3 * f1 - 1.5 * f2 + f3 / 3 - f0 * 11 / 6);
  c[2] = unit * unit * (f0 - 2.5 * f1 + 2 * f2 - 0.5 * f3);
  c[3] = unit * unit * unit * (0.5 * (f1 - f2) + (f3 - f0) / 6);
}

/// The paths of a cell's lanes along one axis, as cubics of the line's number.
class LanePaths {
 public:
  static constexpr int lanes = DigitalLines::lanes;
  /// As cubics of the row, from the places of 4 x 4 pixels of the cell, row by row.
  HWY_INLINE LanePaths(const std::array<double, 16>& places, int rows) {
    double along[4][4], both[4][4];
    for (std::size_t i = 0; i < 4; ++i)
      cubic_through(places[4 * i], places[4 * i + 1], places[4 * i + 2], places[4 * i + 3], lanes - 1, along[i]);
    for (std::size_t a = 0; a < 4; ++a)
      cubic_through(along[0][a], along[1][a], along[2][a], along[3][a], rows - 1, both[a]);
    for (std::size_t b = 0; b < 4; ++b)
      each([&](std::size_t k) HWY_ATTR {
        const auto lane = hn::Add(hn::Iota(tag, 0), hn::Set(tag, static_cast<double>(k)));
        put(b, k, polynomial(lane, set(both[0][b]), set(both[1][b]), set(both[2][b]), set(both[3][b])));
      });
  }
  HWY_INLINE double at(int k, double line) const {
    return ((of_[3][k] * line + of_[2][k]) * line + of_[1][k]) * line + of_[0][k];
  }
  HWY_INLINE double slope(int k, double line) const {
    return (3 * of_[3][k] * line + 2 * of_[2][k]) * line + of_[1][k];
  }
  /// From rows to lines, which are as many more as lanes have steps.
  HWY_INLINE void step(const double* steps) {
    each([&](std::size_t k) HWY_ATTR {
      const auto s = hn::Neg(hn::Load(tag, steps + k)), q1 = get(1, k), q2 = get(2, k), q3 = get(3, k);
      const auto s_q3 = hn::Mul(s, q3);
      put(0, k, polynomial(s, get(0, k), q1, q2, q3));
      put(1, k, hn::MulAdd(s, hn::Add(hn::Add(q2, q2), hn::Mul(set(3), s_q3)), q1));
      put(2, k, hn::MulAdd(set(3), s_q3, q2));
    });
  }
  /// Takes one lane's path from some, and then enough for all to be above nothing within their cell. Returns how far
  /// they are above it.
  HWY_INLINE double settle(int from, int to, int first, const double* steps, int rows, double* path) {
    for (std::size_t b = 0; b < 4; ++b) path[b] = of_[b][first];
    auto least = set(1e9), most = set(-1e9);
    for (int k = from; k < to; k += at_once) {
      const auto lane = static_cast<std::size_t>(k);
      for (std::size_t b = 0; b < 4; ++b) put(b, lane, hn::Sub(get(b, lane), set(path[b])));
      for (int i = 0; i <= 4; ++i) {
        const auto line = hn::Add(hn::Load(tag, steps + k), set(i * (rows - 1) / 4.0));
        const auto rest = polynomial(line, get(0, lane), get(1, lane), get(2, lane), get(3, lane));
        least = hn::Min(least, rest), most = hn::Max(most, rest);
      }
    }
    const double low = hn::GetLane(hn::MinOfLanes(tag, least)), high = hn::GetLane(hn::MaxOfLanes(tag, most));
    path[0] += low;
    for (int k = from; k < to; k += at_once) {
      const auto lane = static_cast<std::size_t>(k);
      put(0, lane, hn::Sub(get(0, lane), set(low)));
    }
    return high - low;
  }
  HWY_INLINE void write(double one, DigitalLines::Lanes& out) const {
    for (std::size_t b = 0; b <= DigitalLines::order; ++b)
      for (std::size_t k = 0; k < lanes; k += 2) {
        out.even[b][k / 2] = static_cast<float>(one * of_[b][k]);
        out.odd[b][k / 2] = static_cast<float>(one * of_[b][k + 1]);
      }
  }

 private:
  static constexpr hn::CappedTag<double, DigitalLines::group> tag{};
  using V = hn::Vec<decltype(tag)>;
  static constexpr int at_once = static_cast<int>(hn::MaxLanes(tag));
  static HWY_INLINE V set(double v) { return hn::Set(tag, v); }
  HWY_INLINE V get(std::size_t power, std::size_t k) const { return hn::Load(tag, of_[power] + k); }
  HWY_INLINE void put(std::size_t power, std::size_t k, V v) { hn::Store(v, tag, of_[power] + k); }
  static HWY_INLINE V polynomial(V at, V c0, V c1, V c2, V c3) {
    return hn::MulAdd(hn::MulAdd(hn::MulAdd(c3, at, c2), at, c1), at, c0);
  }
  template <class Body>
  static HWY_INLINE void each(const Body& body) {
    for (std::size_t k = 0; k < lanes; k += at_once) body(k);
  }
  alignas(64) double of_[4][lanes];
};

/// Lays a cell's lines along the rows of the source, from the places of 4 x 4 of its pixels; false where lanes stand
/// too far from each other.
bool LayDigitalLines(const std::array<double, 16>& xs, const std::array<double, 16>& ys, int taps, DigitalLines& cell) {
  constexpr int lanes = DigitalLines::lanes;
  constexpr double tolerance_px = 0.01;
  const double middle_row = (cell.rows - 1) / 2.0;
  LanePaths x(xs, cell.rows), y(ys, cell.rows);
  alignas(64) double steps[lanes];
  double least = 0, most = 0;
  const double start = y.at(0, middle_row);
  for (int k = 0; k < lanes; ++k) {
    const double slope = y.slope(k, middle_row);
    if (!(std::abs(slope) > 1e-6)) return false;
    steps[k] = std::nearbyint((y.at(k, middle_row) - start) / slope);
    least = std::min(least, steps[k]), most = std::max(most, steps[k]);
  }
  if (!(most - least <= DigitalLines::max_steps)) return false;
  cell.lines = cell.rows + static_cast<int>(most - least);
  for (std::size_t k = 0; k < lanes; ++k) {
    steps[k] -= least;
    cell.steps[k] = static_cast<std::uint8_t>(steps[k]);
  }
  x.step(steps), y.step(steps);
  double path[4];
  const auto keep = [&](int i) {
    path[0] -= taps / 2 - 1;
    for (std::size_t b = 0; b < 4; ++b) cell.begins[b][static_cast<std::size_t>(i)] = path[b];
  };
  double below = 0;
  for (int g = 0; g < DigitalLines::groups; ++g) {
    const int from = g * DigitalLines::group, to = from + DigitalLines::group;
    const bool rises = x.at(to - 1, cell.lines / 2) > x.at(from, cell.lines / 2);
    if (!(x.settle(from, to, rises ? from : to - 1, steps, cell.rows, path) <
          DigitalLines::reads - taps - tolerance_px))
      return false;
    keep(g);
    below = std::max(below, y.settle(from, to, from, steps, cell.rows, path));
    keep(DigitalLines::groups + g);
  }
  cell.max_down = below < 1 - tolerance_px ? 1 : 2;
  x.write(0x1p15, cell.right);
  y.write(cell.max_down == 1 ? 0x1p15 : 0x1p14, cell.below);
  return below < 2 - tolerance_px;
}

/// Lanes of lines go up by their steps, so that lines become rows, which are written. `lines` is used up.
void StraightenLines(const DigitalLines& cell, std::uint8_t* lines, std::uint8_t* out, std::ptrdiff_t out_stride) {
  using All = hn::CappedTag<std::uint8_t, 64>;
  using Row = hn::CappedTag<std::uint8_t, DigitalLines::lanes>;
  constexpr All all;
  constexpr Row row;
  constexpr std::size_t at_once = hn::MaxLanes(all), row_at_once = hn::MaxLanes(row);
  const auto goes = [&](auto tag, int step) HWY_ATTR {
    alignas(64) std::uint8_t bits[hn::MaxLanes(tag)];
    for (std::size_t i = 0; i < hn::MaxLanes(tag); ++i) bits[i] = cell.steps[i % DigitalLines::lanes] & step ? 255 : 0;
    return hn::MaskFromVec(hn::Load(tag, bits));
  };
  const int longest = cell.lines - cell.rows;
  for (int step = 2; step <= longest; step *= 2) {
    const auto here = goes(all, step);
    const std::size_t end = static_cast<std::size_t>(cell.lines) * DigitalLines::lanes;
    const std::size_t on = static_cast<std::size_t>(step) * DigitalLines::lanes;
    for (std::size_t i = 0; i + on < end; i += at_once)
      hn::Store(hn::IfThenElse(here, hn::Load(all, lines + i + on), hn::Load(all, lines + i)), all, lines + i);
  }
  static_assert(row_at_once == DigitalLines::lanes);
  const auto here = goes(row, 1);
  for (int r = 0; r < cell.rows; ++r, lines += DigitalLines::lanes, out += out_stride)
    hn::Store(hn::IfThenElse(here, hn::Load(row, lines + DigitalLines::lanes), hn::Load(row, lines)), row, out);
}
/// Rows of 32 become columns; as many as there are squares.
void TurnLines(const std::uint8_t* in, int rows, std::uint8_t* out, std::ptrdiff_t out_stride) {
  constexpr int side = square_side<std::uint8_t>;
  for (int r = 0; r < rows; r += side)
    for (int k = 0; k < DigitalLines::lanes; k += side)
      turn_one_square(in + r * DigitalLines::lanes + k, DigitalLines::lanes, out + k * out_stride + r, out_stride);
}
#else
// One pixel at a time, lines gain nothing.
bool LayDigitalLines(const std::array<double, 16>&, const std::array<double, 16>&, int, DigitalLines&) {
  return false;
}
bool RunLinesOfTile(Kernel, const DigitalLines&, const LineSource&, std::uint8_t*, std::uint32_t*) {
  return false;
}
void StraightenLines(const DigitalLines&, std::uint8_t*, std::uint8_t*, std::ptrdiff_t) {}
void TurnLines(const std::uint8_t*, int, std::uint8_t*, std::ptrdiff_t) {}
#endif
}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
