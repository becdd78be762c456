#pragma once
/// What the tests of marks share.
#include <catch2/catch.hpp>

#include "report/marked_copy.h"
#include "tests/support.h"

namespace fexel::test {

inline RgbPicture plain(int width, int height, std::uint8_t level) {
  return {width, height,
          std::vector<std::uint8_t>(3 * static_cast<std::size_t>(width) * static_cast<std::size_t>(height), level)};
}

/// The ink of the fullest row or column on black ground, in pixels: a pixel that is covered in part counts as that
/// part.
inline double most_ink(const RgbPicture& picture, bool across) {
  double best = 0;
  const int lines = across ? picture.height : picture.width, along = across ? picture.width : picture.height;
  for (int line = 0; line < lines; ++line) {
    double sum = 0;
    for (int i = 0; i < along; ++i) {
      const int x = across ? i : line, y = across ? line : i;
      sum += picture.pixels[3 * static_cast<std::size_t>(y * picture.width + x)] / 255.0;
    }
    best = std::max(best, sum);
  }
  return best;
}

inline MarkedResult result_of(const Chain& chain, Image image, std::optional<PixelSize> pixel = {}) {
  SourceShape shape{{image.width(), image.height()}, image.bands(), image.depth(), std::move(pixel)};
  const Layout layout = lay_out(chain, shape);
  auto source = std::make_shared<const Pyramid>(std::make_shared<const Image>(std::move(image)));
  auto pictures = std::make_shared<const RunPictures>(std::move(source), chain, layout);
  return {chain, shape, layout, std::move(pictures), std::nullopt};
}

}  // namespace fexel::test
