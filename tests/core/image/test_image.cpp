#include <atomic>
#include <catch2/catch.hpp>

#include "base/error.h"
#include "base/job.h"
#include "base/units.h"
#include "image/pyramid.h"
#include "tests/support.h"

using namespace fexel;

TEST_CASE("rows are aligned and bands are apart", "[image]") {
  Image image(37, 5, 3, Depth::u16);
  for (int band = 0; band < 3; ++band)
    for (int y = 0; y < 5; ++y) CHECK(reinterpret_cast<std::uintptr_t>(image.bytes(band, y)) % 64 == 0);
  image.row<std::uint16_t>(1, 2)[36] = 7;
  CHECK(test::value(image, 1, 36, 2) == 7);
  CHECK(test::value(image, 0, 36, 2) == 0);
}

TEST_CASE("an impossible picture is refused with a sentence", "[image]") {
  CHECK_THROWS_AS(Image(0, 5, 1, Depth::u8), Error);
  CHECK_THROWS_AS(Image(5, 5, 0, Depth::u8), Error);
}

TEST_CASE("samples round to nearest, clamp and are counted", "[image]") {
  std::int64_t clamped = 0;
  CHECK(to_sample<std::uint8_t>(12.5F, clamped) == 12);
  CHECK(to_sample<std::uint8_t>(12.49F, clamped) == 12);
  CHECK(to_sample<std::uint8_t>(255.4F, clamped) == 255);
  CHECK(to_sample<std::uint8_t>(-0.4F, clamped) == 0);
  CHECK(clamped == 0);
  CHECK(to_sample<std::uint8_t>(256.0F, clamped) == 255);
  CHECK(to_sample<std::uint16_t>(-3.0F, clamped) == 0);
  CHECK(to_sample<std::uint8_t>(NAN, clamped) == 0);
  CHECK(clamped == 3);
}

TEST_CASE("changing the depth keeps values and never scales", "[image]") {
  Image image(3, 1, 1, Depth::u16);
  image.row<std::uint16_t>(0, 0)[0] = 200;
  image.row<std::uint16_t>(0, 0)[1] = 300;
  image.row<std::uint16_t>(0, 0)[2] = 65535;
  std::int64_t clamped = 0;
  const Image small = with_depth(image, Depth::u8, clamped);
  CHECK(test::value(small, 0, 0, 0) == 200);
  CHECK(test::value(small, 0, 1, 0) == 255);
  CHECK(clamped == 2);
  CHECK(test::value(with_depth(image, Depth::f32, clamped), 0, 2, 0) == 65535);
}

TEST_CASE("halving keeps flat areas to the last bit and slow waves nearly whole", "[image]") {
  Image flat(101, 67, 1, Depth::u16);
  for (int y = 0; y < 67; ++y) std::fill_n(flat.row<std::uint16_t>(0, y), 101, std::uint16_t{12345});
  const Image half = halved(flat);
  CHECK(half.width() == 51);
  CHECK(half.height() == 34);
  for (int y = 0; y < half.height(); ++y)
    for (int x = 0; x < half.width(); ++x) CHECK(test::value(half, 0, x, y) == 12345);

  // cos at 1/16 cycle per pixel; halved pixel i is centred at 2 i + 1.
  const auto wave = test::painted(256, 8, [](double x, double) { return std::cos(2 * M_PI * x / 16); });
  const Image small = halved(wave);
  for (int x = 8; x < 120; ++x)
    CHECK(test::value(small, 0, x, 2) == Approx(std::cos(2 * M_PI * (2 * x + 1) / 16)).margin(0.02));
}

TEST_CASE("a stopped job raises the cancelled error and reports no more than whole", "[base]") {
  std::stop_source stop;
  std::atomic<int> done = 0;
  double last = 0;
  const Job job{stop.get_token(), [&](double share) { last = share; }};
  parallel_for(100, job, [&](int) { ++done; });
  CHECK(done == 100);
  CHECK(last == Approx(1));
  stop.request_stop();
  try {
    parallel_for(100, job, [&](int) { ++done; });
    FAIL("it ran on");
  } catch (const Error& error) {
    CHECK(error.kind() == Error::Kind::cancelled);
  }
  CHECK(done == 100);
}

TEST_CASE("units convert and unknown ones are named", "[base]") {
  CHECK(in_unit({0.25, 0.5, "mm"}, "um").x == Approx(250));
  CHECK(in_unit({1, 1, "in"}, "cm").y == Approx(2.54));
  CHECK_THROWS_WITH(metres_per("furlong"), Catch::Contains("furlong"));
}

TEST_CASE("numbers are written with a true minus and honest digits", "[base]") {
  CHECK(number_text(-1.25, 1) == "−1.2");
  CHECK(number_text(-0.001, 1) == "0.0");
  CHECK(number_text(NAN, 1) == "–");
  CHECK(decimals_for(0.04) == 2);
  CHECK(decimals_for(0.4) == 1);
  CHECK(decimals_for(30) == 0);
}

TEST_CASE("numbers in texts have a point and are rounded to digits, whatever the locale") {
  CHECK(number_in("0.00025") == 0.00025);
  CHECK(number_in("2.5 mm") == 2.5);
  CHECK_FALSE(number_in("mm"));
  CHECK(rounded_to(1.3158, 2) == 1.3);
  CHECK(rounded_to(-0.04567, 2) == -0.046);
  CHECK(rounded_to(123456, 3) == 123000);
  CHECK(rounded_to(0, 2) == 0);
}

TEST_CASE("the range of the data is that of every sample that is there and finite") {
  Image image(700, 600, 2, Depth::f32);
  CHECK(range_of_data(image) == std::pair(0.0, 0.0));
  image.row<float>(0, 599)[699] = 812.5F;
  image.row<float>(1, 3)[1] = -20;
  image.row<float>(1, 4)[1] = std::numeric_limits<float>::infinity();
  image.row<float>(0, 5)[5] = 9000;
  image.make_mask(true);
  image.set_valid(5, 5, false);
  CHECK(range_of_data(image) == std::pair(-20.0, 812.5));
  image.make_mask(false);
  CHECK_FALSE(range_of_data(image));
}
