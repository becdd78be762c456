#include <catch2/catch.hpp>

#include "chain/edit.h"
#include "chain/evaluate.h"
#include "tests/support.h"

using namespace fexel;

namespace {

const Quad quad{Point{412.5, 300}, Point{1890.2, 355.1}, Point{1844, 1420.7}, Point{380.3, 1290.9}};
const SourceShape photo{{2400, 1600}, 3, Depth::u8, {}};

Step rectify(std::optional<double> pixel = 0.25) {
  RectifyStep step;
  step.corners = quad;
  step.width = 600;
  step.height = 400;
  step.pixel_size = pixel;
  return {step, true, {}};
}
Step crop(double x, double y, int w, int h) {
  return {CropStep{CropRectangle{x, y, w, h}}, true, {}};
}
Chain chain_of(std::vector<Step> steps) {
  Chain chain;
  chain.steps = std::move(steps);
  return chain;
}

}  // namespace

TEST_CASE("stations know their sizes and pixel sizes", "[layout]") {
  const Layout layout = lay_out(chain_of({{RotateStep{180}, true, {}},
                                          {RotateStep{-180}, true, {}},
                                          rectify(),
                                          crop(100, 50, 2000, 1400),
                                          {RotateStep{90}, true, {}}}),
                                photo);
  layout.require_sound();
  CHECK(layout.stations[3].size == Size{2400, 1600});
  CHECK(layout.stations[3].pixel == PixelSize{0.25, 0.25, "mm"});
  CHECK(layout.stations[4].size == Size{2000, 1400});
  CHECK(layout.result().size == Size{1400, 2000});
  CHECK(layout.stations[1].exact);
  CHECK_FALSE(layout.stations[3].exact);
  CHECK(layout.stations[4].exact);
}

TEST_CASE("the factors that came out are the pixel size", "[layout]") {
  const Layout layout = lay_out(chain_of({rectify(0.7)}), photo);
  CHECK(layout.result().size == Size{857, 571});  // floor(600 / 0.7 + 0.5), floor(400 / 0.7 + 0.5)
  CHECK(layout.result().pixel->x == Approx(600.0 / 857));
  CHECK(layout.result().pixel->y == Approx(400.0 / 571));
  const Point corner[] = {{0, 0}, {857, 0}, {857, 571}, {0, 571}};
  for (std::size_t i = 0; i < 4; ++i) {
    const Carried c = carry(layout, quad[i], 0, 1);
    CHECK(distance(c.point, corner[i]) < 1e-7);
  }
}

TEST_CASE("calibration follows quarter turns per axis, and comes before the file's pixel size", "[layout]") {
  Chain chain = chain_of({{RotateStep{90}, true, {}}});
  SourceShape shape = photo;
  shape.pixel = PixelSize{0.1, 0.2, "mm"};
  CHECK(lay_out(chain, shape).result().pixel == PixelSize{0.2, 0.1, "mm"});
  chain.calibration = Calibration{"bench", {3, 4, "um"}, 0, {}, {}};
  CHECK(lay_out(chain, shape).result().pixel == PixelSize{4, 3, "um"});
}

TEST_CASE("without a pixel size no detail is lost", "[layout]") {
  const Layout layout = lay_out(chain_of({rectify(std::nullopt)}), photo);
  const Map back = map_between(layout, 1, 0);
  double largest = 0;
  for (int v = 0; v <= 200; ++v)
    for (int u = 0; u <= 200; ++u)
      largest = std::max(largest, singular_values(*back.jacobian({layout.result().size.width * u / 200.0,
                                                                  layout.result().size.height * v / 200.0}))
                                      .large);
  CHECK(largest == Approx(1).epsilon(2e-3));
}

TEST_CASE("points are carried between any two stations and come back", "[layout]") {
  const Layout layout = lay_out(
      chain_of({{RotateStep{90}, true, {}}, {RotateStep{270}, true, {}}, rectify(), crop(10.5, 7.25, 2000, 1400)}),
      photo);
  for (int from = 0; from <= 4; ++from)
    for (int to = 0; to <= 4; ++to) {
      const Point start = carry(layout, {900, 800}, 0, from).point;
      const Carried there = carry(layout, start, from, to);
      CHECK(there.status == CarryStatus::ok);
      CHECK(distance(carry(layout, there.point, to, from).point, start) < 1e-8);
    }
}

TEST_CASE("a point outside a station is empty, one behind the horizon has no place", "[layout]") {
  const Layout layout = lay_out(chain_of({rectify(), crop(100, 100, 200, 200)}), photo);
  CHECK(carry(layout, {412.5, 300}, 0, 2).status == CarryStatus::empty);
  const Carried inside = carry(layout, {10, 10}, 2, 0);
  CHECK(inside.status == CarryStatus::ok);
  CHECK(carry(layout, {-5, 10}, 2, 0).status == CarryStatus::empty);
  // The horizon of this view: where w of the map from the source is zero.
  const Matrix3& m = layout.stations[1].from_source.matrix();
  const double x = -(m(2, 1) * 800 + m(2, 2)) / m(2, 0);
  const double beyond = x + (m(2, 0) > 0 ? -10 : 10);
  CHECK(carry(layout, {beyond, 800}, 0, 1).status == CarryStatus::beyond_horizon);
}

TEST_CASE("steps that are off still count and change nothing", "[layout]") {
  Chain chain = chain_of({rectify(), crop(10, 10, 50, 50)});
  chain.steps[0].on = false;
  const Layout layout = lay_out(chain, photo);
  REQUIRE(layout.stations.size() == 3);
  CHECK(layout.stations[1].size == photo.size);
  CHECK(layout.result().size == Size{50, 50});
}

TEST_CASE("crops by ratio keep to whole pixels, and to valid leave no empty pixel", "[layout]") {
  const Layout square = lay_out(chain_of({{CropStep{CropRatio{1, 1, "centre"}}, true, {}}}), photo);
  CHECK(square.result().size == Size{1600, 1600});
  CHECK(square.result().exact);
  CHECK(distance(carry(square, {0, 0}, 1, 0).point, {400, 0}) < 1e-9);

  // A rectangle that reaches out of the picture leaves empty corners.
  RectifyStep wide;
  wide.corners = {Point{-200, 100}, Point{2300, -80}, Point{2500, 1500}, Point{-100, 1700}};
  wide.width = 300;
  wide.height = 200;
  wide.pixel_size = 1;
  const Chain chain = chain_of({{wide, true, {}}, {CropStep{CropValid{}}, true, {}}});
  const Layout layout = lay_out(chain, photo);
  const auto valid = [&](int x, int y) { return layout.stations[1].clip.contains({x + 0.5, y + 0.5}); };
  const Carried corner = carry(layout, {0, 0}, 2, 1);
  const int x0 = static_cast<int>(std::lround(corner.point.x)), y0 = static_cast<int>(std::lround(corner.point.y));
  const Size size = layout.result().size;
  for (int y = y0; y < y0 + size.height; ++y)
    for (int x = x0; x < x0 + size.width; ++x) CHECK(valid(x, y));
  // The slow way: every pair of rows, every run of columns.
  int best = 0;
  for (int top = 0; top < 200; top += 1) {
    std::vector<char> run(300, 1);
    for (int bottom = top; bottom < 200; ++bottom) {
      int length = 0;
      for (int x = 0; x < 300; ++x) {
        run[static_cast<std::size_t>(x)] = run[static_cast<std::size_t>(x)] && valid(x, bottom);
        length = run[static_cast<std::size_t>(x)] ? length + 1 : 0;
        best = std::max(best, length * (bottom - top + 1));
      }
    }
  }
  CHECK(size.width * size.height == best);
}

TEST_CASE("a crop outside, a picture too large and a hidden rectangle are named with their place", "[layout]") {
  CHECK(lay_out(chain_of({crop(5000, 0, 10, 10)}), photo).stations[1].problem->where() == "/steps/0/x");
  CHECK(lay_out(chain_of({crop(0, -50, 10, 10)}), photo).stations[1].problem->where() == "/steps/0/y");
  CHECK(lay_out(chain_of({rectify(1e-7)}), photo).stations[1].problem->where() == "/steps/0/pixel_size");
  CHECK(lay_out(chain_of({rectify(0.005)}), photo).stations[1].problem->where() == "/steps/0/pixel_size");
  const Layout broken = lay_out(chain_of({crop(5000, 0, 10, 10), {RotateStep{90}, true, {}}}), photo);
  CHECK(broken.result().size == Size{1600, 2400});
  CHECK_THROWS_AS(broken.require_sound(), Error);
}

TEST_CASE("the pixels of a chain are those of one resampling", "[layout]") {
  // Quarter turns and crops around a rectify step give the pixels of the rectify step alone, moved.
  const Pyramid source(std::make_shared<const Image>(test::noise(300, 200, 1, Depth::u8)));
  const SourceShape shape{{300, 200}, 1, Depth::u8, {}};
  RectifyStep step;
  step.corners = {Point{40, 30}, Point{250, 44}, Point{240, 170}, Point{52, 160}};
  step.width = 100;
  step.height = 60;
  step.pixel_size = 0.5;
  const Chain alone = chain_of({{step, true, {}}});
  const Chain more = chain_of({{step, true, {}}, {RotateStep{180}, true, {}}, crop(20, 10, 150, 90)});
  WarpReport report;
  const Image a = evaluate(alone, lay_out(alone, shape), source, {}, &report);
  const Image b = evaluate(more, lay_out(more, shape), source, {}, &report);
  CHECK_FALSE(report.exact);
  for (int y = 0; y < 90; ++y)
    for (int x = 0; x < 150; ++x)
      CHECK(std::abs(test::value(b, 0, x, y) - test::value(a, 0, 199 - (x + 20), 119 - (y + 10))) <= 1);
}

TEST_CASE("lengths keep their place when steps come and go", "[edit]") {
  Chain chain = chain_of({rectify()});
  chain.measurements = {length_measurement("a", 0, {900, 700}, {1000, 720}, 100, "mm"),
                        length_measurement("b", 1, {800, 600}, {900, 650}, {}, "mm")};
  const Layout before = lay_out(chain, photo);
  const Chain more = with_step_inserted(chain, 0, {RotateStep{90}, true, {}});
  CHECK(more.measurements[0].station == 0);
  CHECK(more.measurements[1].station == 2);
  const Chain fewer = with_step_removed(chain, before, 0);
  CHECK(fewer.measurements[1].station == 0);
  CHECK(distance(fewer.measurements[1].points[0], carry(before, {800, 600}, 1, 0).point) < 1e-9);
}
