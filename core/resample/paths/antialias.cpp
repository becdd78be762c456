#include "resample/paths/antialias.h"

#include <climits>
#include <cmath>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "resample/paths/antialias.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "resample/paths/antialias-inl.h"

#if HWY_ONCE
namespace fexel {

HWY_EXPORT(WidenedMeans);

namespace {

constexpr int read_beyond = 3;                  // samples that are read behind the last tap, at most
constexpr std::int64_t max_laid_out = 1 << 22;  // samples of a band
constexpr std::int64_t max_offset = 1 << 30;    // bytes
// Footprints that are done together may differ by this much of the kernel's reach; their lines are even in between, and
// so the footprints themselves are not quite: by less than the spare twentieth that is looked at.
constexpr double max_off = 0.25, spare = 1.05;

/// The whole number below, and what is left; any number, even none, becomes one that fits an int.
struct Place {
  int whole;
  double part;
  explicit Place(double v) {
    constexpr double far = 1e9;
    constexpr int above = 1 << 30;  // makes it positive, so that cutting it off rounds it down
    v = v > -far ? (v < far ? v : far) : -far;
    whole = static_cast<int>(v + above) - above;
    part = v - whole;
  }
};

double length_of(const Matrix2& m, int row) {
  return std::abs(m(row, 0)) + std::abs(m(row, 1));
}

}  // namespace

WidenedSampler::WidenedSampler(const Image& source, Kernel kernel, BorderMode edge)
    : source_(source),
      wide_(ShrinkingKernel::of(kernel)),
      own_(ShrinkingKernel::not_widened(kernel)),
      area_(kernel == Kernel::area),
      edge_(edge),
      sample_bytes_(static_cast<std::ptrdiff_t>(bytes_of(source.depth()))),
      means_(static_cast<std::size_t>(source.bands() * WidenedTaps::pixels)),
      across_(means_.size()),
      down_(means_.size()) {}

WidenedTaps WidenedSampler::taps_of(const Axes& axes, const FootprintSpan& stretch, int begin, int end,
                                    bool& steady) const {
  WidenedTaps taps;
  const Matrix2 &first = stretch.from.to_result, &last = stretch.to.to_result;
  const auto line = [&](int row, int column) -> WidenedTaps::Line {
    const double units = area_ ? 1 : double{(row == 0 ? axes.u : axes.v).pieces().per_pixel};
    const double step = (last(row, column) - first(row, column)) / stretch.pixels;
    return {static_cast<float>(units * first(row, column)), static_cast<float>(units * step)};
  };
  taps.ux = line(0, 0), taps.uy = line(0, 1), taps.vx = line(1, 0), taps.vy = line(1, 1);

  const auto between = [&](const Matrix2& from, const Matrix2& to, int pixel) -> Matrix2 {
    return from + static_cast<double>(pixel) / stretch.pixels * (to - from);
  };
  const Matrix2 a = between(first, last, begin), b = between(first, last, end - 1);
  const auto end_along = [&](int row) {
    return area_ ? 0.5 + 0.5 * std::max(length_of(a, row), length_of(b, row)) : (row == 0 ? axes.u : axes.v).radius();
  };
  const double end_u = end_along(0), end_v = end_along(1);
  const auto half = [&](int row) {
    const auto reached = [&](int pixel) {
      const Matrix2 reach = between(stretch.from.reach, stretch.to.reach, pixel);
      return end_u * std::abs(reach(row, 0)) + end_v * std::abs(reach(row, 1));
    };
    return spare * std::max(reached(begin), reached(end - 1));
  };
  const double half_width = half(0), half_height = half(1);
  // Points stand up to a pixel behind the tap that they count from.
  taps.left = -static_cast<int>(half_width);
  taps.top = -static_cast<int>(half_height);
  taps.columns = static_cast<int>(half_width + 1) - taps.left + 1;
  taps.rows = static_cast<int>(half_height + 1) - taps.top + 1;
  // Between the two, a line is off its middle by up to half of what they differ by.
  steady = true;
  const auto band = [&](int row) -> WidenedTaps::Band {
    const double off = 0.5 * (std::abs(b(row, 0) - a(row, 0)) * (half_width + 2) +
                              std::abs(b(row, 1) - a(row, 1)) * (half_height + 2));
    steady = steady && off < max_off * end_along(row);
    return {static_cast<float>((a(row, 0) + b(row, 0)) / 2), static_cast<float>((a(row, 1) + b(row, 1)) / 2),
            static_cast<float>(end_along(row) + off)};
  };
  taps.along_u = band(0), taps.along_v = band(1);
  return taps;
}

namespace {

/// Mixes values with those of another kernel by its share, which changes evenly along the stretch.
void mix_in(double from, double step, const WidenedSampler::Points& points, int bands, const float* other,
            std::ptrdiff_t other_apart, float* out, std::ptrdiff_t apart) {
  for (int i = 0; i < points.count; ++i) {
    const auto share = static_cast<float>(from + (points.first + i) * step);
    for (int band = 0; band < bands && share > 0; ++band) {
      float& value = out[band * apart + i];
      const float second = other[band * other_apart + i];
      value = share >= 1 ? second : value + share * (second - value);
    }
  }
}

}  // namespace

void WidenedSampler::along_u(bool wide_v, const FootprintSpan& stretch, const Points& points, float* out,
                             std::ptrdiff_t apart) {
  const ShrinkingKernel& v = wide_v ? wide_ : own_;
  const double from = stretch.from.wide_u, to = stretch.to.wide_u;
  const bool all_wide = std::min(from, to) >= 1;
  part({all_wide ? wide_ : own_, v}, stretch, 0, stretch.pixels, points, out, apart);
  if (all_wide || std::max(from, to) <= 0) return;
  part({wide_, v}, stretch, 0, stretch.pixels, points, across_.data(), WidenedTaps::pixels);
  mix_in(from, (to - from) / stretch.pixels, points, source_.bands(), across_.data(), WidenedTaps::pixels, out, apart);
}

void WidenedSampler::sample(const FootprintSpan& stretch, const Points& points, float* out, std::ptrdiff_t apart) {
  if (area_) return part({wide_, wide_}, stretch, 0, stretch.pixels, points, out, apart);
  const double from = stretch.from.wide_v, to = stretch.to.wide_v;
  const bool all_wide = std::min(from, to) >= 1;
  along_u(all_wide, stretch, points, out, apart);
  if (all_wide || std::max(from, to) <= 0) return;
  along_u(true, stretch, points, down_.data(), WidenedTaps::pixels);
  mix_in(from, (to - from) / stretch.pixels, points, source_.bands(), down_.data(), WidenedTaps::pixels, out, apart);
}

void WidenedSampler::part(const Axes& axes, const FootprintSpan& stretch, int begin, int end, const Points& points,
                          float* out, std::ptrdiff_t apart) {
  // Parts are those of the whole stretch, so that a pixel is the same whichever of its neighbours are asked for.
  const int from = std::max(begin, points.first), to = std::min(end, points.first + points.count);
  if (from >= to) return;
  bool steady = false;
  WidenedTaps taps = taps_of(axes, stretch, begin, end, steady);
  if (!steady && end - begin > 1) {
    const int middle = (begin + end) / 2;
    part(axes, stretch, begin, middle, points, out, apart);
    return part(axes, stretch, middle, end, points, out, apart);
  }
  const int skipped = from - points.first;
  under(axes, taps, {from, to - from, points.x + skipped, points.y + skipped}, out + skipped, apart);
}

void WidenedSampler::under(const Axes& axes, WidenedTaps& taps, const Points& points, float* out,
                           std::ptrdiff_t apart) {
  taps.first = points.first;
  int left = INT_MAX, top = INT_MAX, right = INT_MIN, bottom = INT_MIN;
  for (std::size_t i = 0; i < WidenedTaps::pixels; ++i) {
    const int at = std::min(static_cast<int>(i), points.count - 1);
    const Place across(points.x[at] - 0.5), down(points.y[at] - 0.5);
    columns_[i] = across.whole, rows_[i] = down.whole;
    taps.x[i] = static_cast<float>(across.part), taps.y[i] = static_cast<float>(down.part);
    left = std::min(left, across.whole), right = std::max(right, across.whole);
    top = std::min(top, down.whole), bottom = std::max(bottom, down.whole);
  }
  // The samples under the taps of all points.
  const Region box{left + taps.left, top + taps.top, right - left + taps.columns + read_beyond,
                   bottom - top + taps.rows};
  const std::int64_t area = std::int64_t{box.width} * box.height;
  const Image& source = source_;
  const std::int64_t row_bytes = source.height() > 1 ? source.bytes(0, 1) - source.bytes(0, 0) : 0;
  const bool inside = box.x >= 0 && box.y >= 0 && box.x + box.width <= source.width() &&
                      box.y + box.height <= source.height() && box.height * row_bytes < max_offset;
  if (inside) {
    weigh(axes, taps, points.count,
          {source.bytes(0, box.y) + box.x * sample_bytes_, row_bytes, row_bytes * source.height()}, box);
  } else if (points.count > 1 && area > std::min(max_laid_out, points.count * taps.columns * std::int64_t{taps.rows})) {
    // Apart, they take less laying out.
    const int half = points.count / 2;
    under(axes, taps, {points.first, half, points.x, points.y}, out, apart);
    return under(axes, taps, {points.first + half, points.count - half, points.x + half, points.y + half}, out + half,
                 apart);
  } else {
    weigh(axes, taps, points.count, laid_out(box), box);
  }
  for (int band = 0; band < source.bands(); ++band)
    std::copy_n(means_.data() + band * WidenedTaps::pixels, points.count, out + band * apart);
}

void WidenedSampler::weigh(const Axes& axes, WidenedTaps& taps, int count, const Samples& samples, const Region& box) {
  for (std::size_t i = 0; i < WidenedTaps::pixels; ++i) {
    const std::ptrdiff_t down = rows_[i] - (box.y - taps.top), across = columns_[i] - (box.x - taps.left);
    const std::ptrdiff_t next_row = taps.y[i] < 0.5F ? 0 : 1, next_column = taps.x[i] < 0.5F ? 0 : 1;
    taps.offset[i] = static_cast<std::int32_t>(down * samples.stride + across * sample_bytes_);
    taps.nearest[i] =
        static_cast<std::int32_t>((down + next_row) * samples.stride + (across + next_column) * sample_bytes_);
  }
  HWY_DYNAMIC_DISPATCH(WidenedMeans)
  (taps, count, axes.u.pieces(), axes.v.pieces(), area_, source_.depth(),
   samples.first - taps.top * samples.stride - taps.left * sample_bytes_, samples.stride / sample_bytes_,
   samples.plane / sample_bytes_, source_.bands(), means_.data());
}

WidenedSampler::Samples WidenedSampler::laid_out(const Region& box) {
  const std::ptrdiff_t stride = box.width * sample_bytes_, plane = stride * box.height;
  const auto needed = static_cast<std::size_t>(plane * source_.bands());
  if (laid_out_.size() < needed) laid_out_.resize(needed);
  visit_depth(source_.depth(), [&](auto sample) {
    using T = decltype(sample);
    auto* out = reinterpret_cast<T*>(laid_out_.data());
    for (int band = 0; band < source_.bands(); ++band)
      for (int r = 0; r < box.height; ++r) {
        const T* in = source_.row<T>(band, folded(box.y + r, source_.height(), edge_));
        for (int c = 0; c < box.width; ++c) *out++ = in[folded(box.x + c, source_.width(), edge_)];
      }
  });
  return {laid_out_.data(), stride, plane};
}

}  // namespace fexel
#endif
