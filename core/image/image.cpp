#include "image/image.h"

#include <fmt/format.h>

#include <cstring>
#include <new>

#include "base/error.h"

namespace fexel {

std::size_t bytes_of(Depth depth) {
  return depth == Depth::u8 ? 1 : depth == Depth::u16 ? 2 : 4;
}

std::string_view name_of(Depth depth) {
  return depth == Depth::u8 ? "u8" : depth == Depth::u16 ? "u16" : "f32";
}

Image::Image(int width, int height, int bands, Depth depth, Start start)
    : width_(width), height_(height), bands_(bands), depth_(depth) {
  if (width < 1 || height < 1 || bands < 1)
    throw call_error(fmt::format("A picture cannot be {} x {} pixels with {} bands.", width, height, bands));
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
  std::memcpy(copy.samples_.get(), samples_.get(), offset(bands_, 0));
  if (mask_) {
    copy.make_unset_mask();
    std::memcpy(copy.mask_.get(), mask_.get(), static_cast<std::size_t>(width_) * static_cast<std::size_t>(height_));
  }
  return copy;
}

void Image::make_unset_mask() {
  mask_ = take_block(static_cast<std::size_t>(width_) * static_cast<std::size_t>(height_));
}

void Image::make_mask(std::uint8_t value) {
  make_unset_mask();
  std::memset(mask_.get(), value, static_cast<std::size_t>(width_) * static_cast<std::size_t>(height_));
}

Image with_depth(const Image& image, Depth depth, std::int64_t& clamped) {
  if (image.depth() == depth) return image.clone();
  Image out(image.width(), image.height(), image.bands(), depth, Image::Start::unset);
  visit_depth(image.depth(), [&](auto from) {
    visit_depth(depth, [&](auto to) {
      for (int band = 0; band < image.bands(); ++band)
        for (int y = 0; y < image.height(); ++y) {
          const auto* in = image.row<decltype(from)>(band, y);
          auto* target = out.row<decltype(to)>(band, y);
          for (int x = 0; x < image.width(); ++x)
            target[x] = to_sample<decltype(to)>(static_cast<float>(in[x]), clamped);
        }
    });
  });
  if (image.has_mask()) {
    out.make_unset_mask();
    for (int y = 0; y < image.height(); ++y)
      std::memcpy(out.mask_row(y), image.mask_row(y), static_cast<std::size_t>(image.width()));
  }
  return out;
}

double empty_share(const Image& image) {
  if (!image.has_mask()) return 0;
  std::int64_t empty = 0;
  for (int y = 0; y < image.height(); ++y)
    empty += std::count(image.mask_row(y), image.mask_row(y) + image.width(), std::uint8_t{0});
  return static_cast<double>(empty) / (static_cast<double>(image.width()) * image.height());
}

}  // namespace fexel
