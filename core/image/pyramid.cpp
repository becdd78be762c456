#include "image/pyramid.h"

namespace fexel {
namespace {

// The kernel at 1/4, 3/4, 5/4 and 7/4 of its unit, halved: the eight taps of a half-way sample, outermost first.
constexpr float taps[8] = {-0.01171875F, -0.03515625F, 0.11328125F,  0.43359375F,
                           0.43359375F,  0.11328125F,  -0.03515625F, -0.01171875F};

template <class T>
void halve_rows(const Image& in, Image& out, int band, int y0, int y1) {
  const int width = in.width();
  const int height = in.height();
  std::vector<float> column(static_cast<std::size_t>(width) + 8);
  std::int64_t clamped = 0;
  for (int y = y0; y < y1; ++y) {
    const T* rows[8];
    for (int k = 0; k < 8; ++k) rows[k] = in.row<T>(band, std::clamp(2 * y - 3 + k, 0, height - 1));
    float* middle = column.data() + 3;
    for (int x = 0; x < width; ++x) {
      const float p = static_cast<float>(rows[3][x]);
      float sum = 0;
      for (int k = 0; k < 8; ++k) sum += taps[k] * (static_cast<float>(rows[k][x]) - p);
      middle[x] = p + sum;
    }
    for (int k = 1; k <= 3; ++k) middle[-k] = middle[0];
    for (int k = 0; k < 5; ++k) middle[width + k] = middle[width - 1];
    T* target = out.row<T>(band, y);
    for (int x = 0; x < out.width(); ++x) {
      const float* from = middle + 2 * x - 3;
      const float p = from[3];
      float sum = 0;
      for (int k = 0; k < 8; ++k) sum += taps[k] * (from[k] - p);
      target[x] = to_sample<T>(p + sum, clamped);
    }
  }
}

}  // namespace

Image halved(const Image& image, const Job& job) {
  Image out((image.width() + 1) / 2, (image.height() + 1) / 2, image.bands(), image.depth());
  constexpr int strip = 32;
  const int strips = (out.height() + strip - 1) / strip;
  parallel_for(strips * image.bands(), job, [&](int index) {
    const int band = index / strips;
    const int y0 = index % strips * strip;
    visit_depth(image.depth(), [&](auto sample) {
      halve_rows<decltype(sample)>(image, out, band, y0, std::min(y0 + strip, out.height()));
    });
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
