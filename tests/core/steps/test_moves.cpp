#include <catch2/catch.hpp>

#include "base/error.h"
#include "chain/evaluate.h"
#include "tests/support.h"
#include "tests/theory.h"

using namespace fexel;

namespace {

Chain steps(const std::string& text) {
  std::string whole = R"({"fexel":1,"steps":[)";
  whole += text;
  whole += "]}";
  return parse_chain(whole);
}

SourceShape shape_of(const Image& image) {
  return {{image.width(), image.height()}, image.bands(), image.depth(), {}};
}

Image result_of(const Chain& chain, const Image& source, WarpReport* report = nullptr) {
  const Pyramid pyramid(std::make_shared<const Image>(source.clone()));
  return evaluate(chain, lay_out(chain, shape_of(source)), pyramid, {}, report);
}

const SourceShape photo{{300, 200}, 1, Depth::u8, PixelSize{0.5, 0.5, "mm"}};

std::string where_of(const Chain& chain, const SourceShape& source = photo) {
  try {
    lay_out(chain, source).require_sound();
  } catch (const Error& error) {
    return error.where();
  }
  return "sound";
}

}  // namespace

TEST_CASE("a mirror reverses one axis, bit for bit", "[moves]") {
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32);
  const int bands = GENERATE(1, 3, 5);
  const bool across = GENERATE(true, false);
  const Image source = test::noise(31, 17, bands, depth);
  WarpReport report;
  const Image out = result_of(
      steps(across ? R"({"step":"mirror","reverse":"x"})" : R"({"step":"mirror","reverse":"y"})"), source, &report);
  CHECK(report.exact);
  bool same = out.width() == 31 && out.height() == 17;
  for (int band = 0; same && band < bands; ++band)
    for (int y = 0; y < 17; ++y)
      for (int x = 0; x < 31; ++x)
        same =
            same && test::value(out, band, x, y) == test::value(source, band, across ? 30 - x : x, across ? y : 16 - y);
  CHECK(same);
}

TEST_CASE("thirty-six turns of 10 degrees give the source back bit for bit", "[moves]") {
  const double degrees = GENERATE(10.0, -10.0);
  const Image source = test::noise(131, 77, 3, Depth::u16);
  Chain chain;
  for (int i = 0; i < 36; ++i) chain.steps.push_back({RotateStep{degrees, {}, Extent::grow}, true, {}});
  WarpReport report;
  const Image out = result_of(chain, source, &report);
  CHECK(report.exact);
  CHECK(report.empty == 0);
  CHECK(test::same_samples(out, source));
}

TEST_CASE("a rotation by a multiple of 90 degrees moves every sample to its place", "[moves]") {
  const int quarters = GENERATE(-3, -1, 0, 1, 2, 5, 400);
  const Image source = test::noise(40, 30, 1, Depth::u8);
  Chain chain;
  chain.steps.push_back({RotateStep{90.0 * quarters, {}, Extent::grow}, true, {}});
  WarpReport report;
  const Image out = result_of(chain, source, &report);
  CHECK(report.exact);
  const int turns = ((quarters % 4) + 4) % 4;
  REQUIRE(out.width() == (turns % 2 == 0 ? 40 : 30));
  REQUIRE(out.height() == (turns % 2 == 0 ? 30 : 40));
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x) {
      // Counter-clockwise on the screen: what was at the right side is at the top.
      const int from_x = turns == 0 ? x : turns == 1 ? 39 - y : turns == 2 ? 39 - x : y;
      const int from_y = turns == 0 ? y : turns == 1 ? x : turns == 2 ? 29 - y : 29 - x;
      if (out.row<std::uint8_t>(0, y)[x] != source.row<std::uint8_t>(0, from_y)[from_x]) FAIL(x << ", " << y);
    }
}

TEST_CASE("a rotation by 90 degrees keeps what a pad has put around, and exchanges pixel sizes", "[moves]") {
  const auto pad = PadStep{5, 2, 0, 0, {}, {}};
  Chain chain;
  chain.steps = {{pad, true, {}}, {RotateStep{90}, true, {}}};
  const Layout layout = lay_out(chain, {{40, 30}, 1, Depth::u8, PixelSize{0.1, 0.2, "mm"}});
  CHECK(layout.result().size == Size{32, 45});
  CHECK(layout.result().pixel->x == 0.2);
  CHECK(layout.result().pixel->y == 0.1);
}

TEST_CASE("a turn goes counter-clockwise on the screen, by any angle, and grows to hold the picture", "[moves]") {
  const double degrees = GENERATE(30.0, -1.82, 137.0, 269.0, -400.0);
  Chain chain;
  chain.steps.push_back({RotateStep{degrees, {}, Extent::grow}, true, {}});
  const Layout layout = lay_out(chain, photo);
  const double a = degrees * M_PI / 180, c = std::cos(a), s = std::sin(a);
  const Size size = layout.result().size;
  CHECK(size.width == std::ceil(300 * std::abs(c) + 200 * std::abs(s) - 1e-6));
  CHECK(size.height == std::ceil(300 * std::abs(s) + 200 * std::abs(c) - 1e-6));
  // On the screen y goes down: a point to the right of the middle rises.
  const Point right = carry(layout, {250, 100}, 0, 1).point;
  CHECK(right.x == Approx(size.width / 2.0 + 100 * c));
  CHECK(right.y == Approx(size.height / 2.0 - 100 * s));
  CHECK(layout.result().pixel == photo.pixel);
}

TEST_CASE("keep keeps the window and the centre's place; inside leaves no empty corner and no room", "[moves]") {
  const double degrees = GENERATE(3.0, -20.0, 45.0, 95.0);
  const bool middle = GENERATE(true, false);
  RotateStep turn{degrees, {}, Extent::keep};
  if (!middle) turn.centre = Point{120, 90};
  const Point centre = turn.centre.value_or(Point{150, 100});
  Chain chain;
  chain.steps.push_back({turn, true, {}});
  const Layout kept = lay_out(chain, photo);
  CHECK(kept.result().size == photo.size);
  CHECK(distance(carry(kept, centre, 0, 1).point, centre) < 1e-9);

  turn.extent = Extent::inside;
  chain.steps[0].kind = turn;
  const Layout inside = lay_out(chain, photo);
  const Size size = inside.result().size;
  CHECK(distance(carry(inside, centre, 0, 1).point, {size.width / 2.0, size.height / 2.0}) < 1e-9);
  const auto in_source = [&](double w, double h) {
    for (const Point corner : {Point{-w, -h}, Point{w, -h}, Point{w, h}, Point{-w, h}}) {
      const Point p = carry(inside, {size.width / 2.0 + corner.x / 2, size.height / 2.0 + corner.y / 2}, 1, 0).point;
      if (p.x < -1e-6 || p.y < -1e-6 || p.x > 300 + 1e-6 || p.y > 200 + 1e-6) return false;
    }
    return true;
  };
  CHECK(in_source(size.width, size.height));
  // The next larger of the same shape does not fit.
  const double factor = std::max((size.width + 1) / 300.0, (size.height + 1) / 200.0);
  CHECK_FALSE(in_source(300 * factor, 200 * factor));
}

TEST_CASE("behind a crop a turn grows to hold what the crop has left", "[moves]") {
  const Layout layout =
      lay_out(steps(R"({"step":"crop","x":40,"y":30,"width":100,"height":60},{"step":"rotate","degrees":30})"), photo);
  const double c = std::cos(M_PI / 6), s = std::sin(M_PI / 6);
  CHECK(layout.result().size ==
        Size{static_cast<int>(std::ceil(100 * c + 60 * s)), static_cast<int>(std::ceil(100 * s + 60 * c))});
}

TEST_CASE("a turn of pixels that are not square loses the pixel size, by quarters it changes places", "[moves]") {
  SourceShape oblong = photo;
  oblong.pixel = PixelSize{0.5, 0.8, "mm"};
  CHECK_FALSE(lay_out(steps(R"({"step":"rotate","degrees":30})"), oblong).result().pixel);
  CHECK(lay_out(steps(R"({"step":"rotate","degrees":-90})"), oblong).result().pixel == PixelSize{0.8, 0.5, "mm"});
  CHECK(lay_out(steps(R"({"step":"rotate","degrees":180})"), oblong).result().pixel == oblong.pixel);
}

TEST_CASE("whole shifts are exact; keep cuts off, grow holds both", "[moves]") {
  const Image source = test::noise(40, 30, 3, Depth::f32);
  WarpReport report;
  const Image kept = result_of(steps(R"({"step":"translate","dx":7,"dy":-4})"), source, &report);
  CHECK(report.exact);
  CHECK(report.empty == 40 * 30 - 33 * 26);
  bool same = true;
  for (int y = 0; y < 30; ++y)
    for (int x = 0; x < 40; ++x) {
      const bool inside = x >= 7 && y < 26;
      same = same && kept.valid(x, y) == inside &&
             test::value(kept, 1, x, y) == (inside ? test::value(source, 1, x - 7, y + 4) : 0);
    }
  CHECK(same);
  const Image grown = result_of(steps(R"({"step":"translate","dx":-7,"dy":4,"extent":"grow"})"), source);
  CHECK(grown.width() == 47);
  CHECK(grown.height() == 34);
  CHECK(test::value(grown, 0, 0, 4) == test::value(source, 0, 0, 0));
}

TEST_CASE("turns and shifts in a row have the error of one resampling", "[moves][long]") {
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3);
  const auto all = test::waves(80, 0.18, 5);
  const Image source = test::picture_of(all, 500, 500);
  Chain chain = steps(R"({"step":"rotate","degrees":13,"extent":"keep"},{"step":"translate","dx":3.3,"dy":-2.7},
                         {"step":"rotate","degrees":-9.5,"extent":"keep"},{"step":"translate","dx":-0.4,"dy":1.15})");
  chain.resampling.kernel = kernel;
  const Layout layout = lay_out(chain, shape_of(source));
  const Image out = result_of(chain, source);
  double square = 0;
  int count = 0;
  for (int y = 80; y < 420; ++y)
    for (int x = 80; x < 420; ++x) {
      const Point at = carry(layout, {x + 0.5, y + 0.5}, 4, 0).point;
      square += std::pow(test::value(out, 0, x, y) - test::scene(all, at.x, at.y), 2);
      ++count;
    }
  const double decibels = 20 * std::log10(std::sqrt(square / count) / test::expected_error(kernel, all));
  CHECK(std::abs(decibels) < 0.5);
}

TEST_CASE("a resize keeps to whole sizes, and the factors that came out are the pixel size", "[moves]") {
  const auto result = [](const std::string& keys) {
    std::string text = R"({"step":"resize",)";
    text += keys;
    text += '}';
    return lay_out(steps(text), photo).result();
  };
  CHECK(result(R"("scale":0.333)").size == Size{100, 67});
  CHECK(result(R"("scale":[2,0.5])").size == Size{600, 100});
  CHECK(result(R"("width":150)").size == Size{150, 100});
  CHECK(result(R"("height":151)").size == Size{227, 151});
  CHECK(result(R"("height":151)").pixel->x == Approx(0.5 * 300 / 227));
  CHECK(result(R"("height":151)").pixel->y == Approx(0.5 * 200 / 151));
  const Station fine = result(R"("pixel_size":100,"unit":"um")");
  CHECK(fine.size == Size{1500, 1000});
  CHECK(fine.pixel->unit == "um");
  CHECK(fine.pixel->x == Approx(100));
  const Station stretched = result(R"("width":100,"height":200)");
  CHECK(stretched.pixel->x == Approx(1.5));
  CHECK(stretched.pixel->y == Approx(0.5));
  // Crop fills the frame, pad holds the picture; the middle stays in the middle and pixels stay square.
  for (const auto& [way, factor] : {std::pair{"crop", 1.0}, {"pad", 1.0 / 3}}) {
    const Layout layout = lay_out(
        steps(std::string(R"({"step":"resize","width":100,"height":200,"when_shape_differs":")") + way + "\"}"), photo);
    CHECK(distance(carry(layout, {150, 100}, 0, 1).point, {50, 100}) < 1e-9);
    CHECK(distance(carry(layout, {153, 100}, 0, 1).point, {50 + 3 * factor, 100}) < 1e-9);
    CHECK(layout.result().pixel->x == Approx(0.5 / factor));
    CHECK(layout.result().pixel->square());
  }
}

TEST_CASE("shrinking and enlarging within a chain cancel", "[moves]") {
  const Image source = test::noise(90, 60, 1, Depth::u8);
  WarpReport report;
  const Image out =
      result_of(steps(R"({"step":"resize","scale":0.1},{"step":"resize","width":90,"height":60})"), source, &report);
  CHECK(report.exact);
  CHECK(test::same_samples(out, source));
}

TEST_CASE("a matrix is forward, in rows, and keeps the pixel size where it can", "[moves]") {
  const Layout layout =
      lay_out(steps(R"({"step":"matrix","matrix":[[2,0,10],[0,4,-5],[0,0,1]],"width":50,"height":60})"), photo);
  CHECK(layout.result().size == Size{50, 60});
  CHECK(distance(carry(layout, {7, 9}, 0, 1).point, {24, 31}) < 1e-12);
  CHECK(layout.result().pixel == PixelSize{0.25, 0.125, "mm"});
  // Perspective takes the pixel size; a matrix says the same whatever it is multiplied by.
  const Layout tilted = lay_out(steps(R"({"step":"matrix","matrix":[[1,0,0],[0,1,0],[0.001,0,1]]})"), photo);
  const Layout negative = lay_out(steps(R"({"step":"matrix","matrix":[[-1,0,0],[0,-1,0],[-0.001,0,-1]]})"), photo);
  CHECK_FALSE(tilted.result().pixel);
  CHECK(distance(carry(tilted, {100, 50}, 0, 1).point, {100 / 1.1, 50 / 1.1}) < 1e-9);
  CHECK(distance(carry(negative, {100, 50}, 0, 1).point, {100 / 1.1, 50 / 1.1}) < 1e-9);
}

TEST_CASE("moves that cannot be made are named by step and key", "[moves]") {
  CHECK(where_of(steps(R"({"step":"matrix","matrix":[[1,0,0],[0,0,0],[0,0,1]]})")) == "/steps/0/matrix");
  CHECK(where_of(steps(R"({"step":"matrix","matrix":[[1,0,0],[0,1,0],[1,0,-150]]})")) == "/steps/0/matrix");
  CHECK(where_of(steps(R"({"step":"rotate","degrees":3,"centre":[400,0],"extent":"inside"})")) == "/steps/0/centre");
  CHECK(where_of(steps(R"({"step":"resize","scale":1e5})")) == "/steps/0/scale");
  CHECK(where_of(steps(R"({"step":"resize","width":1000000,"height":900000})")) == "/steps/0/width");
  SourceShape bare = photo;
  bare.pixel.reset();
  CHECK(where_of(steps(R"({"step":"resize","pixel_size":1,"unit":"mm"})"), bare) == "/steps/0/pixel_size");
}
