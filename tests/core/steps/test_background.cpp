#include <catch2/catch.hpp>

#include "base/error.h"
#include "files/identity.h"
#include "files/picture.h"
#include "steps/background.h"
#include "tests/support.h"

// The background taken off: every depth, one band and several, with its level and without.

using namespace fexel;

namespace {

template <class T>
double value(const Image& image, int band, int x, int y) {
  return static_cast<double>(image.row<T>(band, y)[x]);
}
double value_of(const Image& image, int band, int x, int y) {
  return visit_depth(image.depth(), [&](auto kind) { return value<decltype(kind)>(image, band, x, y); });
}

std::string written(const test::Scratch& scratch, Image image, const char* name) {
  std::vector<Image> pages;
  pages.push_back(std::move(image));
  const auto path = scratch / name;
  write_pictures(path, pages, {});
  return path.string();
}

}  // namespace

TEST_CASE("each sample loses the background's, whatever the depths and bands", "[background]") {
  const test::Scratch scratch;
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32), own = GENERATE(Depth::u8, Depth::f32);
  const int bands = GENERATE(1, 3);
  const bool one_for_all = GENERATE(false, true), keep_level = GENERATE(false, true);
  const Image input = test::noise(37, 29, bands, depth, 1);
  Image background = test::noise(37, 29, one_for_all ? 1 : bands, own, 2);
  BackgroundStep step;
  step.file = written(scratch, background.clone(), "background.tif");
  step.sha256 = checksum(step.file);
  step.keep_level = keep_level;
  std::int64_t clamped = 0;
  const Image out = pixels_of(step, input, {}, {}, clamped);
  std::int64_t ends = 0;
  for (int band = 0; band < bands; ++band) {
    const int from = one_for_all ? 0 : band;
    double level = 0;
    for (int y = 0; y < 29; ++y)
      for (int x = 0; x < 37; ++x) level += value_of(background, from, x, y) / (37. * 29);
    for (int y = 0; y < 29; ++y)
      for (int x = 0; x < 37; ++x) {
        double wanted = value_of(input, band, x, y) - value_of(background, from, x, y) + (keep_level ? level : 0);
        if (depth != Depth::f32) {
          const double top = depth == Depth::u8 ? 255 : 65535;
          if (wanted < -0.5 || wanted > top + 0.5) ++ends;
          wanted = std::clamp(std::floor(wanted + 0.5), 0.0, top);
        }
        // Halves may round either way by the last bit of a float.
        CHECK(value_of(out, band, x, y) == Approx(wanted).margin(depth == Depth::f32 ? 1e-3 : 1));
      }
  }
  CHECK(std::abs(clamped - ends) <= 2);
}

TEST_CASE("without a file the picture stays, and an empty place of the background takes nothing off", "[background]") {
  const test::Scratch scratch;
  const Image input = test::noise(20, 15, 1, Depth::u8, 3);
  std::int64_t clamped = 0;
  CHECK(test::same_samples(pixels_of(BackgroundStep{}, input, {}, {}, clamped), input));
  Image background(20, 15, 1, Depth::f32);
  for (int y = 0; y < 15; ++y)
    for (int x = 0; x < 20; ++x) background.row<float>(0, y)[x] = 7;
  background.row<float>(0, 4)[5] = std::numeric_limits<float>::quiet_NaN();
  BackgroundStep step;
  step.file = written(scratch, std::move(background), "b.tif");
  step.keep_level = false;
  const Image out = pixels_of(step, input, {}, {}, clamped);
  CHECK(out.row<std::uint8_t>(0, 4)[5] == input.row<std::uint8_t>(0, 4)[5]);
  CHECK(out.row<std::uint8_t>(0, 4)[6] == std::max(0, input.row<std::uint8_t>(0, 4)[6] - 7));
}

TEST_CASE("a background of another size, another one, and one that is gone are refused with a remedy", "[background]") {
  const test::Scratch scratch;
  const Image input = test::noise(20, 15, 3, Depth::u8, 3);
  std::int64_t clamped = 0;
  const auto refused = [&](const BackgroundStep& step, const char* says) {
    try {
      pixels_of(step, input, {}, {}, clamped);
      FAIL("It was taken.");
    } catch (const Error& error) {
      CHECK_THAT(error.message(), Catch::Contains(says));
      CHECK_FALSE(error.remedy().empty());
    }
  };
  BackgroundStep step;
  step.file = written(scratch, test::noise(21, 15, 1, Depth::u8), "wide.tif");
  refused(step, "21 x 15");
  step.file = written(scratch, test::noise(20, 15, 2, Depth::u8, 1), "bands.tif");
  refused(step, "2 bands");
  step.file = written(scratch, test::noise(20, 15, 1, Depth::u8), "other.tif");
  step.sha256 = std::string(64, '0');
  refused(step, "any more");
  step.file = (scratch / "gone.tif").string();
  refused(step, "not there");
}
