// Where the lanes of a block of 32 pixels stand in the source, as 16-bit numbers; compiled once for each instruction
// set.
#if defined(FEXEL_RESAMPLE_BLOCKS_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_BLOCKS_INL_H
#undef FEXEL_RESAMPLE_BLOCKS_INL_H
#else
#define FEXEL_RESAMPLE_BLOCKS_INL_H
#endif

#include <array>

#include "resample/coordinates/row_coordinates-inl.h"
#include "resample/paths/int16_taps-inl.h"

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
#if HWY_TARGET != HWY_SCALAR
/// Distances of a block's lanes along one axis.
struct Lanes {
  Count v[int16_vectors];
};

/// Blocks of a straight row, along one axis: what lanes are apart from each other is the same in all of them.
template <int most>
class LineBlock {
 public:
  /// From where pixel 0 stands, and what the place changes by from pixel to pixel beside stepping along, in units of
  /// 2^-32 px; from block to block they go `step` pixels along.
  LineBlock(std::int64_t start, std::int64_t change, int step) {
    const std::int64_t end = apart(change, int16_block - 1), low = std::min<std::int64_t>(end, 0);
    alignas(64) std::uint16_t distances[int16_block];
    for (int k = 0; k < int16_block; ++k) distances[k] = static_cast<std::uint16_t>(apart(change, k) - low);
    for (std::size_t i = 0; i < int16_vectors; ++i) apart_.v[i] = hn::Load(count_tag, distances + i * int16_lanes);
    at_ = start + half + low * (std::int64_t{1} << coarser);
    by_ = int16_block * (change + step * (std::int64_t{1} << 32));
    upright_to_ = one_place<most> - 1U - static_cast<std::uint32_t>(std::abs(end));
  }
  /// Goes on by some blocks.
  HWY_INLINE void go(std::int64_t blocks) { at_ += blocks * by_; }
  HWY_INLINE void go() { at_ += by_; }
  /// The pixel that the lowest lane stands behind, and whether all do.
  std::int64_t first() const { return at_ >> 32; }
  bool upright() const { return part() <= upright_to_; }
  HWY_INLINE Lanes lanes() const {
    const auto base = hn::Set(count_tag, static_cast<std::uint16_t>(part()));
    Lanes out;
    for (std::size_t i = 0; i < int16_vectors; ++i) out.v[i] = hn::Add(apart_.v[i], base);
    return out;
  }

 private:
  static constexpr int coarser = 32 - place_bits<most>;
  static constexpr std::int64_t half = std::int64_t{1} << (coarser - 1);
  static std::int64_t apart(std::int64_t change, int k) { return (change * k + half) >> coarser; }
  std::uint32_t part() const { return static_cast<std::uint32_t>(at_) >> coarser; }
  Lanes apart_;           // from the lowest
  std::int64_t at_, by_;  // where the lowest lane stands, and what that changes by, in units of 2^-32 px
  std::uint32_t upright_to_;
};

/// How lanes of a block that bends stand to its middle: t = −1 to 15/16 along the chord, t^2 − 1, and t (t^2 − 1).
struct CurvedShape {
  alignas(64) std::int16_t along[int16_block], sag[int16_block], twist[int16_block];
  constexpr CurvedShape() : along(), sag(), twist() {
    for (int k = 0; k < int16_block; ++k) {
      const int t = k - int16_block / 2, square = t * t - 256;  // in 16ths, in 256ths
      along[k] = static_cast<std::int16_t>(t * 2048);
      sag[k] = static_cast<std::int16_t>(square * 128);
      twist[k] = static_cast<std::int16_t>(t * square * 8);
    }
  }
};
inline constexpr CurvedShape bent_shape;

/// The lanes of a stretch's blocks.
template <int blocks, bool twisted, int most>
struct CurvedLanes {
  HWY_INLINE Lanes x(int k) const { return along(k); }
  HWY_INLINE Lanes y(int k) const { return along(k + blocks); }
  /// Middle, half, sag and twist of the blocks along x, then along y.
  alignas(32) std::int32_t parts[3 + twisted][2 * blocks];

 private:
  HWY_INLINE Lanes along(int i) const {
    const auto word = [&](int part) HWY_ATTR { return hn::Set(int16_tag, static_cast<std::int16_t>(parts[part][i])); };
    const Word middle = word(0), half = word(1), sag = word(2);
    Lanes out;
    for (std::size_t v = 0; v < int16_vectors; ++v) {
      const auto share = [&](const std::int16_t* of, Word whole)
                             HWY_ATTR { return hn::MulFixedPoint15(hn::Load(int16_tag, of + v * int16_lanes), whole); };
      auto sum = hn::Add(hn::Add(middle, share(bent_shape.along, half)), share(bent_shape.sag, sag));
      if constexpr (twisted) sum = hn::Add(sum, share(bent_shape.twist, word(3)));
      out.v[v] = hn::BitCast(count_tag, sum);
    }
    return out;
  }
};

/// The blocks of a stretch of a row that bends. Along each axis a block's lanes stand, beside going along,
/// middle + half t + sag (t^2 − 1) + twist t (t^2 − 1) from its first tap; `twisted` says whether the last counts.
template <int blocks, bool twisted>
class CurvedSpan {
 public:
  /// Cubics from place to place, with the changes over the stretch that those tell.
  HWY_INLINE CurvedSpan(const GridPlace& from, const GridPlace& to) {
    constexpr double rounding = 1.0 / 8192, last = 15.0 / 16;
    near_ = true;
    for (std::size_t i = 0; i < 2 * blocks; i += hn::Lanes(all)) {
      const auto set = [](double v) HWY_ATTR { return hn::Set(all, v); };
      const auto of = [&](const double* table) HWY_ATTR { return hn::Load(all, table + i); };
      // The first half of lanes is along x, the second along y.
      const auto is_x = hn::Gt(of(weights.goes), hn::Zero(all));
      const auto either = [&](double x, double y) HWY_ATTR { return hn::IfThenElse(is_x, set(x), set(y)); };
      const auto begin = either(from.x - 0.5, from.y - 0.5), step = of(weights.goes);
      const auto way = hn::Sub(either(to.x - from.x, to.y - from.y), step);
      const auto s0 = hn::Sub(either(from.dx, from.dy), step), s1 = hn::Sub(either(to.dx, to.dy), step);
      // Of the cubic s0 s + b s^2 + c s^3, s = 0 to 1.
      const auto b = hn::Sub(hn::MulSub(set(3), way, hn::Add(s0, s0)), s1);
      const auto c = hn::Sub(hn::Add(s0, s1), hn::Add(way, way));
      const auto half =
          hn::MulAdd(of(weights.half_c), c, hn::MulAdd(of(weights.half_b), b, hn::Mul(set(0.5 / blocks), s0)));
      const auto middle = hn::MulAdd(of(weights.middle_c), c,
                                     hn::MulAdd(of(weights.middle_b), b, hn::MulAdd(of(weights.middle), s0, begin)));
      const auto sag = hn::MulAdd(of(weights.sag_c), c, hn::Mul(set(0.25 / (blocks * blocks)), b));
      auto rest = hn::Add(hn::Abs(sag), set(rounding));
      if constexpr (twisted) {
        const auto twist = hn::Mul(set(0.125 / (blocks * blocks * blocks)), c);
        rest = hn::MulAdd(set(0.4), hn::Abs(twist), rest);
        hn::Store(twist, all, parts_[3] + i);
      }
      const auto back = hn::Neg(half), on = hn::Mul(set(last), half);
      const auto first = hn::Floor(hn::Sub(hn::Add(middle, hn::Min(back, on)), rest));
      const auto far = hn::Sub(hn::Add(hn::Add(middle, hn::Max(back, on)), rest), first);
      hn::Store(first, all, first_ + i);
      hn::Store(far, all, far_ + i);
      hn::Store(hn::Sub(middle, first), all, parts_[0] + i);
      hn::Store(half, all, parts_[1] + i);
      hn::Store(sag, all, parts_[2] + i);
      const auto is_near = hn::And(hn::Lt(far, set(2)), hn::Lt(hn::Abs(half), set(0.99)));
      near_ = near_ && hn::AllTrue(all, hn::And(is_near, hn::Lt(hn::Abs(first), set(farthest))));
    }
  }
  /// Whether the lanes of all blocks are less than two pixels from their first taps.
  bool near() const { return near_; }
  /// For which lanes() a block's would do: 1, 2, or 3 for none.
  int most(int k) const { return std::max(spread(k), spread(k + blocks)); }
  std::int64_t left(int k) const { return static_cast<std::int64_t>(first_[k]) + k * int16_block; }
  std::int64_t top(int k) const { return static_cast<std::int64_t>(first_[k + blocks]); }
  /// Distances of the lanes.
  template <int most>
  HWY_INLINE CurvedLanes<blocks, twisted, most> lanes() const {
    CurvedLanes<blocks, twisted, most> out;
    const hn::Rebind<std::int32_t, decltype(all)> whole;
    const auto unit = hn::Set(all, one_place<most>), above = hn::Set(all, 65536.5);
    for (int part = 0; part < 3 + twisted; ++part)
      for (std::size_t i = 0; i < 2 * blocks; i += hn::Lanes(all))
        hn::Store(hn::DemoteTo(whole, hn::MulAdd(hn::Load(all, parts_[part] + i), unit, above)), whole,
                  out.parts[part] + i);
    return out;
  }

 private:
  static constexpr hn::CappedTag<double, 2 * blocks> all{};
  static constexpr double farthest = 1e9;
  /// What the cubic's coefficients count in each block, along x and then along y.
  struct Weights {
    alignas(64) double goes[2 * blocks], half_b[2 * blocks], half_c[2 * blocks], middle[2 * blocks],
        middle_b[2 * blocks], middle_c[2 * blocks], sag_c[2 * blocks];
    constexpr Weights() : goes(), half_b(), half_c(), middle(), middle_b(), middle_c(), sag_c() {
      constexpr double n = blocks;
      for (int i = 0; i < 2 * blocks; ++i) {
        const double from = i % blocks / n, to = (i % blocks + 1) / n;
        goes[i] = i < blocks ? n * int16_block : 0;
        half_b[i] = (to * to - from * from) / 2;
        half_c[i] = (to * to * to - from * from * from) / 2;
        middle[i] = (from + to) / 2;
        middle_b[i] = (from * from + to * to) / 2;
        middle_c[i] = (from * from * from + to * to * to) / 2;
        sag_c[i] = 0.75 * middle[i] / (n * n);
      }
    }
  };
  static constexpr Weights weights{};
  int spread(int i) const {
    const double half = std::abs(parts_[1][i]);
    if (!(std::abs(first_[i]) < farthest)) return 3;
    return far_[i] < 2 && half < 0.99 ? 1 : far_[i] < 3 && half < 1.99 ? 2 : 3;
  }
  alignas(64) double first_[2 * blocks], far_[2 * blocks], parts_[3 + twisted][2 * blocks];
  bool near_;
};
#endif
}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
