#include "resample/widened.h"

#include <climits>
#include <cmath>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "resample/widened.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "resample/widened-inl.h"

#if HWY_ONCE
namespace fexel {

HWY_EXPORT(WidenedMeans);

namespace {

constexpr int read_beyond = 3;                   // samples that are read behind the last tap, at most
constexpr std::int64_t most_laid_out = 1 << 16;  // samples of a band, but for a single pixel's
constexpr std::int64_t most_offset = 1 << 30;    // bytes

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

WidenedSampler::WidenedSampler(const Image& source, Kernel kernel, Edge edge)
    : source_(source),
      kernel_(ShrinkingKernel::of(kernel)),
      area_(kernel == Kernel::area),
      edge_(edge),
      sample_bytes_(static_cast<std::ptrdiff_t>(bytes_of(source.depth()))),
      means_(static_cast<std::size_t>(source.bands() * WidenedTaps::pixels)) {}

WidenedTaps WidenedSampler::taps_of(const Footprint& from, const Footprint& to) const {
  WidenedTaps taps;
  const Matrix2 &a = from.to_result, &b = to.to_result;
  const auto end = [&](int row) {
    return area_ ? 0.5 + 0.5 * std::max(length_of(a, row), length_of(b, row)) : kernel_.radius();
  };
  const double end_u = end(0), end_v = end(1);
  const auto half = [&](int row) {
    const auto reaches = [&](const Matrix2& m) { return end_u * std::abs(m(row, 0)) + end_v * std::abs(m(row, 1)); };
    return std::max(reaches(from.reach), reaches(to.reach));
  };
  const double half_width = half(0), half_height = half(1);
  // Points stand up to a pixel behind the tap that they count from.
  taps.left = -static_cast<int>(half_width);
  taps.top = -static_cast<int>(half_height);
  taps.columns = static_cast<int>(half_width + 1) - taps.left + 1;
  taps.rows = static_cast<int>(half_height + 1) - taps.top + 1;
  const auto line = [&](int row, int column) -> WidenedTaps::Line {
    const double units = area_ ? 1 : double{kernel_.pieces().per_pixel};
    const double step = (b(row, column) - a(row, column)) / WidenedTaps::pixels;
    return {static_cast<float>(units * a(row, column)), static_cast<float>(units * step)};
  };
  taps.ux = line(0, 0), taps.uy = line(0, 1), taps.vx = line(1, 0), taps.vy = line(1, 1);
  // Between the two, a line is off its middle by up to half of what they differ by.
  const auto band = [&](int row) -> WidenedTaps::Band {
    const double off = 0.5 * (std::abs(b(row, 0) - a(row, 0)) * (half_width + 2) +
                              std::abs(b(row, 1) - a(row, 1)) * (half_height + 2));
    return {static_cast<float>((a(row, 0) + b(row, 0)) / 2), static_cast<float>((a(row, 1) + b(row, 1)) / 2),
            static_cast<float>(end(row) + off)};
  };
  taps.along_u = band(0), taps.along_v = band(1);
  return taps;
}

void WidenedSampler::sample(const Footprint& from, const Footprint& to, int first, int count, const double* x,
                            const double* y, float* out, std::ptrdiff_t apart) {
  WidenedTaps taps = taps_of(from, to);
  taps.first = first;
  int left = INT_MAX, top = INT_MAX, right = INT_MIN, bottom = INT_MIN;
  for (std::size_t i = 0; i < WidenedTaps::pixels; ++i) {
    const int at = std::min(static_cast<int>(i), count - 1);
    const Place across(x[at] - 0.5), down(y[at] - 0.5);
    columns_[i] = across.whole, rows_[i] = down.whole;
    taps.x[i] = static_cast<float>(across.part), taps.y[i] = static_cast<float>(down.part);
    left = std::min(left, across.whole), right = std::max(right, across.whole);
    top = std::min(top, down.whole), bottom = std::max(bottom, down.whole);
  }
  // The samples under the taps of all pixels.
  const Region box{left + taps.left, top + taps.top, right - left + taps.columns + read_beyond,
                   bottom - top + taps.rows};
  const Image& source = source_;
  const std::int64_t row_bytes = source.height() > 1 ? source.bytes(0, 1) - source.bytes(0, 0) : 0;
  const bool inside = box.x >= 0 && box.y >= 0 && box.x + box.width <= source.width() &&
                      box.y + box.height <= source.height() && box.height * row_bytes < most_offset;
  if (inside) {
    weigh(taps, count, {source.bytes(0, box.y) + box.x * sample_bytes_, row_bytes, row_bytes * source.height()}, box);
  } else if (count > 1 && std::int64_t{box.width} * box.height > most_laid_out) {
    const int half = count / 2;
    sample(from, to, first, half, x, y, out, apart);
    return sample(from, to, first + half, count - half, x + half, y + half, out + half, apart);
  } else {
    weigh(taps, count, laid_out(box), box);
  }
  for (int band = 0; band < source.bands(); ++band)
    std::copy_n(means_.data() + band * WidenedTaps::pixels, count, out + band * apart);
}

void WidenedSampler::weigh(WidenedTaps& taps, int count, const Samples& samples, const Region& box) {
  for (std::size_t i = 0; i < WidenedTaps::pixels; ++i) {
    const std::ptrdiff_t down = rows_[i] - (box.y - taps.top), across = columns_[i] - (box.x - taps.left);
    const std::ptrdiff_t next_row = taps.y[i] < 0.5F ? 0 : 1, next_column = taps.x[i] < 0.5F ? 0 : 1;
    taps.offset[i] = static_cast<std::int32_t>(down * samples.stride + across * sample_bytes_);
    taps.nearest[i] =
        static_cast<std::int32_t>((down + next_row) * samples.stride + (across + next_column) * sample_bytes_);
  }
  HWY_DYNAMIC_DISPATCH(WidenedMeans)
  (taps, count, kernel_.pieces(), area_, source_.depth(),
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
