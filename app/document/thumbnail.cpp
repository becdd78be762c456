#include "app/document/thumbnail.h"

#include <algorithm>
#include <limits>

namespace fexel {

QImage thumbnail_of(const Image& image, int side) {
  const int step = std::max(1, (std::max(image.width(), image.height()) + side - 1) / side);
  QImage out(std::max(1, image.width() / step), std::max(1, image.height() / step), QImage::Format_RGB32);
  double low = 0, high = image.largest();
  if (image.depth() == Depth::f32) {
    // Floating-point samples have no range of their own.
    low = std::numeric_limits<double>::infinity();
    high = -low;
    for (int y = 0; y < out.height(); ++y)
      for (int x = 0; x < out.width(); ++x)
        if (const auto v = static_cast<double>(image.row<float>(0, y * step)[x * step]); std::isfinite(v)) {
          low = std::min(low, v);
          high = std::max(high, v);
        }
    if (!(high > low)) high = low + 1;
  }
  const bool colour = image.bands() >= 3;
  for (int y = 0; y < out.height(); ++y) {
    auto* line = reinterpret_cast<QRgb*>(out.scanLine(y));
    for (int x = 0; x < out.width(); ++x) {
      const auto shade = [&](int band) {
        const double v = visit_depth(image.depth(), [&](auto kind) {
          return static_cast<double>(image.row<decltype(kind)>(band, y * step)[x * step]);
        });
        return std::isfinite(v) ? static_cast<int>(std::clamp(255 * (v - low) / (high - low), 0.0, 255.0)) : 0;
      };
      const int red = shade(0);
      line[x] = colour ? qRgb(red, shade(1), shade(2)) : qRgb(red, red, red);
    }
  }
  return out;
}

}  // namespace fexel
