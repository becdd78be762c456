#include <catch2/catch.hpp>

#include "base/error.h"
#include "chain/evaluate.h"
#include "filter/filter.h"
#include "tests/support.h"

using namespace fexel;

namespace {

Chain steps(const std::string& text, const std::string& more = {}) {
  return parse_chain(R"({"fexel":1,)" + more + R"("steps":[)" + text + "]}");
}

Layout layout_of(const Chain& chain, const Image& source) {
  return lay_out(chain, {{source.width(), source.height()}, source.bands(), source.depth(), {}});
}

Image result_of(const Chain& chain, const Image& source, WarpReport* report = nullptr) {
  const Pyramid pyramid(std::make_shared<const Image>(source.clone()));
  return evaluate(chain, layout_of(chain, source), pyramid, {}, report);
}

/// Which of abc... stands at a place, from the text of the rule: the line repeated, mirrored where it says so.
int standing(int index, int count, const std::string& rule) {
  std::vector<int> period;
  for (int i = 0; i < count; ++i) period.push_back(i);
  if (rule == "extend") return std::clamp(index, 0, count - 1);
  if (rule == "mirror")
    for (int i = count - 1; i >= 0; --i) period.push_back(i);
  if (rule == "mirror-once")
    for (int i = count - 2; i > 0; --i) period.push_back(i);
  const int n = static_cast<int>(period.size());
  return period[static_cast<std::size_t>(((index % n) + n) % n)];
}

std::string where_of(const Chain& chain, Size size) {
  try {
    lay_out(chain, {size, 1, Depth::u8, {}}).require_sound();
  } catch (const Error& error) {
    return error.where();
  }
  return "sound";
}

}  // namespace

TEST_CASE("a pad repeats by its rule, bit for bit, wider than the picture too", "[runs]") {
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32);
  const std::string rule = GENERATE("extend", "mirror", "mirror-once", "tile");
  const int width = GENERATE(1, 7), height = 5;
  const Image source = test::noise(width, height, 2, depth);
  WarpReport report;
  const Image out = result_of(
      steps(R"({"step":"pad","left":20,"top":3,"right":11,"bottom":17,"edge":")" + rule + R"("})"), source, &report);
  REQUIRE(out.width() == width + 31);
  REQUIRE(out.height() == height + 20);
  CHECK(report.exact);
  CHECK(report.empty == 0);
  int wrong = 0;
  for (int band = 0; band < 2; ++band)
    for (int y = 0; y < out.height(); ++y)
      for (int x = 0; x < out.width(); ++x)
        wrong += test::value(out, band, x, y) !=
                 test::value(source, band, standing(x - 20, width, rule), standing(y - 3, height, rule));
  CHECK(wrong == 0);
}

TEST_CASE("a pad repeats the holes of a picture by its rule, and makes none of its own", "[runs]") {
  const std::string rule = GENERATE("extend", "mirror", "mirror-once", "tile", "fill");
  Image source = test::noise(13, 9, 1, GENERATE(Depth::u8, Depth::f32));
  source.make_mask(true);
  for (int y = 0; y < 9; ++y)
    for (int x = 0; x < 13; ++x) source.set_valid(x, y, (x * 5 + y * 3) % 7 != 0);
  const Image out =
      result_of(steps(R"({"step":"pad","left":21,"top":4,"right":6,"bottom":15,"edge":")" + rule + R"("})"), source);
  int wrong = 0, holes = 0;
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x) {
      const int from_x = x - 21, from_y = y - 4;
      const bool inside = from_x >= 0 && from_x < 13 && from_y >= 0 && from_y < 9;
      bool expected = false;
      if (rule != "fill")
        expected = source.valid(standing(from_x, 13, rule), standing(from_y, 9, rule));
      else if (inside)
        expected = source.valid(from_x, from_y);
      holes += !expected;
      wrong += out.valid(x, y) != expected;
    }
  CHECK(wrong == 0);
  CHECK(holes > 50);
}

TEST_CASE("steps that change samples do in a chain what they do alone, and what follows takes their result", "[runs]") {
  const Depth depth = GENERATE(Depth::u8, Depth::u16);
  const Image source = test::noise(70, 50, 3, depth);
  const auto same = [](const Image& a, const Image& b) { return test::same_samples(a, b); };
  CHECK(same(result_of(steps(R"({"step":"bands","take":[3,1]})"), source), chosen_bands(source, {2, 0})));
  CHECK(same(result_of(steps(R"({"step":"bands","take":"grey"})"), source),
             weighed_bands(source, {0.2126, 0.7152, 0.0722})));
  CHECK(same(result_of(steps(R"({"step":"bands","take":"grey","weights":[0.5,0.25,0.25]})"), source),
             weighed_bands(source, {0.5, 0.25, 0.25})));
  CHECK(same(result_of(steps(R"({"step":"local-contrast","tile":16,"limit":3})"), source), equalised(source, 16, 3)));
  CHECK(same(result_of(steps(R"({"step":"highpass","radius":6})"), source), highpass(source, 6)));
  CHECK(same(result_of(steps(R"({"step":"denoise","method":"median","radius":2})"), source), median(source, 2)));
  CHECK(
      same(result_of(steps(R"({"step":"denoise","method":"gaussian","radius":2.5})"), source), gaussian(source, 2.5)));
  // Quarter turns and mirrors in between move the pixels of what was made.
  const Image turned = result_of(steps(R"({"step":"highpass","radius":6},{"step":"mirror","reverse":"x"},
                                          {"step":"bands","take":[2]})"),
                                 source);
  const Image alone = highpass(source, 6);
  int wrong = 0;
  for (int y = 0; y < 50; ++y)
    for (int x = 0; x < 70; ++x) wrong += test::value(turned, 0, x, y) != test::value(alone, 1, 69 - x, y);
  CHECK(wrong == 0);
}

TEST_CASE("two bands without weights count alike, and three as a screen shows them", "[runs]") {
  const Image two = test::noise(20, 10, 2, Depth::u16), five = test::noise(20, 10, 5, Depth::f32);
  const Image grey = result_of(steps(R"({"step":"bands","take":"grey"})"), two);
  const Image mean = result_of(steps(R"({"step":"bands","take":"grey"})"), five);
  REQUIRE(grey.bands() == 1);
  REQUIRE(mean.bands() == 1);
  for (int y = 0; y < 10; ++y)
    for (int x = 0; x < 20; ++x) {
      CHECK(std::abs(test::value(grey, 0, x, y) - (test::value(two, 0, x, y) + test::value(two, 1, x, y)) / 2) <= 0.5);
      double sum = 0;
      for (int band = 0; band < 5; ++band) sum += test::value(five, band, x, y);
      CHECK(test::value(mean, 0, x, y) == Approx(sum / 5).margin(1e-6));
    }
}

TEST_CASE("empty pixels behind a reduce hold the fill, too", "[runs]") {
  Chain chain = steps(R"({"step":"rotate","degrees":45},{"step":"downsample","factor":2})");
  chain.resampling.fill = {9};
  WarpReport report;
  const Image out = result_of(chain, test::noise(60, 60, 1, Depth::u16), &report);
  int empty = 0;
  bool filled = true;
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x) {
      if (out.valid(x, y)) continue;
      ++empty;
      filled = filled && test::value(out, 0, x, y) == 9;
    }
  CHECK(filled);
  CHECK(empty == report.empty);
  CHECK(empty > 300);
}

TEST_CASE("a pad with a fill is empty around, and says so", "[runs]") {
  const Image source = test::noise(9, 6, 3, Depth::u16);
  WarpReport report;
  const Image out =
      result_of(steps(R"({"step":"pad","left":2,"bottom":1,"edge":"fill","fill":[5,6,70000]})"), source, &report);
  CHECK(out.width() == 11);
  CHECK(out.height() == 7);
  CHECK(report.exact);
  CHECK(report.empty == 11 * 7 - 9 * 6);
  CHECK_FALSE(out.valid(1, 0));
  CHECK_FALSE(out.valid(5, 6));
  CHECK(out.valid(2, 0));
  CHECK(test::value(out, 0, 0, 0) == 5);
  CHECK(test::value(out, 1, 0, 0) == 6);
  CHECK(test::value(out, 0, 2, 0) == test::value(source, 0, 0, 0));
  // Without a rule of its own it is part of the map, and painted by the chain's.
  const Image plain = result_of(steps(R"({"step":"pad","left":2,"bottom":1})", R"("resample":{"fill":8},)"), source);
  CHECK(test::value(plain, 2, 0, 0) == 8);
  CHECK(test::value(plain, 1, 4, 3) == test::value(source, 1, 2, 3));
  try {
    result_of(steps(R"({"step":"rotate","degrees":90},{"step":"pad","left":2,"edge":"fill","fill":[1,2]})"), source);
    FAIL("two values for three bands");
  } catch (const Error& error) {
    CHECK(error.where() == "/steps/1/fill");
  }
}

TEST_CASE("what cannot be padded or reduced is refused by its key", "[runs]") {
  CHECK(where_of(steps(R"({"step":"rotate","degrees":9},{"step":"pad","left":5,"edge":"mirror"})"), {60, 40}) ==
        "/steps/1/edge");
  CHECK(where_of(steps(R"({"step":"rotate","degrees":9},{"step":"crop","to":"valid"},)"
                       R"({"step":"pad","left":5,"edge":"mirror"})"),
                 {60, 40}) == "sound");
  CHECK(where_of(steps(R"({"step":"downsample","factor":50})"), {60, 40}) == "/steps/0/factor");
  CHECK(where_of(steps(R"({"step":"downsample","factor":50,"remainder":"partial"})"), {60, 40}) == "sound");
  for (const char* wrong :
       {R"({"step":"downsample"})", R"({"step":"downsample","factor":0})", R"({"step":"downsample","factor":1.5})",
        R"({"step":"downsample","factor":[2,3,4]})", R"({"step":"downsample","factor":2,"take":"mode"})",
        R"({"step":"pad","left":-1})", R"({"step":"pad","left":1.5})", R"({"step":"pad","fill":3})",
        R"({"step":"pad","edge":"mirror","fill":3})"})
    CHECK_THROWS_AS(steps(wrong), Error);
  for (const char* whole : {R"({"step":"downsample","factor":[2,3],"take":"median","remainder":"partial"})",
                            R"({"step":"pad","left":1,"edge":"fill","fill":[1,2,3]})"}) {
    const Chain chain = steps(whole);
    CHECK(parse_chain(write_chain(chain)) == chain);
  }
}

TEST_CASE("reduce by the first sample takes pixels bit for bit, cropped and turned by quarters too", "[runs]") {
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32);
  const std::string kernel = GENERATE("cubic", "lanczos3", "bspline3", "area");
  const Image source = test::noise(47, 38, 2, depth);
  const std::string how = R"("resample":{"kernel":")" + kernel + R"("},)";
  WarpReport report;
  const Image out = result_of(
      steps(R"({"step":"downsample","factor":[3,4],"take":"first","remainder":"partial"})", how), source, &report);
  REQUIRE(out.width() == 16);
  REQUIRE(out.height() == 10);
  CHECK(report.exact);
  const Image cropped = result_of(
      steps(R"({"step":"downsample","factor":[3,4],"take":"first"},{"step":"crop","x":2,"y":1,"width":7,"height":5},)"
            R"({"step":"rotate","degrees":90})",
            how),
      source, &report);
  CHECK(report.exact);
  int wrong = 0;
  for (int band = 0; band < 2; ++band) {
    for (int y = 0; y < 10; ++y)
      for (int x = 0; x < 16; ++x) wrong += test::value(out, band, x, y) != test::value(source, band, 3 * x, 4 * y);
    for (int y = 0; y < 5; ++y)  // the crop's pixel (x, y) stands at (y, 6 − x) after a quarter turn
      for (int x = 0; x < 7; ++x)
        wrong += test::value(cropped, band, y, 6 - x) != test::value(source, band, 3 * (x + 2), 4 * (y + 1));
  }
  CHECK(wrong == 0);
}

TEST_CASE("reduce by a statistic is that of each block", "[runs]") {
  const Depth depth = GENERATE(Depth::u8, Depth::f32);
  const std::string take = GENERATE("mean", "median", "min", "max");
  const bool partial = GENERATE(true, false);
  const Size size = GENERATE(Size{23, 17}, Size{21, 16});  // also blocks of which less than half is left
  const Image source = test::noise(size.width, size.height, 2, depth);
  WarpReport report;
  const Chain chain = steps(R"({"step":"downsample","factor":[4,3],"take":")" + take + R"(","remainder":")" +
                            (partial ? "partial" : "drop") + R"("})");
  const Image out = result_of(chain, source, &report);
  REQUIRE(out.width() == (partial ? 6 : 5));
  REQUIRE(out.height() == (partial ? 6 : 5));
  CHECK_FALSE(report.exact);
  CHECK(report.empty == 0);
  double worst = 0;
  for (int band = 0; band < 2; ++band)
    for (int y = 0; y < out.height(); ++y)
      for (int x = 0; x < out.width(); ++x) {
        std::vector<double> block;
        for (int j = 3 * y; j < std::min(3 * y + 3, size.height); ++j)
          for (int i = 4 * x; i < std::min(4 * x + 4, size.width); ++i)
            block.push_back(test::value(source, band, i, j));
        std::ranges::sort(block);
        const std::size_t n = block.size();
        double expected = take == "min" ? block[0] : block[n - 1];
        if (take == "median") expected = (block[(n - 1) / 2] + block[n / 2]) / 2;
        if (take == "mean") {
          expected = 0;
          for (const double v : block) expected += v / static_cast<double>(n);
        }
        worst = std::max(worst, std::abs(test::value(out, band, x, y) - expected));
      }
  CHECK(worst < (depth == Depth::u8 ? 0.5 + 1e-9 : 1e-6));
  // A block's pixel size and place: x' = x / k.
  const Layout layout = lay_out(chain, {size, 2, depth, PixelSize{0.5, 0.25, "mm"}});
  CHECK(layout.result().pixel->x == 2);
  CHECK(layout.result().pixel->y == 0.75);
  CHECK(carry(layout, {8, 6}, 0, 1).point == Point{2, 2});
}

TEST_CASE("a run begins with what the step before it made of its pixels", "[runs]") {
  const Image source = test::noise(120, 90, 1, Depth::f32);
  const std::string first = R"({"step":"rotate","degrees":10},{"step":"crop","to":"valid"})",
                    reduce = R"({"step":"downsample","factor":3,"take":"median"})",
                    last = R"({"step":"rotate","degrees":-4,"extent":"keep"})";
  const Chain chain = steps(first + "," + reduce + "," + last);
  const Image whole = result_of(chain, source);
  const Image by_hand = result_of(steps(last), result_of(steps(reduce), result_of(steps(first), source)));
  REQUIRE(whole.width() == by_hand.width());
  REQUIRE(whole.height() == by_hand.height());
  int wrong = 0, valid = 0;
  for (int y = 0; y < whole.height(); ++y)
    for (int x = 0; x < whole.width(); ++x) {
      valid += whole.valid(x, y);
      wrong += whole.valid(x, y) && test::value(whole, 0, x, y) != test::value(by_hand, 0, x, y);
    }
  CHECK(valid > 400);
  CHECK(wrong == 0);

  CHECK(resamplings(layout_of(chain, source), 4) == 2);
  CHECK(resamplings(layout_of(chain, source), 2) == 1);
  CHECK(resamplings(layout_of(steps(reduce), source), 1) == 0);
  CHECK_FALSE(is_exact_station(layout_of(steps(reduce), source), 1));

  // Every station can be asked for, and a later change keeps what is made.
  const auto pyramid = std::make_shared<const Pyramid>(std::make_shared<const Image>(source.clone()));
  const RunPictures pictures(pyramid, chain, layout_of(chain, source));
  CHECK(pictures.pixels(3, {}).width() == layout_of(chain, source).stations[3].size.width);
  const Chain other = steps(first + "," + reduce + R"(,{"step":"mirror","reverse":"x"})");
  const RunPictures after(pyramid, other, layout_of(other, source), &pictures);
  CHECK(after.at(3, {}) == pictures.at(3, {}));
  const Chain earlier = steps(first + R"(,{"step":"downsample","factor":2,"take":"median"})");
  const RunPictures again(pyramid, earlier, layout_of(earlier, source), &pictures);
  CHECK(again.at(3, {}) != pictures.at(3, {}));
}

TEST_CASE("empty pixels do not count in a block, and no kernel reads a fill behind a reduction", "[runs]") {
  Image flat(90, 60, 1, Depth::u8);
  for (int y = 0; y < 60; ++y) std::fill_n(flat.row<std::uint8_t>(0, y), 90, std::uint8_t{120});
  WarpReport report;
  const Image out = result_of(
      steps(
          R"({"step":"rotate","degrees":30},{"step":"downsample","factor":4},{"step":"rotate","degrees":-30,"extent":"keep"})"),
      flat, &report);
  CHECK(report.empty > 50);
  int other = 0;
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x) other += out.valid(x, y) && test::value(out, 0, x, y) != 120;
  CHECK(other == 0);
}

TEST_CASE("a step that is off behind a pad leaves the fill of the pad", "[runs]") {
  const Image source = test::noise(12, 9, 1, Depth::u8);
  Chain chain = parse_chain(
      R"({"fexel":1,"resample":{"fill":9},"steps":[{"step":"pad","left":3,"edge":"fill","fill":200},{"step":"mirror","reverse":"x","on":false}]})");
  const Image out = result_of(chain, source);
  for (int y = 0; y < 9; ++y) {
    CHECK(out.row<std::uint8_t>(0, y)[1] == 200);
    CHECK_FALSE(out.valid(1, y));
    CHECK(out.row<std::uint8_t>(0, y)[5] == source.row<std::uint8_t>(0, y)[2]);
  }
}
