#include <catch2/catch.hpp>

#include "motion_run/backgrounds.h"
#include "tests/core/motion_run/surface_frames.h"

// Which frames are pairs, and what stands still in all of them.

using namespace fexel;
using namespace fexel::test;

TEST_CASE("of a pair whose first or second frame is left out neither is measured, and it is said", "[motion]") {
  const test::Scratch scratch;
  const auto plain = write_frames_of(scratch, 6);
  // Names tell a and b.
  std::vector<std::filesystem::path> named;
  for (int k = 0; k < 6; ++k) {
    named.emplace_back(scratch / fmt::format("pour-{}-{}.tif", k / 2 + 1, k % 2 == 0 ? "a" : "b"));
    std::filesystem::copy_file(plain[static_cast<std::size_t>(k)].path, named.back());
  }
  const auto files = list_frames(named, false, {});
  MotionRunOptions options = options_of();
  options.probe.settings.against = MotionAgainst::pairs;
  const std::size_t gone = GENERATE(2U, 3U);
  MotionRunSummary summary;
  const auto results = run(with_left_out({}, files, gone, true), files, options, &summary);
  REQUIRE(results.size() == 2);
  CHECK(results[0].number == 2);
  CHECK(results[1].number == 6);
  CHECK(results[1].matched.from == 4);
  REQUIRE(summary.notes.size() == 1);
  CHECK_THAT(summary.notes[0], Catch::Contains(gone == 2 ? "pour-2-b" : "pour-2-a"));
  // The same where the order tells, as the frames are numbered then.
  Chain by_order = with_left_out({}, plain, 0, true);
  by_order.pairing = Pairing::order;
  const auto others = run(by_order, plain, options);
  REQUIRE(others.size() == 2);
  CHECK(others[0].matched.from == 2);
  CHECK(others[0].number == 4);
  // Without pairs in the sequence those that are left follow each other.
  const auto follow = run(with_left_out({}, plain, 0, true), plain, options);
  REQUIRE(follow.size() == 2);
  CHECK(follow[0].matched.from == 1);
  CHECK(follow[0].number == 3);
}

TEST_CASE("a background is the mean, median or minimum of the frames, whatever memory there is", "[motion]") {
  const test::Scratch scratch;
  const auto files = write_frames_of(scratch, 5);
  const MotionFrames frames({}, 0, files, {});
  std::vector<Image> planes;
  for (std::size_t i = 0; i < 5; ++i) planes.push_back(frames.read(i, {}));
  const std::vector<std::size_t> all{0, 1, 2, 3, 4};
  const auto mean = background_of(frames, all, MotionBackground::mean, 1 << 30, {});
  const auto least = background_of(frames, all, MotionBackground::minimum, 1 << 30, {});
  const auto median = background_of(frames, all, MotionBackground::median, 1 << 30, {});
  const auto parts = background_of(frames, all, MotionBackground::median, 100'000, {});
  CHECK(background_of(frames, all, MotionBackground::none, 1 << 30, {}) == nullptr);
  for (int y = 0; y < 260; y += 7)
    for (int x = 0; x < 300; ++x) {
      std::vector<double> values;
      for (const Image& plane : planes) values.push_back(plane.row<std::uint8_t>(0, y)[x]);
      std::ranges::sort(values);
      CHECK(static_cast<double>(median->row<float>(0, y)[x]) == values[2]);
      CHECK(parts->row<float>(0, y)[x] == median->row<float>(0, y)[x]);
      CHECK(static_cast<double>(least->row<float>(0, y)[x]) == values[0]);
      CHECK(static_cast<double>(mean->row<float>(0, y)[x]) ==
            Approx((values[0] + values[1] + values[2] + values[3] + values[4]) / 5));
    }
  CHECK_THROWS_WITH(background_of(frames, {0}, MotionBackground::median, 1 << 30, {}), Catch::Contains("two frames"));
}
