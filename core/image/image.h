#pragma once
/// Planar pictures of 8-bit, 16-bit or floating-point samples, with a validity mask where parts are empty.
#include <bit>
#include <cstddef>
#include <cstdint>
#include <memory>
#include <optional>
#include <string_view>
#include <type_traits>
#include <utility>

#include "image/memory.h"

namespace fexel {

/// How a sample is stored. Integers stand for themselves (0..255, 0..65535); nothing is rescaled in passing.
enum class Depth { u8, u16, f32 };

std::size_t bytes_of(Depth depth);
/// The largest integer that it holds; 1 in f32, where that is a convention.
double top_of(Depth depth);
/// "u8", "u16" or "f32".
std::string_view name_of(Depth depth);

/// A picture of `bands` planes, each width x height, rows aligned to 64 bytes. Owns its samples; it moves, and is
/// copied only by clone().
class Image {
 public:
  enum class Start { zero, unset };
  Image() = default;
  /// All samples start as zero; unset is for whoever writes every one of them. Raises a call error when a side is below
  /// 1, and an input error when the samples would not fit in memory.
  Image(int width, int height, int bands, Depth depth, Start start = Start::zero);
  Image(Image&&) noexcept = default;
  Image& operator=(Image&&) noexcept = default;
  Image clone() const;

  int width() const { return width_; }
  int height() const { return height_; }
  int bands() const { return bands_; }
  Depth depth() const { return depth_; }
  bool empty() const { return width_ == 0; }
  /// The largest value that a sample means: the depth's own (1 in f32), or less where the file says so, as 1023 of a
  /// sensor with ten bits. It goes with the picture into what is made of it.
  double largest() const;
  /// Of integers only; 0 for the depth's own, as is what the depth cannot hold.
  void set_largest(int value);
  /// What set_largest() was given; 0 for the depth's own.
  int stated_largest() const { return largest_; }
  std::size_t row_bytes() const { return static_cast<std::size_t>(width_) * bytes_of(depth_); }

  std::byte* bytes(int band, int y) { return samples_.get() + offset(band, y); }
  const std::byte* bytes(int band, int y) const { return samples_.get() + offset(band, y); }
  template <class T>
  T* row(int band, int y) {
    return reinterpret_cast<T*>(bytes(band, y));
  }
  template <class T>
  const T* row(int band, int y) const {
    return reinterpret_cast<const T*>(bytes(band, y));
  }
  /// Samples from one row to the next.
  template <class T>
  std::ptrdiff_t stride() const {
    return static_cast<std::ptrdiff_t>(stride_bytes_ / sizeof(T));
  }

  /// The mask tells pixels of the source from empty ones; a picture without it is valid everywhere. Different rows may
  /// be set from different threads.
  bool has_mask() const { return mask_ != nullptr; }
  void make_mask(bool valid);
  /// The same for whoever sets every row with set_valid_span().
  void make_unset_mask();
  bool valid(int x, int y) const { return !mask_ || (mask_row(y)[x >> 6] >> (x & 63) & 1) != 0; }
  void set_valid(int x, int y, bool valid) {
    const std::uint64_t bit = std::uint64_t{1} << (x & 63);
    if (valid)
      mask_row(y)[x >> 6] |= bit;
    else
      mask_row(y)[x >> 6] &= ~bit;
  }
  /// Takes the last of several bands for the mask: what is below half of `full` is empty; 0 is the depth's highest (1
  /// in f32). `associated` colours were stored times alpha: those that are there are divided by it.
  void take_alpha(double full = 0, bool associated = false);
  /// How many pixels an alpha said to be there in part, neither all nor not at all.
  std::int64_t partly_there() const { return partly_there_; }
  void set_partly_there(std::int64_t pixels) { partly_there_ = pixels; }
  /// Makes pixels [begin, end) of a row valid, and the others of that row empty.
  void set_valid_span(int y, int begin, int end);
  /// Makes pixels [begin, end) of a row valid, and leaves the others of that row as they are.
  void add_valid_span(int y, int begin, int end);
  /// A picture whose pixels are all valid needs no mask.
  void drop_mask() { mask_ = {}; }

 private:
  std::size_t offset(int band, int y) const {
    return (static_cast<std::size_t>(band) * static_cast<std::size_t>(height_) + static_cast<std::size_t>(y)) *
           stride_bytes_;
  }
  std::ptrdiff_t mask_words() const { return (width_ + 63) / 64; }
  std::size_t mask_bytes() const {
    return static_cast<std::size_t>(mask_words()) * static_cast<std::size_t>(height_) * 8;
  }
  std::uint64_t* mask_row(int y) { return reinterpret_cast<std::uint64_t*>(mask_.get()) + y * mask_words(); }
  const std::uint64_t* mask_row(int y) const {
    return reinterpret_cast<const std::uint64_t*>(mask_.get()) + y * mask_words();
  }

  int width_ = 0, height_ = 0, bands_ = 0;
  Depth depth_ = Depth::u8;
  int largest_ = 0;
  std::int64_t partly_there_ = 0;
  std::size_t stride_bytes_ = 0;
  Block samples_;
  Block mask_;  // one bit a pixel, rows begin with a word of 64
};

/// Calls `body` with a value of the sample type: visit_depth(d, [&](auto sample) { using T = decltype(sample); ... }).
template <class Body>
decltype(auto) visit_depth(Depth depth, Body&& body) {
  switch (depth) {
    case Depth::u8:
      return body(std::uint8_t{});
    case Depth::u16:
      return body(std::uint16_t{});
    case Depth::f32:
      break;
  }
  return body(float{});
}

/// Rounds to nearest, halves to even, and clamps to the range of T; for float the value itself. `clamped` counts values
/// moved by more than the rounding.
template <class T>
inline T to_sample(float value, std::int64_t& clamped) {
  if constexpr (std::is_floating_point_v<T>) {
    return value;
  } else {
    constexpr float top = sizeof(T) == 1 ? 255.0F : 65535.0F;
    if (!(value >= -0.5F)) {
      ++clamped;
      return 0;
    }
    if (value >= top + 0.5F) {
      ++clamped;
      return static_cast<T>(top);
    }
    // Floats of this size count in ones, so the sum is rounded as the processor rounds.
    constexpr float ones = 12582912.0F;
    return static_cast<T>(std::bit_cast<std::int32_t>(value + ones) - std::bit_cast<std::int32_t>(ones));
  }
}

/// Samples above the picture's largest value become that value; returns how many. Empty pixels are not counted.
std::int64_t clamp_to_largest(Image& image);

/// The least and the largest of the samples that are there and finite, in all bands; nothing without one.
std::optional<std::pair<double, double>> range_of_data(const Image& image);

/// The picture with its samples rounded and clamped to another depth, never rescaled. Adds to `clamped`.
Image with_depth(const Image& image, Depth depth, std::int64_t& clamped);

/// The picture scaled so that `low` becomes 0 and `high` the largest number of an integer depth, or 1 in f32. Rounds
/// and clamps; adds to `clamped`. The two differ. Its largest value is the depth's own.
Image with_range(const Image& image, Depth depth, double low, double high, std::int64_t& clamped);
/// The picture with one more band: 0 where it is empty, the largest number of its depth (1 in f32) elsewhere.
Image with_alpha(const Image& image);
/// Makes the pixels of an f32 picture empty that are NaN or infinite in any band: no kernel can weigh such a sample.
void take_nan(Image& image);
/// Gives empty pixels the samples of a valid one that is near, so that no kernel spreads what the file holds there.
void paint_empty(Image& image);
/// Gives `to`, which is as large, the mask of `from`, if it has one.
void copy_mask(const Image& from, Image& to);
/// The mask as a picture: 0 where empty, 255 elsewhere.
Image mask_picture(const Image& image);
/// Puts NaN into every band of the empty pixels. Raises a call error when the depth is not f32.
void put_nan(Image& image);

/// The share of pixels that are empty, 0 to 1.
double empty_share(const Image& image);

}  // namespace fexel
