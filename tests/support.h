#pragma once
/// What the tests share: a scratch folder, pictures from formulas, slow references.
#include <unistd.h>

#include <cstring>
#include <filesystem>
#include <functional>
#include <random>
#include <vector>

#include "image/image.h"

namespace fexel::test {

/// The pages of a file that has one.
inline std::vector<Image> one_page(Image image) {
  std::vector<Image> pages;
  pages.push_back(std::move(image));
  return pages;
}

/// A folder of its own that goes with the test.
class Scratch {
 public:
  Scratch() {
    std::string pattern = (std::filesystem::temp_directory_path() / "fexel-test-XXXXXX").string();
    path_ = ::mkdtemp(pattern.data());
  }
  ~Scratch() {
    std::error_code ignored;
    std::filesystem::remove_all(path_, ignored);
  }
  Scratch(const Scratch&) = delete;
  Scratch& operator=(const Scratch&) = delete;
  std::filesystem::path operator/(const std::string& name) const { return path_ / name; }
  const std::filesystem::path& path() const { return path_; }
  std::size_t entries() const {
    std::size_t count = 0;
    for ([[maybe_unused]] const auto& entry : std::filesystem::directory_iterator(path_)) ++count;
    return count;
  }

 private:
  std::filesystem::path path_;
};

/// Every sample a random one; the same for the same seed.
inline Image noise(int width, int height, int bands, Depth depth, unsigned seed = 1) {
  Image image(width, height, bands, depth);
  std::mt19937 random(seed);
  visit_depth(depth, [&](auto sample) {
    using T = decltype(sample);
    for (int band = 0; band < bands; ++band)
      for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x)
          image.row<T>(band, y)[x] = std::is_floating_point_v<T>
                                         ? static_cast<T>(static_cast<double>(random()) / 4294967296.0)
                                         : static_cast<T>(random());
  });
  return image;
}

/// Samples f at pixel centres.
inline Image painted(int width, int height, const std::function<double(double, double)>& f) {
  Image image(width, height, 1, Depth::f32);
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) image.row<float>(0, y)[x] = static_cast<float>(f(x + 0.5, y + 0.5));
  return image;
}

inline bool same_samples(const Image& a, const Image& b) {
  if (a.width() != b.width() || a.height() != b.height() || a.bands() != b.bands() || a.depth() != b.depth())
    return false;
  for (int band = 0; band < a.bands(); ++band)
    for (int y = 0; y < a.height(); ++y)
      if (std::memcmp(a.bytes(band, y), b.bytes(band, y), a.row_bytes()) != 0) return false;
  return true;
}

/// A sample as a number, whatever its depth.
inline double value(const Image& image, int band, int x, int y) {
  return visit_depth(image.depth(),
                     [&](auto sample) { return static_cast<double>(image.row<decltype(sample)>(band, y)[x]); });
}

}  // namespace fexel::test
