#include "image/pyramid.h"

#include "image/halve.h"

namespace fexel {
Image halved(const Image& image, const Job& job) {
  Image out((image.width() + 1) / 2, (image.height() + 1) / 2, image.bands(), image.depth(), Image::Start::unset);
  constexpr int strip = 32;
  const int strips = (out.height() + strip - 1) / strip;
  parallel_for(strips * image.bands(), job, [&](int index) {
    const int band = index / strips;
    const int y0 = index % strips * strip;
    halve_rows(image, band, y0, std::min(y0 + strip, out.height()), out);
  });
  if (image.has_mask()) {
    out.make_mask(true);
    for (int y = 0; y < out.height(); ++y)
      for (int x = 0; x < out.width(); ++x) {
        const int x1 = std::min(2 * x + 1, image.width() - 1);
        const int y1 = std::min(2 * y + 1, image.height() - 1);
        out.set_valid(
            x, y, image.valid(2 * x, 2 * y) && image.valid(x1, 2 * y) && image.valid(2 * x, y1) && image.valid(x1, y1));
      }
  }
  return out;
}

Pyramid::Pyramid(std::shared_ptr<const Image> image) {
  int side = std::max(image->width(), image->height());
  std::size_t count = 1;
  for (; side > 64; side = (side + 1) / 2) ++count;
  levels_.resize(count);
  levels_.front() = std::move(image);
}

int Pyramid::level_for(double shrink) const {
  int n = 0;
  while (n + 1 < levels() && shrink >= 2) {
    shrink /= 2;
    ++n;
  }
  return n;
}

const Image& Pyramid::derived(int key, const std::function<Image()>& make) const {
  const std::scoped_lock lock(mutex_);
  auto& slot = derived_[key];
  if (!slot) slot = std::make_shared<const Image>(make());
  return *slot;
}

const Image& Pyramid::level(int n, const Job& job) const {
  const std::scoped_lock lock(mutex_);
  for (std::size_t i = 1; i <= static_cast<std::size_t>(n); ++i)
    if (!levels_[i]) levels_[i] = std::make_shared<const Image>(halved(*levels_[i - 1], job));
  return *levels_[static_cast<std::size_t>(n)];
}

}  // namespace fexel
