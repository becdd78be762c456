#include <catch2/catch.hpp>

#include "motion/flow.h"
#include "motion/strain.h"

// What is worked out of flows, against formulas.

using namespace fexel;

namespace {

MotionField field_of(const std::function<Point(Point)>& flow, int columns = 41, int rows = 41, int step = 10) {
  MotionField out;
  out.grid.first = {20, 20};
  out.grid.step_x = out.grid.step_y = step;
  out.grid.columns = columns;
  out.grid.rows = rows;
  out.grid.used.assign(out.grid.count(), 1);
  out.points.resize(out.grid.count());
  for (std::size_t i = 0; i < out.points.size(); ++i) {
    out.points[i].moved = flow(out.grid.at(i));
    out.points[i].sigma = {0.02, 0.03};
    out.points[i].status = MotionStatus::ok;
    out.points[i].reason = MotionReason::none;
  }
  return out;
}
const Point middle{220, 220};
/// Counter-clockwise on the screen, where y is down.
Point turning(Point p) {
  return {0.04 * (p.y - middle.y), -0.04 * (p.x - middle.x)};
}

}  // namespace

TEST_CASE("vorticity, divergence and shear rate of linear flows", "[motion][flow]") {
  const auto at_middle = [](const MotionField& field) {
    StrainSettings settings;
    settings.window = 3;
    settings.breaks = false;
    const auto all = strain_of(field, settings, 32, {});
    return *all[all.size() / 2];
  };
  const Strain turn = at_middle(field_of(turning));
  CHECK(turn.vorticity() == Approx(0.08));
  CHECK(turn.divergence() == Approx(0).margin(1e-12));
  CHECK(turn.shear_rate() == Approx(0).margin(1e-12));
  const Strain shear = at_middle(field_of([](Point p) { return Point{0.03 * p.y, 0}; }));
  CHECK(shear.shear_rate() == Approx(0.03));
  CHECK(shear.vorticity() == Approx(0.03));
  const Strain spread = at_middle(field_of([](Point p) { return Point{0.02 * p.x, 0.01 * p.y}; }));
  CHECK(spread.divergence() == Approx(0.03));
}

TEST_CASE("the flow through a line and the circulation round a polygon are the integrals", "[motion][flow]") {
  // Between walls, fastest in the middle.
  const auto channel = field_of([](Point p) { return Point{5 * (1 - std::pow((p.y - 220) / 200, 2)), 0}; });
  const double exact = 5 * (320 - (std::pow(160.0, 3) * 2 / 3) / (200.0 * 200.0));
  // From below to above: the right-hand side is where the flow goes.
  const LineFlow through = flow_through(channel, {{200, 380}, {200, 60}}, {1, 1}, 32);
  CHECK(through.value == Approx(exact).epsilon(0.01));
  CHECK(through.known == Approx(1));
  CHECK(flow_through(channel, {{200, 60}, {200, 380}}, {1, 1}, 32).value == Approx(-exact).epsilon(0.01));
  // Errors of 0.02 px across a line of 320 px, in pieces of 32 px that err alike.
  CHECK(through.uncertainty == Approx(0.02 * std::sqrt(320. * 32)).epsilon(0.01));
  // In mm, with pixels that are not square: an area.
  CHECK(flow_through(channel, {{200, 380}, {200, 60}}, {0.5, 0.25}, 32).value == Approx(exact * 0.125).epsilon(0.01));
  const auto turn = field_of(turning);
  const std::vector<Point> square{{150, 150}, {290, 150}, {290, 290}, {150, 290}};
  const double whole = 0.08 * 140 * 140;
  CHECK(circulation_round(turn, square, {1, 1}, 32).value == Approx(whole).epsilon(0.01));
  CHECK(circulation_round(turn, {square.rbegin(), square.rend()}, {1, 1}, 32).value == Approx(whole).epsilon(0.01));
  // Where vectors are missing it says how much is known.
  MotionField holed = channel;
  for (std::size_t i = 0; i < holed.points.size(); ++i)
    if (holed.grid.at(i).y > 300) holed.points[i].status = MotionStatus::rejected;
  CHECK(flow_through(holed, {{200, 380}, {200, 60}}, {1, 1}, 32).known < 0.8);
}

TEST_CASE("streamlines go along the flow, evenly apart, and round a turn they close", "[motion][flow]") {
  const auto field = field_of(turning);
  const auto lines = streamlines(field, 30, {});
  REQUIRE(lines.size() > 4);
  for (const auto& line : lines) {
    REQUIRE(line.size() > 2);
    const double r = distance(line.front(), middle);
    for (const Point p : line) CHECK(distance(p, middle) == Approx(r).margin(1));
  }
  double nearest = 1e9;
  for (std::size_t a = 0; a < lines.size(); ++a)
    for (std::size_t b = a + 1; b < lines.size(); ++b)
      for (const Point p : lines[a])
        for (const Point q : lines[b]) nearest = std::min(nearest, distance(p, q));
  CHECK(nearest > 12);
  // None where nothing is known, and none at rest.
  MotionField holed = field;
  for (std::size_t i = 0; i < holed.points.size(); ++i)
    if (holed.grid.at(i).x > 220) holed.points[i].status = MotionStatus::masked;
  for (const auto& line : streamlines(holed, 30, {}))
    for (const Point p : line) CHECK(p.x < 221);
  CHECK(streamlines(field_of([](Point) { return Point{}; }), 30, {}).empty());
}

TEST_CASE("the median of an even number lies between, and fields over two steps count by the step", "[motion][flow]") {
  FlowStatistics flow(field_of([](Point) { return Point{}; }, 3, 3).grid);
  for (const double v : {1.0, 2.0, 4.0, 9.0}) {
    // The last one leads over a frame that was left out.
    MotionField field = field_of([v](Point) { return v > 8 ? Point{2 * v, 0} : Point{v, 0}; }, 3, 3);
    field.from = 3;
    field.frame = v > 8 ? 5 : 4;
    flow.add(field);
  }
  const FlowAt p = flow.points()[4];
  CHECK(p.median.x == Approx(3));
  CHECK(p.mean.x == Approx(4));
  const MotionField mean = flow.mean();
  CHECK(mean.points[4].moved.x == Approx(4));
  CHECK(mean.frame - mean.from == 1);
}

TEST_CASE("means, fluctuations and stresses over fields are those of plain sums", "[motion][flow]") {
  std::mt19937 random(3);
  std::normal_distribution<double> normal(0, 1);
  const auto first = field_of([](Point) { return Point{}; }, 12, 11);
  FlowStatistics flow(first.grid);
  constexpr int n = 400;
  std::vector<Point> of_one;
  for (int k = 0; k < n; ++k) {
    MotionField field = first;
    for (MotionPoint& p : field.points) {
      const double a = normal(random), b = normal(random);
      p.moved = {3 + 0.5 * a, -1 + 0.3 * (0.6 * a + 0.8 * b)};
    }
    // Points that are not ok do not count.
    field.points[5].status = k < 300 ? MotionStatus::weak : MotionStatus::ok;
    of_one.push_back(field.points[7].moved);
    flow.add(field);
  }
  const auto all = flow.points();
  Point mean;
  for (const Point p : of_one) mean = mean + 1.0 / n * p;
  double xx = 0, xy = 0;
  for (const Point p : of_one) {
    xx += (p.x - mean.x) * (p.x - mean.x) / (n - 1);
    xy += (p.x - mean.x) * (p.y - mean.y) / (n - 1);
  }
  CHECK(all[7].mean.x == Approx(mean.x));
  CHECK(all[7].rms.x == Approx(std::sqrt(xx)));
  CHECK(all[7].shear == Approx(xy));
  CHECK(all[5].n == 100);
  CHECK(flow.mean().points[5].status == MotionStatus::weak);
  CHECK(all[7].stated.y == Approx(0.03));
  // The stated uncertainties hold the truth as often as they should.
  int mean_in = 0, rms_in = 0, shear_in = 0, count = 0;
  for (std::size_t i = 0; i < all.size(); ++i) {
    if (i == 5) continue;
    ++count;
    mean_in += std::abs(all[i].mean.x - 3) < all[i].mean_uncertainty.x;
    rms_in += std::abs(all[i].rms.y - 0.3) < all[i].rms_uncertainty.y;
    shear_in += std::abs(all[i].shear - 0.5 * 0.3 * 0.6) < all[i].shear_uncertainty;
  }
  for (const int in : {mean_in, rms_in, shear_in}) {
    CHECK(in > 0.55 * count);
    CHECK(in < 0.8 * count);
  }
}
