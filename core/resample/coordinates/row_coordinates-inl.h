// Where the pixels of a row stand in the source; compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_WALK_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_WALK_INL_H
#undef FEXEL_RESAMPLE_WALK_INL_H
#else
#define FEXEL_RESAMPLE_WALK_INL_H
#endif

#include <limits>

#include "resample/coordinates/map_grid.h"
#include "resample/coordinates/source_points.h"
#include "resample/vectors-inl.h"

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
/// Pixels that are interpolated together, and whose coordinates are worked out together.
constexpr int block = 16;
constexpr int segment = 64;
constexpr int gentle_stretch = 128;
constexpr int fraction_bits = 24;
constexpr std::int32_t one_pixel = 1 << fraction_bits;
constexpr std::int32_t fraction_mask = one_pixel - 1;

/// Source coordinates, minus a half, of a segment of a row: whole numbers to count from, and each pixel's distance from
/// them in units of 2^-24 px.
class RowCoordinates {
 public:
  RowCoordinates(const Matrix3& m, int x, int y, int count)
      : u_(m(0, 0)),
        v_(m(1, 0)),
        w_(m(2, 0)),
        x_(x + 0.5),
        start_u_(m(0, 1) * (y + 0.5) + m(0, 2)),
        start_v_(m(1, 1) * (y + 0.5) + m(1, 2)),
        start_w_(m(2, 1) * (y + 0.5) + m(2, 2)) {
    if (w_ == 0) {
      u_ /= start_w_, v_ /= start_w_, start_u_ /= start_w_, start_v_ /= start_w_, start_w_ = 1;
    } else {
      // A cubic between exact ends and slopes is off by at most (change of w along it / w)^3 / 16 of its length.
      const double least = std::min(w_ * x_ + start_w_, w_ * (x_ + count + segment) + start_w_);
      mild_ = least > 0 && std::abs(w_) < 4e-5 * least;
    }
  }

  /// A row that bends as a grid says: only along() is asked then.
  RowCoordinates() : u_(0), v_(0), w_(1), x_(0), start_u_(0), start_v_(0), start_w_(0) {}

  /// Works out the stretch between two places of a grid; false where it is too steep.
  HWY_INLINE bool along(const GridPlace& from, const GridPlace& to) {
    constexpr double max_bent = 30;
    const double most = std::max({std::abs(from.dx), std::abs(from.dy), std::abs(to.dx), std::abs(to.dy),
                                  std::abs(to.x - from.x), std::abs(to.y - from.y)});
    const double bends = std::max(std::abs(to.dx - from.dx), std::abs(to.dy - from.dy));
    if (!(most < max_pixels && bends < max_bent)) return false;
    count_from(from.x - 0.5, from.y - 0.5);
    const double left = from.x - 0.5 - static_cast<double>(x), top = from.y - 0.5 - static_cast<double>(y);
    if (bends < mildly_bent) {
      draw<true>(left, to.x - from.x, from.dx, to.dx, dx);
      draw<true>(top, to.y - from.y, from.dy, to.dy, dy);
    } else {
      draw<false>(left, to.x - from.x, from.dx, to.dx, dx);
      draw<false>(top, to.y - from.y, from.dy, to.dy, dy);
    }
    return true;
  }

  /// The exact places, `gentle_stretch` pixels apart, of pixel i and beyond; false where the cubic between them would
  /// be off by more than 2e-5 px.
  HWY_INLINE bool ends(int i, GridPlace& from, GridPlace& to) {
    const double w0 = w_ * (x_ + i) + start_w_, least = std::min(w0, w0 + w_ * gentle_stretch);
    if (!(least > 0 && std::abs(w_) < 1e-4 * least)) return false;
    look_between<gentle_stretch>(i, from, to);
    return true;
  }

  /// Takes the places of a run as they are; false where they lie too far apart.
  HWY_INLINE bool given(const SourcePoints& run) {
    const auto count = static_cast<std::size_t>(run.count);
    const auto [left, right] = std::minmax_element(run.x.begin(), run.x.begin() + run.count);
    const auto [top, bottom] = std::minmax_element(run.y.begin(), run.y.begin() + run.count);
    if (!(*right - *left < max_pixels && *bottom - *top < max_pixels)) return false;
    count_from(*left - 0.5, *top - 0.5);
    for (std::size_t i = 0; i < count; ++i) {
      dx[i] = static_cast<std::int32_t>((run.x[i] - 0.5 - static_cast<double>(x)) * one_pixel);
      dy[i] = static_cast<std::int32_t>((run.y[i] - 0.5 - static_cast<double>(y)) * one_pixel);
    }
    return true;
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
    const auto units = [](double v) {
      constexpr double farthest = 0x1p30;  // px, beyond any picture
      return static_cast<std::int64_t>(std::floor(std::clamp(v, -farthest, farthest) * 0x1p32 + 0.5));
    };
    return {units(u_ * (x_ + i) + start_u_ - 0.5), units(v_ * (x_ + i) + start_v_ - 0.5), units(u_), units(v_)};
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
  static constexpr double max_pixels = 120;   // what 32 bits hold
  static constexpr double mildly_bent = 0.1;  // px that a segment's slope changes by
  HWY_INLINE void count_from(double u, double v) {
    x = static_cast<std::int64_t>(std::floor(u));
    y = static_cast<std::int64_t>(std::floor(v));
  }

  /// What pixels of a segment are apart where the map is affine.
  HWY_INLINE void lay_offsets() {
    offsets_laid_ = true;
    const hn::Rebind<double, hn::Half<Ints>> doubles;
    const hn::Half<Ints> half;
    const auto u = hn::Set(doubles, u_ * one_pixel), v = hn::Set(doubles, v_ * one_pixel);
    for (std::size_t k = 0; k < segment; k += hn::Lanes(doubles)) {
      const auto place = hn::Iota(doubles, static_cast<double>(k));
      hn::Store(hn::DemoteTo(half, hn::Mul(place, u)), half, offset_x_ + k);
      hn::Store(hn::DemoteTo(half, hn::Mul(place, v)), half, offset_y_ + k);
    }
  }

  HWY_INLINE bool step(int i, int pixels) {
    if (!offsets_laid_) lay_offsets();
    if (std::max(std::abs(u_), std::abs(v_)) * pixels > max_pixels) return false;
    const double u = u_ * (x_ + i) + start_u_ - 0.5, v = v_ * (x_ + i) + start_v_ - 0.5;
    count_from(u, v);
    part_x_ = static_cast<std::int32_t>((u - static_cast<double>(x)) * one_pixel);
    part_y_ = static_cast<std::int32_t>((v - static_cast<double>(y)) * one_pixel);
    detailed_ = false;
    return true;
  }

  template <int length>
  GridPlace node(int i) const {
    const double at = x_ + i, inverse = 1 / (w_ * at + start_w_);
    const double u = (u_ * at + start_u_) * inverse, v = (v_ * at + start_v_) * inverse;
    return {u, v, length * (u_ - u * w_) * inverse, length * (v_ - v * w_) * inverse};
  }
  /// slope i + s (a + s (b + s c)) for s = i / 64, in units of 2^-24 px; the floats hold only what is small. A mild
  /// bend is one of less than 0.2 px.
  template <bool mild>
  static HWY_INLINE void draw(double part, double way, double start, double end, std::int32_t* out) {
    const auto slope = static_cast<std::int32_t>(start * (one_pixel / segment));
    const auto from = hn::Set(ints, static_cast<std::int32_t>(part * one_pixel));
    const auto a = hn::Set(floats, static_cast<float>(start * one_pixel - static_cast<double>(slope) * segment));
    const auto b = hn::Set(floats, static_cast<float>((3 * way - 2 * start - end) * one_pixel));
    const auto c = hn::Set(floats, static_cast<float>((start + end - 2 * way) * one_pixel));
    for (std::size_t k = 0; k < segment; k += hn::Lanes(ints)) {
      const auto s = hn::Mul(hn::Iota(floats, static_cast<float>(k)), hn::Set(floats, 1.0F / segment));
      const auto bend = hn::Mul(s, hn::MulAdd(hn::MulAdd(c, s, b), s, a));
      const auto bent = mild ? nearest(bend) : hn::NearestInt(bend);
      const auto straight = hn::Mul(hn::Iota(ints, static_cast<std::int32_t>(k)), hn::Set(ints, slope));
      hn::Store(hn::Add(from, hn::Add(straight, bent)), ints, out + k);
    }
  }
  template <int length>
  HWY_INLINE void look_between(int i, GridPlace& from, GridPlace& to) {
    from = i == next_at_ ? next_ : node<length>(i);
    next_ = to = node<length>(i + length);
    next_at_ = i + length;
  }
  HWY_INLINE bool bend(int i, int pixels) {
    GridPlace from, to;
    look_between<segment>(i, from, to);
    const double most =
        std::max(std::max(std::abs(from.dx), std::abs(from.dy)), std::max(std::abs(to.dx), std::abs(to.dy)));
    const double bends = std::max(std::abs(to.dx - from.dx), std::abs(to.dy - from.dy));
    if (!(most * pixels < max_pixels * segment && most < max_pixels && bends < mildly_bent)) return false;
    count_from(from.x - 0.5, from.y - 0.5);
    draw<true>(from.x - 0.5 - static_cast<double>(x), to.x - from.x, from.dx, to.dx, dx);
    draw<true>(from.y - 0.5 - static_cast<double>(y), to.y - from.y, from.dy, to.dy, dy);
    return true;
  }

  /// One division a pixel.
  HWY_INLINE bool divide(int i, int pixels) {
    const double first = x_ + i, last = first + pixels;
    const double w0 = w_ * first + start_w_, w1 = w_ * last + start_w_;
    const double x0 = (u_ * first + start_u_) / w0 - 0.5, y0 = (v_ * first + start_v_) / w0 - 0.5;
    const double x1 = (u_ * last + start_u_) / w1 - 0.5, y1 = (v_ * last + start_v_) / w1 - 0.5;
    if (!(w1 > 0 && std::max(std::abs(x1 - x0), std::abs(y1 - y0)) < max_pixels)) return false;
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
  bool mild_ = false, offsets_laid_ = false, detailed_ = true;
  int next_at_ = std::numeric_limits<int>::min();  // none yet: rows are asked from before their first pixel, too
  std::int32_t part_x_ = 0, part_y_ = 0;
  GridPlace next_{};
  alignas(64) std::int32_t offset_x_[segment], offset_y_[segment];
};

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif
