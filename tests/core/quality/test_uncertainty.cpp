#include <catch2/catch.hpp>
#include <random>

#include "quality/uncertainty.h"

using namespace fexel;

namespace {

const SourceShape photo{{2400, 1600}, 3, Depth::u8, {}};

Chain wall() {
  RectifyStep step;
  step.corners = {Point{494, 97}, Point{1982, 565}, Point{2103, 1556}, Point{244, 1221}};
  step.width = 900;
  step.height = 600;
  step.pixel_size = 0.3;
  Chain chain;
  chain.steps = {{step, true, {}}};
  chain.measurements = {length_measurement("a", 0, {700, 400}, {900, 460}, {}, "mm")};
  return chain;
}

}  // namespace

TEST_CASE("a length is straight, in the pixel's size, x and y apart", "[trust]") {
  CHECK(length_between({0, 0}, {3, 4}, {}).value == Approx(5));
  CHECK(length_between({0, 0}, {3, 4}, {}).unit == "px");
  CHECK(length_between({0, 0}, {3, 4}, PixelSize{2, 0.5, "mm"}).value == Approx(std::hypot(6, 2)));
  CHECK(*length_in({25.4, "mm"}, "in") == Approx(1));
  CHECK_FALSE(length_in({25.4, "px"}, "in"));
}

TEST_CASE("the stated uncertainty is the scatter of hand-placed ends and corners", "[trust]") {
  const Chain chain = wall();
  const Layout layout = lay_out(chain, photo);
  const Reading reading = read_at(chain, photo, layout, chain.measurements[0], 1);
  std::mt19937 random(3);
  std::normal_distribution<double> hand(0, picking_by_hand);
  double sum = 0, square = 0;
  constexpr int rounds = 4000;
  for (int i = 0; i < rounds; ++i) {
    Chain moved = chain;
    auto& step = std::get<RectifyStep>(moved.steps[0].kind);
    for (Point& p : step.corners) p = p + Point{hand(random), hand(random)};
    for (Point* p : {&moved.measurements[0].points[0], &moved.measurements[0].points[1]})
      *p = *p + Point{hand(random), hand(random)};
    const double length = read_at(moved, photo, lay_out(moved, photo), moved.measurements[0], 1).value->value;
    sum += length;
    square += length * length;
  }
  const double scatter = std::sqrt(square / rounds - sum / rounds * (sum / rounds));
  CHECK(*reading.uncertainty == Approx(scatter).epsilon(0.06));
}

TEST_CASE("a length's uncertainty names its parts: calibration and control points among them", "[trust]") {
  // By formula: a length of 400 px at 0.05 mm with 0.2 % of uncertainty.
  Chain flat;
  flat.calibration = Calibration{"stage", {0.05, 0.05, "mm"}, 0.0001, {}, {}};
  flat.measurements = {length_measurement("a", 0, {700, 400}, {1100, 400}, {}, "mm")};
  const Reading plain = read_at(flat, photo, lay_out(flat, photo), flat.measurements[0], 0);
  CHECK(plain.part(UncertaintySource::calibration) == Approx(400 * 0.0001));
  CHECK(plain.part(UncertaintySource::points) == Approx(0.05 * picking_by_hand * std::sqrt(2)));
  CHECK(*plain.uncertainty == Approx(std::hypot(400 * 0.0001, 0.05 * picking_by_hand * std::sqrt(2))));
  CHECK(plain.part(UncertaintySource::corners) == 0);

  // Control points placed at random: the lengths scatter as is stated.
  std::mt19937 random(5);
  std::normal_distribution<double> hand(0, 0.8);
  Chain fitted;
  FitStep fit;
  fit.model = Model::affine;
  fit.picking = 0.8;
  for (const Point p : {Point{200, 200}, {2100, 260}, {2200, 1400}, {300, 1300}, {1200, 700}, {1500, 300}})
    fit.pairs.push_back({p, {0.8 * p.x - 0.1 * p.y + 40, 0.15 * p.x + 0.9 * p.y + 20}, "", true});
  fitted.steps = {{fit, true, {}}};
  fitted.measurements = flat.measurements;
  double sum = 0, square = 0, stated = 0;
  constexpr int rounds = 500;
  for (int round = 0; round < rounds; ++round) {
    Chain moved = fitted;
    for (PointPair& pair : std::get<FitStep>(moved.steps[0].kind).pairs)
      pair.to = pair.to + Point{hand(random), hand(random)};
    const Layout layout = lay_out(moved, photo);
    const Reading reading = read_at(moved, photo, layout, moved.measurements[0], 1);
    sum += reading.value->value;
    square += reading.value->value * reading.value->value;
    if (round < 20) stated += reading.part(UncertaintySource::fit) / 20;
  }
  const double scatter = std::sqrt(square / rounds - sum / rounds * (sum / rounds));
  CHECK(stated == Approx(scatter).epsilon(0.25));
}

TEST_CASE("scale varies over an oblique view and not over the rectified one", "[trust]") {
  const Chain chain = wall();
  const Layout layout = lay_out(chain, photo);
  // Twice the area of a small square of the plane, as seen, at the two ends of the field.
  const Map back = map_between(layout, 1, 0);
  double low = 1e9, high = 0;
  for (int v = 0; v <= 40; ++v)
    for (int u = 0; u <= 40; ++u) {
      const Point p{3000.0 * u / 40, 2000.0 * v / 40};
      const Point a = *back.forward(p), b = *back.forward(p + Point{0.01, 0}), c = *back.forward(p + Point{0, 0.01});
      const double scale = std::sqrt(std::abs(cross(a, b, c))) / 0.01;
      low = std::min(low, scale);
      high = std::max(high, scale);
    }
  CHECK(*scale_variation(chain, layout, 0) == Approx((high - low) / ((high + low) / 2)).epsilon(0.01));
  CHECK_FALSE(scale_variation(chain, layout, 1));
}

TEST_CASE("lengths are summed up: who agrees, and who is off by how much", "[trust]") {
  Chain chain = wall();
  const Layout layout = lay_out(chain, photo);
  const double length = read_at(chain, photo, layout, chain.measurements[0], 1).value->value;
  std::get<LengthMeasurement>(chain.measurements[0].kind).expected = length + 0.1;
  chain.measurements.push_back(chain.measurements[0]);
  std::get<LengthMeasurement>(chain.measurements[1].kind).expected = length - 5;
  chain.measurements[1].name = "proud";
  const LengthSummary sum = summarise_lengths(chain, photo, layout, 1);
  CHECK(sum.count == 2);
  CHECK(sum.agree == 1);
  CHECK(sum.largest == Approx(0.1));
  CHECK(sum.worst == Approx(5));
  CHECK(sum.worst_name == "proud");
}

TEST_CASE("lengths give a pixel's size with the uncertainty that hands leave", "[trust]") {
  // 0.05 mm/px; ends placed half a pixel off at random, many times: the sizes scatter by what is stated.
  std::mt19937 random(8);
  std::normal_distribution<double> hand(0, picking_by_hand);
  const std::vector<std::pair<Point, Point>> ends = {
      {{100, 100}, {900, 140}}, {{300, 80}, {310, 980}}, {{50, 900}, {650, 200}}};
  double sum = 0, square = 0, stated = 0;
  constexpr int rounds = 600;
  for (int round = 0; round < rounds; ++round) {
    Chain chain;
    for (const auto& [from, to] : ends)
      chain.measurements.push_back(length_measurement("", 0, {from.x + hand(random), from.y + hand(random)},
                                                      {to.x + hand(random), to.y + hand(random)},
                                                      0.05 * distance(from, to)));
    const auto scaled = scale_from_lengths(chain, lay_out(chain, photo));
    REQUIRE(scaled);
    CHECK(scaled->count == 3);
    CHECK(scaled->scale.agree);
    sum += scaled->pixel.x;
    square += scaled->pixel.x * scaled->pixel.x;
    stated += scaled->scale.uncertainty / rounds;
  }
  const double mean = sum / rounds, scatter = std::sqrt(square / rounds - mean * mean);
  CHECK(mean == Approx(0.05).epsilon(1e-4));
  // What three measurements scatter is looked at too where it is more, so the stated one may be some more, never less.
  CHECK(stated > 0.95 * scatter);
  CHECK(stated < 1.35 * scatter);
}

TEST_CASE("a pixel's size from lengths keeps units and shape, and tells lengths that differ", "[trust]") {
  Chain chain;
  const Layout square = lay_out(chain, photo);
  CHECK_FALSE(scale_from_lengths(chain, square));
  chain.measurements = {length_measurement("no length", 0, {0, 0}, {500, 0}, {}, "mm")};
  CHECK_FALSE(scale_from_lengths(chain, square));
  chain.measurements.push_back(length_measurement("inches", 0, {0, 100}, {254, 100}, 1.0, "in"));
  chain.measurements.push_back(length_measurement("millimetres", 0, {0, 0}, {0, 508}, 50.8, "mm"));
  auto scaled = scale_from_lengths(chain, lay_out(chain, photo));
  REQUIRE(scaled);
  CHECK(scaled->pixel.unit == "in");
  CHECK(scaled->pixel.x == Approx(1 / 254.0));
  CHECK(scaled->pixel.y == scaled->pixel.x);
  CHECK(scaled->scale.worst < 1e-9);

  // Pixels that are twice as high as wide stay so.
  SourceShape tall = photo;
  tall.pixel = PixelSize{1, 2, "mm"};
  chain.measurements = {length_measurement("down", 0, {10, 10}, {10, 110}, 20.0, "mm")};
  scaled = scale_from_lengths(chain, lay_out(chain, tall));
  REQUIRE(scaled);
  CHECK(scaled->pixel.x == Approx(0.1));
  CHECK(scaled->pixel.y == Approx(0.2));
  CHECK(scaled->scale.uncertainty == Approx(0.1 * std::sqrt(2) * picking_by_hand / 200));

  // One that is a fiftieth off is told from hands that shake.
  chain.measurements = {length_measurement("a", 0, {10, 10}, {1010, 10}, 100.0, "mm"),
                        length_measurement("b", 0, {10, 50}, {1030, 50}, 100.0, "mm")};
  scaled = scale_from_lengths(chain, lay_out(chain, photo));
  REQUIRE(scaled);
  CHECK_FALSE(scaled->scale.agree);
  CHECK(scaled->scale.worst == Approx(0.01).epsilon(0.02));
}
