#include <catch2/catch.hpp>
#include <random>

#include "base/error.h"
#include "quality/uncertainty.h"

using namespace fexel;

namespace {

const SourceShape shape{{1200, 900}, 1, Depth::u8, PixelSize{0.05, 0.05, "mm"}};

Measurement made(MeasurementKind kind, std::vector<Point> points) {
  const std::size_t count = points.size();
  return {std::move(kind), "m", 0, std::move(points), std::vector<double>(count, 0.5)};
}

std::vector<Measurement> one_of_each() {
  return {made(LengthMeasurement{}, {{200, 300}, {600, 350}}),
          made(PathMeasurement{}, {{200, 300}, {600, 350}, {700, 600}}),
          made(AngleMeasurement{}, {{200, 300}, {600, 350}, {700, 600}}),
          made(AngleMeasurement{}, {{200, 300}, {600, 350}, {700, 600}, {900, 300}}),
          made(CircleMeasurement{}, {{500, 300}, {700, 500}, {500, 700}, {300, 500}}),
          made(RectangleMeasurement{}, {{300, 300}, {700, 500}}),
          made(EllipseMeasurement{}, {{500, 450}, {700, 500}, {450, 560}}),
          made(PolygonMeasurement{}, {{300, 300}, {700, 320}, {600, 600}, {500, 400}}),
          made(ProfileMeasurement{9}, {{300, 300}, {700, 320}}),
          made(PointMeasurement{}, {{300, 300}}),
          made(CountMeasurement{"holes"}, {{1, 2}, {3, 4}, {5, 6}})};
}

double detail(const Reading& reading, const std::string& name) {
  for (const Detail& d : reading.details)
    if (d.name == name) return d.quantity.value;
  FAIL("no detail " << name);
  return 0;
}

Reading read(const Measurement& measurement, const Chain& chain = {}, int station = 0) {
  return read_at(chain, shape, lay_out(chain, shape), measurement, station);
}

}  // namespace

TEST_CASE("each kind reads what geometry says, in the unit of the pixels", "[measurements]") {
  const Reading path = read(made(PathMeasurement{}, {{0, 0}, {300, 400}, {300, 1000}}));
  CHECK(path.value->value == Approx(0.05 * 1100));
  CHECK(path.value->unit == "mm");
  CHECK(detail(path, "straight") == Approx(0.05 * std::hypot(300, 1000)));
  CHECK(read(made(AngleMeasurement{}, {{100, 0}, {0, 0}, {-100, 100}})).value->value == Approx(135));
  CHECK(read(made(AngleMeasurement{}, {{0, 0}, {100, 0}, {500, 500}, {400, 600}})).value->value == Approx(45));
  CHECK(read(made(AngleMeasurement{}, {{100, 0}, {0, 0}, {-100, 100}})).value->unit == "°");
  const Reading circle = read(made(CircleMeasurement{}, {{500, 300}, {700, 500}, {500, 700}, {300, 500}}));
  CHECK(circle.value->value == Approx(20));
  CHECK(detail(circle, "centre_x") == Approx(25));
  CHECK(detail(circle, "circumference") == Approx(20 * M_PI));
  CHECK(detail(circle, "area") == Approx(100 * M_PI));
  CHECK(detail(circle, "roundness") == Approx(0).margin(1e-9));
  const Reading rectangle = read(made(RectangleMeasurement{}, {{700, 300}, {300, 500}}));
  CHECK(rectangle.value->value == Approx(20 * 10));
  CHECK(rectangle.value->unit == "mm²");
  CHECK(detail(rectangle, "perimeter") == Approx(60));
  CHECK(detail(rectangle, "centroid_y") == Approx(20));
  const Reading ellipse = read(made(EllipseMeasurement{}, {{500, 450}, {700, 450}, {650, 350}}));
  CHECK(ellipse.value->value == Approx(M_PI * 10 * 5).epsilon(1e-9));
  const Reading polygon = read(made(PolygonMeasurement{}, {{0, 0}, {0, 300}, {400, 300}}));
  CHECK(polygon.value->value == Approx(0.5 * 20 * 15));
  CHECK(detail(polygon, "perimeter") == Approx(20 + 15 + 25));
  CHECK(detail(polygon, "centroid_x") == Approx(20.0 / 3));
  const Reading point = read(made(PointMeasurement{}, {{300, 500}}));
  CHECK(point.value->value == Approx(15));
  CHECK(detail(point, "y") == Approx(25));
  const Reading count = read(made(CountMeasurement{}, {{1, 2}, {3, 4}, {5, 6}}));
  CHECK(count.value->value == 3);
  CHECK(count.value->unit.empty());
  // Without a pixel size they are pixels.
  const SourceShape bare{{1200, 900}, 1, Depth::u8, {}};
  const Reading area = read_at({}, bare, lay_out({}, bare), made(RectangleMeasurement{}, {{300, 300}, {700, 500}}), 0);
  CHECK(area.value->value == Approx(400 * 200));
  CHECK(area.value->unit == "px²");
}

TEST_CASE("what is read through the chain is what is measured there", "[measurements]") {
  Chain chain;
  RotateStep rotate;
  rotate.degrees = 27.3;
  ResizeStep resize;
  resize.scale = std::pair{1.7, 0.6};
  TranslateStep moved;
  moved.dx = 31.4;
  moved.dy = -7.2;
  chain.steps = {{rotate, true, {}}, {resize, true, {}}, {moved, true, {}}};
  const Layout layout = lay_out(chain, shape);
  layout.require_sound();
  for (const Measurement& measurement : one_of_each()) {
    INFO(word_of(measurement.kind));
    const Reading here = read_at(chain, shape, layout, measurement, 0),
                  there = read_at(chain, shape, layout, measurement, 3);
    REQUIRE(here.value);
    REQUIRE(there.value);
    CHECK(there.value->unit == here.value->unit);
    // A place is read on other axes; all else is the same in mm, whatever the pixels are there.
    if (std::holds_alternative<PointMeasurement>(measurement.kind)) continue;
    CHECK(std::abs(there.value->value / here.value->value - 1) < 1e-6);
    CHECK(*there.uncertainty == Approx(*here.uncertainty).epsilon(1e-3).margin(1e-12));
  }
}

TEST_CASE("the uncertainty of each kind is the scatter of points placed by hand", "[measurements]") {
  std::mt19937 random(6);
  std::normal_distribution<double> hand(0, 0.5);
  for (const Measurement& measurement : one_of_each()) {
    if (std::holds_alternative<CountMeasurement>(measurement.kind)) continue;
    INFO(word_of(measurement.kind));
    double sum = 0, square = 0;
    constexpr int rounds = 1500;
    for (int round = 0; round < rounds; ++round) {
      Measurement placed = measurement;
      for (Point& p : placed.points) p = p + Point{hand(random), hand(random)};
      const double value = read(placed).value->value;
      sum += value;
      square += value * value;
    }
    const double scatter = std::sqrt(square / rounds - sum / rounds * (sum / rounds));
    CHECK(*read(measurement).uncertainty == Approx(scatter).epsilon(0.1));
  }
}

TEST_CASE("what cannot be measured says why, and has no value", "[measurements]") {
  for (const Measurement& wrong :
       {made(PolygonMeasurement{}, {{0, 0}, {100, 100}, {100, 0}, {0, 100}}),
        made(PolygonMeasurement{}, {{0, 0}, {100, 100}, {200, 200}}),
        made(AngleMeasurement{}, {{5, 5}, {5, 5}, {9, 9}}), made(CircleMeasurement{}, {{0, 0}, {10, 10}, {20, 20}}),
        made(RectangleMeasurement{}, {{5, 5}, {5, 90}}), made(EllipseMeasurement{}, {{0, 0}, {100, 0}, {50, 0}}),
        made(ProfileMeasurement{}, {{7, 7}, {7, 7.5}})}) {
    const Reading reading = read(wrong);
    INFO(word_of(wrong.kind));
    CHECK_FALSE(reading.value);
    REQUIRE(reading.problem);
    CHECK(reading.problem->ends_with("."));
  }
}

TEST_CASE("every kind comes back from its text, and wrong texts name the place", "[measurements]") {
  Chain chain;
  chain.measurements = one_of_each();
  chain.measurements[1].picking = {0.1, 0.5, 2};
  CHECK(parse_chain(write_chain(chain)) == chain);
  for (const auto& [text, place] :
       {std::pair{R"({"measure":"angle","station":0,"points":[[0,0],[1,1]]})", "/points"},
        {R"({"measure":"rectangle","station":0,"points":[[0,0]]})", "/points"},
        {R"({"measure":"profile","station":0,"points":[[0,0],[9,9]],"width":-1})", "/width"},
        {R"({"measure":"path","station":0,"points":[[0,0],[9,9],[1,5]],"picking":[1,1]})", "/picking"}}) {
    INFO(text);
    CHECK_THROWS_WITH(parse_chain(std::string(R"({"fexel":1,"measurements":[)") + text + "]}"),
                      Catch::Contains(std::string("/measurements/0") + place));
  }
}

TEST_CASE("coordinates count from axes of one's own, at every station", "[measurements]") {
  // Origin at (100, 800), x to the right, y up, 50 written at the origin in y.
  Chain chain;
  chain.axes = Axes{{100, 800}, 0, {0, 50}, true, true, 0};
  CHECK(parse_chain(write_chain(chain)) == chain);
  const Reading point = read(made(PointMeasurement{}, {{300, 700}}), chain);
  CHECK(point.value->value == Approx(10));  // 200 px of 0.05 mm
  CHECK(detail(point, "y") == Approx(55));
  // Turned by 90 degrees counter-clockwise x points up the screen, and y (up) to the left.
  chain.axes->turn = 90;
  const Reading turned = read(made(PointMeasurement{}, {{300, 700}}), chain);
  CHECK(turned.value->value == Approx(5));
  CHECK(detail(turned, "y") == Approx(40));
  // The same places have the same coordinates where the picture is turned, mirrored and shrunk.
  chain.axes = Axes{{100, 800}, 0, {7, 50}, false, true, 12};
  chain.steps.push_back({RotateStep{31}, true, {}});
  chain.steps.push_back({MirrorStep{}, true, {}});
  ResizeStep smaller;
  smaller.scale = {0.4, 0.4};
  chain.steps.push_back({smaller, true, {}});
  const Measurement place = made(PointMeasurement{}, {{420, 330}}), circle = one_of_each()[4], field = one_of_each()[5];
  for (const Measurement& m : {place, circle, field}) {
    const Reading there = read(m, chain, 0);
    for (int station = 1; station <= 3; ++station) {
      const Reading here = read(m, chain, station);
      INFO(word_of(m.kind) << " at station " << station);
      CHECK(here.value->value == Approx(there.value->value).epsilon(1e-3));
      for (const char* name : {"y", "centre_x", "centre_y", "centroid_x", "centroid_y"})
        for (std::size_t i = 0; i < there.details.size(); ++i)
          if (there.details[i].name == name)
            CHECK(detail(here, name) == Approx(there.details[i].quantity.value).epsilon(1e-3).margin(0.01));
    }
  }
  // What is written at the origin is a length: the same in another unit, none where a station has no pixel size.
  chain.axes = Axes{{0, 0}, 0, {10, 50}, true, false, 0};
  chain.steps.clear();
  ResizeStep in_cm;
  in_cm.pixel_size = 0.01;
  in_cm.unit = "cm";
  chain.steps.push_back({in_cm, true, {}});
  CHECK(read(place, chain, 1).value->value * 10 == Approx(read(place, chain, 0).value->value).epsilon(1e-3));
  TiltStep tilt;
  tilt.about_x = 20;
  chain.steps = {{tilt, true, {}}};
  const Layout tilted = lay_out(chain, shape);
  REQUIRE_FALSE(tilted.result().pixel);
  CHECK(tilted.result().axes->value == Point{});
  // The length's direction, from x towards y.
  chain.steps.clear();
  chain.axes = Axes{{0, 0}, 0, {}, true, true, 30};
  const double c = std::cos(M_PI / 6), s = std::sin(M_PI / 6);
  CHECK(detail(read(made(LengthMeasurement{}, {{100, 300}, {100 + 50 * c, 300 - 50 * s}}), chain), "direction") ==
        Approx(0).margin(1e-9));
  CHECK(detail(read(made(LengthMeasurement{}, {{100, 300}, {100, 250}}), chain), "direction") == Approx(60));
}
