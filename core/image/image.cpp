#include "image/image.h"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <cmath>
#include <cstring>
#include <limits>
#include <mutex>
#include <new>
#include <vector>

#include "base/error.h"
#include "base/job.h"

namespace fexel {

std::size_t bytes_of(Depth depth) {
  return depth == Depth::u8 ? 1 : depth == Depth::u16 ? 2 : 4;
}

double top_of(Depth depth) {
  return depth == Depth::u8 ? 255 : depth == Depth::u16 ? 65535 : 1;
}

std::string_view name_of(Depth depth) {
  return depth == Depth::u8 ? "u8" : depth == Depth::u16 ? "u16" : "f32";
}

Image::Image(int width, int height, int bands, Depth depth, Start start)
    : width_(width), height_(height), bands_(bands), depth_(depth) {
  if (width < 1 || height < 1 || bands < 1)
    throw call_error(fmt::format("A picture cannot be {} x {} pixels with {} bands.", width, height, bands), {},
                     "Choose values that give a smaller picture.");
  stride_bytes_ = (row_bytes() + 63) / 64 * 64;
  const auto rows = static_cast<std::size_t>(height) * static_cast<std::size_t>(bands);
  try {
    samples_ = take_block(stride_bytes_ * rows);
  } catch (const std::bad_alloc&) {
    throw input_error(fmt::format("There is not enough memory for {} x {} pixels with {} bands.", width, height, bands),
                      {}, "Close other programs, or choose a larger pixel size.");
  }
  if (start == Start::zero) std::memset(samples_.get(), 0, stride_bytes_ * rows);
}

Image Image::clone() const {
  Image copy(width_, height_, bands_, depth_, Start::unset);
  copy.largest_ = largest_;
  copy.partly_there_ = partly_there_;
  std::memcpy(copy.samples_.get(), samples_.get(), offset(bands_, 0));
  if (mask_) {
    copy.make_unset_mask();
    std::memcpy(copy.mask_.get(), mask_.get(), mask_bytes());
  }
  return copy;
}

double Image::largest() const {
  return largest_ > 0 ? largest_ : top_of(depth_);
}

void Image::set_largest(int value) {
  largest_ = depth_ != Depth::f32 && value > 0 && value < top_of(depth_) ? value : 0;
}

std::int64_t clamp_to_largest(Image& image) {
  if (image.stated_largest() == 0) return 0;
  std::atomic<std::int64_t> clamped = 0;
  parallel_for(image.height(), {}, [&](int y) {
    std::int64_t count = 0;
    visit_depth(image.depth(), [&](auto sample) {
      using T = decltype(sample);
      const T most = static_cast<T>(image.stated_largest());
      for (int band = 0; band < image.bands(); ++band) {
        T* row = image.row<T>(band, y);
        for (int x = 0; x < image.width(); ++x) {
          if (row[x] <= most) continue;
          row[x] = most;
          count += image.valid(x, y);
        }
      }
    });
    clamped += count;
  });
  return clamped;
}

std::optional<std::pair<double, double>> range_of_data(const Image& image) {
  std::mutex mutex;
  std::optional<std::pair<double, double>> range;
  parallel_for(image.height(), {}, [&](int y) {
    double low = std::numeric_limits<double>::infinity(), high = -low;
    visit_depth(image.depth(), [&](auto sample) {
      for (int band = 0; band < image.bands(); ++band) {
        const auto* row = image.row<decltype(sample)>(band, y);
        for (int x = 0; x < image.width(); ++x) {
          const auto v = static_cast<double>(row[x]);
          if (!std::isfinite(v) || !image.valid(x, y)) continue;
          low = std::min(low, v);
          high = std::max(high, v);
        }
      }
    });
    if (low > high) return;
    const std::scoped_lock lock(mutex);
    range = range ? std::pair(std::min(range->first, low), std::max(range->second, high)) : std::pair(low, high);
  });
  return range;
}

void Image::make_unset_mask() {
  mask_ = take_block(mask_bytes());
}

void Image::make_mask(bool valid) {
  make_unset_mask();
  std::memset(mask_.get(), valid ? 0xff : 0, mask_bytes());
}

void Image::set_valid_span(int y, int begin, int end) {
  std::uint64_t* words = mask_row(y);
  std::fill(words, words + mask_words(), 0);
  if (begin >= end) return;
  const int first = begin >> 6, last = (end - 1) >> 6;
  std::fill(words + first, words + last + 1, ~std::uint64_t{0});
  words[first] &= ~std::uint64_t{0} << (begin & 63);
  words[last] &= ~std::uint64_t{0} >> (63 - ((end - 1) & 63));
}

void Image::add_valid_span(int y, int begin, int end) {
  if (begin >= end) return;
  std::uint64_t* words = mask_row(y);
  const int first = begin >> 6, last = (end - 1) >> 6;
  const std::uint64_t from = ~std::uint64_t{0} << (begin & 63), to = ~std::uint64_t{0} >> (63 - ((end - 1) & 63));
  if (first == last) {
    words[first] |= from & to;
    return;
  }
  words[first] |= from;
  std::fill(words + first + 1, words + last, ~std::uint64_t{0});
  words[last] |= to;
}

void Image::take_alpha(double full, bool associated) {
  --bands_;
  make_mask(true);
  const double all = full > 0 ? full : top_of(depth_), top = largest();
  visit_depth(depth_, [&](auto sample) {
    using T = decltype(sample);
    for (int y = 0; y < height_; ++y)
      for (int x = 0; x < width_; ++x) {
        const auto alpha = static_cast<double>(row<T>(bands_, y)[x]);
        if (!(alpha >= all / 2)) set_valid(x, y, false);
        if (alpha >= all || !(alpha > 0)) continue;
        ++partly_there_;
        if (!associated || !(alpha >= all / 2)) continue;
        for (int band = 0; band < bands_; ++band) {
          T& value = row<T>(band, y)[x];
          const double whole = static_cast<double>(value) * all / alpha;
          value = static_cast<T>(std::is_floating_point_v<T> ? whole : std::min(std::round(whole), top));
        }
      }
  });
}

void copy_mask(const Image& from, Image& to) {
  if (!from.has_mask()) return;
  to.make_mask(true);
  for (int y = 0; y < from.height(); ++y)
    for (int x = 0; x < from.width(); ++x)
      if (!from.valid(x, y)) to.set_valid(x, y, false);
}

namespace {

/// Every sample as `value` has it, in another depth.
template <class Value>
Image converted(const Image& image, Depth depth, std::int64_t& clamped, const Value& value) {
  Image out(image.width(), image.height(), image.bands(), depth, Image::Start::unset);
  visit_depth(image.depth(), [&](auto from) {
    visit_depth(depth, [&](auto to) {
      for (int band = 0; band < image.bands(); ++band)
        for (int y = 0; y < image.height(); ++y) {
          const auto* in = image.row<decltype(from)>(band, y);
          auto* target = out.row<decltype(to)>(band, y);
          for (int x = 0; x < image.width(); ++x) target[x] = to_sample<decltype(to)>(value(in[x]), clamped);
        }
    });
  });
  copy_mask(image, out);
  return out;
}

}  // namespace

Image with_depth(const Image& image, Depth depth, std::int64_t& clamped) {
  if (image.depth() == depth) return image.clone();
  Image out = converted(image, depth, clamped, [](auto sample) { return static_cast<float>(sample); });
  out.set_largest(image.stated_largest());
  return out;
}

Image with_range(const Image& image, Depth depth, double low, double high, std::int64_t& clamped) {
  const double scale = top_of(depth) / (high - low);
  return converted(image, depth, clamped,
                   [low, scale](auto sample) { return static_cast<float>((sample - low) * scale); });
}

Image with_alpha(const Image& image) {
  Image out(image.width(), image.height(), image.bands() + 1, image.depth(), Image::Start::unset);
  for (int band = 0; band < image.bands(); ++band)
    for (int y = 0; y < image.height(); ++y) std::copy_n(image.bytes(band, y), image.row_bytes(), out.bytes(band, y));
  visit_depth(image.depth(), [&](auto sample) {
    using T = decltype(sample);
    for (int y = 0; y < image.height(); ++y) {
      T* row = out.row<T>(image.bands(), y);
      for (int x = 0; x < image.width(); ++x) row[x] = image.valid(x, y) ? static_cast<T>(top_of(image.depth())) : T{0};
    }
  });
  copy_mask(image, out);
  out.set_largest(image.stated_largest());
  return out;
}

void take_nan(Image& image) {
  if (image.depth() != Depth::f32) return;
  for (int band = 0; band < image.bands(); ++band)
    for (int y = 0; y < image.height(); ++y) {
      const float* row = image.row<float>(band, y);
      for (int x = 0; x < image.width(); ++x) {
        if (std::isfinite(row[x])) continue;
        if (!image.has_mask()) image.make_mask(true);
        image.set_valid(x, y, false);
      }
    }
}

void paint_empty(Image& image) {
  if (!image.has_mask()) return;
  // The valid pixel next to each of a row, by whole steps across and down: among the rows above, then those below.
  struct Near {
    int x, y, distance;
  };
  constexpr int far = 1 << 28;
  const int width = image.width(), height = image.height();
  std::vector<Near> near(static_cast<std::size_t>(width));
  const auto nearer = [](const Near& here, const Near& beside) {
    return beside.distance + 1 < here.distance ? Near{beside.x, beside.y, beside.distance + 1} : here;
  };
  const auto copy = [&](const Near& from, int x, int y) {
    for (int band = 0; band < image.bands(); ++band)
      std::memcpy(image.bytes(band, y) + static_cast<std::size_t>(x) * bytes_of(image.depth()),
                  image.bytes(band, from.y) + static_cast<std::size_t>(from.x) * bytes_of(image.depth()),
                  bytes_of(image.depth()));
  };
  std::vector<std::int32_t> distances(static_cast<std::size_t>(width) * static_cast<std::size_t>(height), far);
  for (const int way : {1, -1}) {
    std::ranges::fill(near, Near{0, 0, far});
    for (int row = 0; row < height; ++row) {
      const int y = way > 0 ? row : height - 1 - row;
      for (int x = 0; x < width; ++x) {
        Near& here = near[static_cast<std::size_t>(x)];
        ++here.distance;
        if (image.valid(x, y)) here = {x, y, 0};
        if (x > 0) here = nearer(here, near[static_cast<std::size_t>(x) - 1]);
      }
      std::int32_t* known = distances.data() + static_cast<std::ptrdiff_t>(y) * width;
      for (int x = width; x-- > 0;) {
        Near& here = near[static_cast<std::size_t>(x)];
        if (x + 1 < width) here = nearer(here, near[static_cast<std::size_t>(x) + 1]);
        if (image.valid(x, y) || here.distance >= known[x]) continue;
        copy(here, x, y);
        known[x] = here.distance;
      }
    }
  }
}

Image mask_picture(const Image& image) {
  Image out(image.width(), image.height(), 1, Depth::u8, Image::Start::unset);
  for (int y = 0; y < image.height(); ++y)
    for (int x = 0; x < image.width(); ++x) out.row<std::uint8_t>(0, y)[x] = image.valid(x, y) ? 255 : 0;
  return out;
}

void put_nan(Image& image) {
  if (image.depth() != Depth::f32)
    throw call_error(fmt::format("{} samples cannot be NaN.", name_of(image.depth())), "--empty",
                     "Convert the samples (--depth f32), or tell empty pixels by --empty alpha or mask.");
  for (int band = 0; band < image.bands(); ++band)
    for (int y = 0; y < image.height(); ++y)
      for (int x = 0; x < image.width(); ++x)
        if (!image.valid(x, y)) image.row<float>(band, y)[x] = std::numeric_limits<float>::quiet_NaN();
}

double empty_share(const Image& image) {
  if (!image.has_mask()) return 0;
  std::int64_t empty = 0;
  for (int y = 0; y < image.height(); ++y)
    for (int x = 0; x < image.width(); ++x) empty += !image.valid(x, y);
  return static_cast<double>(empty) / (static_cast<double>(image.width()) * image.height());
}

}  // namespace fexel
