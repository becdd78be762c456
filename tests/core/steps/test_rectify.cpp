#include <Eigen/Geometry>
#include <Eigen/LU>
#include <catch2/catch.hpp>
#include <random>

#include "base/error.h"
#include "geometry/rectangle.h"
#include "quality/distortion_maps.h"
#include "quality/uncertainty.h"

using namespace fexel;

namespace {

constexpr SourceShape photo{{3000, 2000}, 1, Depth::u8, {}};

/// A pinhole camera with square pixels, its axis through the picture's middle, that looks from `eye` at `target`.
struct Camera {
  Eigen::Vector3d eye, right, down, forward;
  double focal;
  Point see(double x, double y, double z = 0) const {
    const Eigen::Vector3d ray = Eigen::Vector3d(x, y, z) - eye;
    const double depth = ray.dot(forward);
    return {1500 + focal * ray.dot(right) / depth, 1000 + focal * ray.dot(down) / depth};
  }
};
Camera camera(Eigen::Vector3d eye, Eigen::Vector3d target, double roll, double focal) {
  Camera c;
  c.eye = eye;
  c.focal = focal;
  c.forward = (target - eye).normalized();
  const Eigen::Vector3d right = Eigen::Vector3d(0, 1, 0).cross(c.forward).normalized();
  const Eigen::Vector3d down = c.forward.cross(right);
  c.right = std::cos(roll) * right + std::sin(roll) * down;
  c.down = c.forward.cross(c.right);
  return c;
}
Quad corners_of(const Camera& c, double width, double height) {
  return {c.see(0, 0), c.see(width, 0), c.see(width, height), c.see(0, height)};
}

/// A rectangle of 600 x 400 mm from the side and below.
const Camera& oblique() {
  static const Camera c = camera({-250, 700, -900}, {300, 200, 0}, 0.05, 2600);
  return c;
}

Chain rectify(const RectifyStep& step) {
  Chain chain;
  chain.steps = {{step, true, {}}};
  return chain;
}
RectifyStep of_sides() {
  RectifyStep step;
  step.corners = corners_of(oblique(), 600, 400);
  step.width = 600;
  step.height = 400;
  step.pixel_size = 0.5;
  return step;
}
const Station& made(Layout& layout, const RectifyStep& step) {
  layout = lay_out(rectify(step), photo);
  layout.require_sound();
  return layout.result();
}
Point on_result(const RectifyStep& step, Point p) {
  return carry(lay_out(rectify(step), photo), p, 0, 1).point;
}
std::string problem_of(const RectifyStep& step) {
  const Layout layout = lay_out(rectify(step), photo);
  return layout.result().problem ? layout.result().problem->where() : "";
}

}  // namespace

TEST_CASE("a ratio alone lays the rectangle square without a unit", "[rectify]") {
  RectifyStep step = of_sides();
  step.shape = RectifyStep::Shape::ratio;
  step.ratio = 1.5;
  step.pixel_size.reset();
  Layout layout;
  const Station& out = made(layout, step);
  CHECK_FALSE(out.pixel);
  CHECK(out.size.width / double(out.size.height) == Approx(1.5).epsilon(0.002));
  step.pixel_size = 0.5;
  CHECK(problem_of(step) == "/steps/0/pixel_size");
}

TEST_CASE("the ratio of the sides is found from the view, and its uncertainty holds", "[rectify]") {
  std::mt19937 random(11);
  std::uniform_real_distribution<double> any(0, 1);
  std::normal_distribution<double> hand(0, picking_by_hand);
  int cases = 0;
  double all = 0;
  while (cases < 50) {
    const double width = 300 + 600 * any(random), height = 250 + 400 * any(random);
    const double around = (any(random) < 0.5 ? -1 : 1) * (0.45 + 0.5 * any(random));
    const double above = (any(random) < 0.5 ? -1 : 1) * (0.4 + 0.4 * any(random));
    const double away = 1.1 * width + 300 * any(random);
    const Eigen::Vector3d target(width / 2, height / 2, 0);
    const Eigen::Vector3d eye = target + away * Eigen::Vector3d(std::sin(around) * std::cos(above), std::sin(above),
                                                                -std::cos(around) * std::cos(above));
    const Camera c = camera(eye, target, 0.3 * (any(random) - 0.5), 1800 + 1200 * any(random));
    const Quad seen = corners_of(c, width, height);
    const auto clean = estimate_ratio(seen, {1500, 1000}, each_corner(picking_by_hand), 0);
    REQUIRE(clean);
    CHECK(clean->ratio == Approx(width / height).epsilon(1e-9));
    CHECK(clean->focal == Approx(c.focal).epsilon(1e-9));
    ++cases;
    int held = 0;
    constexpr int rounds = 2000;
    for (int i = 0; i < rounds; ++i) {
      Quad placed = seen;
      for (Point& p : placed) p = p + Point{hand(random), hand(random)};
      const auto found = estimate_ratio(placed, {1500, 1000}, each_corner(picking_by_hand), 0);
      if (found && std::abs(found->ratio - width / height) <= found->uncertainty) ++held;
    }
    INFO("case " << cases << ": " << 100.0 * held / rounds << " %");
    CHECK(held > 0.60 * rounds);
    CHECK(held < 0.75 * rounds);
    all += double(held) / rounds / 50;
  }
  CHECK(all == Approx(0.683).margin(0.01));
}

TEST_CASE("the ratio's uncertainty holds where the camera's centre is off by a hundredth of the width", "[rectify]") {
  std::mt19937 random(12);
  std::normal_distribution<double> hand(0, picking_by_hand), off(0, 30);
  int held = 0, all = 0;
  for (const auto& [around, above] : {std::pair{0.6, 0.5}, {-0.8, 0.6}, {0.9, -0.45}}) {
    const Eigen::Vector3d eye =
        Eigen::Vector3d(300, 200, 0) +
        900 * Eigen::Vector3d(std::sin(around) * std::cos(above), std::sin(above), -std::cos(around) * std::cos(above));
    const Quad seen = corners_of(camera(eye, {300, 200, 0}, 0.1, 2200), 600, 400);
    for (int i = 0; i < 700; ++i) {
      // What the picture's middle is taken for lies off the axis.
      const Point middle{1500 + off(random), 1000 + off(random)};
      Quad placed = seen;
      for (Point& p : placed) p = p + Point{hand(random), hand(random)};
      const auto found = estimate_ratio(placed, middle, each_corner(picking_by_hand), 30);
      REQUIRE(found);
      CHECK(found->by_centre < found->uncertainty);
      held += std::abs(found->ratio - 1.5) <= found->uncertainty;
      ++all;
    }
  }
  INFO(100.0 * held / all << " %");
  CHECK(held > 0.6 * all);
  CHECK(held < 0.75 * all);
}

TEST_CASE("a frontal view, or one turned about one side only, does not tell the ratio", "[rectify]") {
  for (const Eigen::Vector3d& eye : {Eigen::Vector3d(300, 200, -1000), Eigen::Vector3d(310, 205, -1000),
                                     Eigen::Vector3d(-500, 200, -800), Eigen::Vector3d(300, 900, -800)}) {
    RectifyStep step;
    step.corners = corners_of(camera(eye, {300, 200, 0}, 0, 2000), 600, 400);
    step.shape = RectifyStep::Shape::estimated;
    CHECK(problem_of(step) == "/steps/0/corners");
  }
}

TEST_CASE("an estimate looks through the steps before: a mirrored crop tells the same ratio", "[rectify]") {
  RectifyStep step = of_sides();
  step.shape = RectifyStep::Shape::estimated;
  step.pixel_size.reset();
  Layout plain;
  const Size size = made(plain, step).size;
  Chain chain;
  chain.steps = {{CropStep{CropRectangle{100, 50, 2700, 1900}}, true, {}}, {MirrorStep{'x'}, true, {}}};
  Quad& q = step.corners;
  for (Point& p : q) p = {2700 - (p.x - 100), p.y - 50};
  q = {q[1], q[0], q[3], q[2]};
  chain.steps.push_back({step, true, {}});
  const Layout layout = lay_out(chain, photo);
  layout.require_sound();
  CHECK(std::abs(layout.result().size.width - size.width) <= 1);
  CHECK(std::abs(layout.result().size.height - size.height) <= 1);
}

TEST_CASE("a known length gives the pixel size that the sides give, and as a check changes nothing", "[rectify]") {
  const auto length = [](Point from, Point to, double value, bool scale) {
    return KnownLength{oblique().see(from.x, from.y), oblique().see(to.x, to.y), value, "mm", scale};
  };
  RectifyStep step = of_sides();
  step.pixel_size.reset();
  step.pixels = Size{1200, 800};
  Layout layout;
  const PixelSize by_sides = *made(layout, step).pixel;
  CHECK(by_sides.x == Approx(0.5));

  RectifyStep by_known = step;
  by_known.shape = RectifyStep::Shape::ratio;
  by_known.ratio = 1.5;
  by_known.known = {length({100, 100}, {220, 190}, 150, true), length({700, 30}, {700, 230}, 200, true)};
  Layout known_layout;
  CHECK(made(known_layout, by_known).pixel->x == Approx(by_sides.x).epsilon(1e-9));
  CHECK(made(known_layout, by_known).pixel->unit == "mm");

  // A scale that disagrees with the sides goes before them.
  RectifyStep longer = step;
  longer.known = {length({100, 100}, {220, 190}, 151.5, true)};
  Layout longer_layout;
  CHECK(made(longer_layout, longer).pixel->x == Approx(0.505));

  RectifyStep checked = step;
  checked.known = {length({100, 100}, {220, 190}, 15.2, false)};
  checked.known[0].unit = "cm";
  Layout checked_layout;
  const Station& same = made(checked_layout, checked);
  CHECK(same.from_source.matrix() == layout.result().from_source.matrix());
  CHECK(same.pixel == by_sides);
  const RectifyPlane plane = rectify_plane(checked, input_of_step(checked_layout, 0));
  CHECK(*known_reading(checked.known[0], plane) == Approx(15.0));

  RectifyStep nothing = step;
  nothing.known = {{{5, 5}, {5, 5}, 10, "mm", true}};
  CHECK(problem_of(nothing) == "/steps/0/known/0/points");
}

TEST_CASE("the scatter of a scale laid by hand is in a length's uncertainty", "[rectify]") {
  RectifyStep step = of_sides();
  step.shape = RectifyStep::Shape::ratio;
  step.ratio = 1.5;
  step.pixel_size.reset();
  step.picking = each_corner(0.2);
  step.known = {{oblique().see(100, 100), oblique().see(180, 160), 100, "mm", true}};
  Chain chain = rectify(step);
  chain.measurements = {length_measurement("a", 0, oblique().see(50, 350), oblique().see(550, 350), {}, "mm")};
  const Reading reading = read_at(chain, photo, lay_out(chain, photo), chain.measurements[0], 1);
  CHECK(reading.value->value == Approx(500));
  std::mt19937 random(5);
  std::normal_distribution<double> hand(0, picking_by_hand), corner(0, 0.2);
  double sum = 0, square = 0;
  constexpr int rounds = 3000;
  for (int i = 0; i < rounds; ++i) {
    Chain moved = chain;
    auto& changed = std::get<RectifyStep>(moved.steps[0].kind);
    for (Point& p : changed.corners) p = p + Point{corner(random), corner(random)};
    for (Point* p : {&changed.known[0].from, &changed.known[0].to, &moved.measurements[0].points[0],
                     &moved.measurements[0].points[1]})
      *p = *p + Point{hand(random), hand(random)};
    const Layout layout = lay_out(moved, photo);
    const Carried a = carry(layout, moved.measurements[0].points[0], 0, 1),
                  b = carry(layout, moved.measurements[0].points[1], 0, 1);
    const double length = length_between(a.point, b.point, layout.result().pixel).value;
    sum += length;
    square += length * length;
  }
  const double scatter = std::sqrt(square / rounds - sum / rounds * (sum / rounds));
  CHECK(*reading.uncertainty == Approx(scatter).epsilon(0.06));
}

TEST_CASE("a margin shows more of the plane, in its units", "[rectify]") {
  RectifyStep step = of_sides();
  step.extent = RectifyStep::Extent::margin;
  step.margin = 25;
  Layout layout;
  CHECK(made(layout, step).size == Size{1300, 900});
  const Point p = on_result(step, oblique().see(0, 0));
  CHECK(p.x == Approx(50));
  CHECK(p.y == Approx(50));
}

TEST_CASE("the whole view ends where it is magnified eight times as much as the rectangle's middle", "[rectify]") {
  RectifyStep step = of_sides();
  step.extent = RectifyStep::Extent::whole;
  Layout layout;
  const Station& out = made(layout, step);
  // Slow: every tenth pixel of the source, its magnification from a small triangle.
  const Map map = map_between(layout, 0, 1);
  const auto magnified = [&](Point p) -> std::optional<double> {
    const auto a = map.forward(p), b = map.forward(p + Point{0.01, 0}), c = map.forward(p + Point{0, 0.01});
    if (!a || !b || !c) return std::nullopt;
    return std::sqrt(std::abs(cross(*a, *b, *c))) / 0.01;
  };
  const double middle = *magnified(oblique().see(300, 200));
  double left = 1e9, top = 1e9, right = -1e9, bottom = -1e9;
  for (int y = 0; y <= 2000; y += 4)
    for (int x = 0; x <= 3000; x += 4) {
      const auto m = magnified({double(x), double(y)});
      if (!m || *m > 8 * middle) continue;
      const Point p = *map.forward({double(x), double(y)});
      left = std::min(left, p.x);
      top = std::min(top, p.y);
      right = std::max(right, p.x);
      bottom = std::max(bottom, p.y);
    }
  // The grid's last point may lie up to 4 px of the source before the limit, which is 32 times as much here.
  const double slack = 40 * middle * 4;
  CHECK(std::abs(left) < slack);
  CHECK(std::abs(top) < slack);
  CHECK(std::abs(right - out.size.width) < slack);
  CHECK(std::abs(bottom - out.size.height) < slack);
  CHECK(left > -1.5);
  CHECK(top > -1.5);
  CHECK(right < out.size.width + 1.5);
  CHECK(bottom < out.size.height + 1.5);
  CHECK(out.size.width > 1200);
}

TEST_CASE("a size in pixels is exact and stretches where it must", "[rectify]") {
  RectifyStep step = of_sides();
  step.pixel_size.reset();
  step.pixels = Size{640, 480};
  Layout layout;
  const Station& out = made(layout, step);
  CHECK(out.size == Size{640, 480});
  CHECK(out.pixel->x == Approx(600.0 / 640));
  CHECK(out.pixel->y == Approx(400.0 / 480));
}

TEST_CASE("what is not allowed is not corrected", "[rectify]") {
  RectifyStep step = of_sides();
  const Point middle = oblique().see(300, 200);
  const auto jacobian = [&](const RectifyStep& with) {
    const Layout layout = lay_out(rectify(with), photo);
    layout.require_sound();
    return *map_between(layout, 0, 1).jacobian(middle);
  };
  const Matrix2 full = jacobian(step);
  SECTION("without perspective parallels stay parallel, and the middle is as it was") {
    step.allow.perspective = false;
    const Layout layout = lay_out(rectify(step), photo);
    const Matrix3 m = map_between(layout, 0, 1).matrix();
    CHECK(std::abs(m(2, 0) / m(2, 2)) < 1e-12);
    CHECK((jacobian(step) - full).norm() < 1e-9 * full.norm());
    CHECK_FALSE(layout.result().pixel);
    CHECK(on_result(step, middle).x == Approx(600));
  }
  SECTION("without skew and perspective angles keep") {
    step.allow.skew = step.allow.perspective = false;
    const Matrix2 j = jacobian(step);
    CHECK(j(0, 0) == Approx(j(1, 1)));
    CHECK(j(0, 1) == Approx(-j(1, 0)));
    CHECK(j.determinant() == Approx(full.determinant()));
  }
  SECTION("without turn what runs across runs across") {
    step.allow.turn = false;
    const Matrix2 j = jacobian(step);
    CHECK(std::abs(j(1, 0)) < 1e-9);
    CHECK(j.determinant() == Approx(full.determinant()));
  }
  SECTION("without scale a pixel of the middle stays a pixel") {
    step.allow.scale = false;
    CHECK(problem_of(step) == "/steps/0/allow");
    step.pixel_size.reset();
    CHECK(jacobian(step).determinant() == Approx(1));
    const Layout layout = lay_out(rectify(step), photo);
    CHECK(layout.result().pixel->x == Approx(std::sqrt(0.25 * full.determinant())).epsilon(0.001));
  }
  SECTION("without shift the middle and the frame stay") {
    step.allow.shift = false;
    const Layout layout = lay_out(rectify(step), photo);
    CHECK(layout.result().size == photo.size);
    CHECK(distance(on_result(step, middle), middle) < 1e-6);
    CHECK((jacobian(step) - full).norm() < 1e-9 * full.norm());
  }
}

TEST_CASE("every way of rectifying is written and read back", "[rectify][text]") {
  RectifyStep step = of_sides();
  const auto round_trip = [](const RectifyStep& given) {
    const Chain chain = parse_chain(write_chain(rectify(given)));
    return std::get<RectifyStep>(chain.steps.at(0).kind);
  };
  step.known = {{{1, 2}, {30, 40.5}, 12.5, "cm", true}, {{1, 2}, {3, 4}, 1, "in", false}};
  step.extent = RectifyStep::Extent::margin;
  step.margin = 12.5;
  step.allow = {true, true, false, true, false};
  step.picking = each_corner(0.04);
  CHECK(round_trip(step) == step);
  step.extent = RectifyStep::Extent::whole;
  step.margin = 0;
  step.pixel_size.reset();
  step.pixels = Size{300, 200};
  CHECK(round_trip(step) == step);
  RectifyStep other;
  other.corners = step.corners;
  other.shape = RectifyStep::Shape::ratio;
  other.ratio = 0.7;
  CHECK(round_trip(other) == other);
  other.ratio = 1;
  other.shape = RectifyStep::Shape::estimated;
  CHECK(round_trip(other) == other);
}

TEST_CASE("wrong ways of rectifying are refused by their path", "[rectify][text]") {
  const std::string corners = R"("corners":[[0,0],[100,5],[95,80],[3,70]])";
  const std::pair<const char*, const char*> rows[] = {
      {R"("width":3,"height":2)", "/steps/0/unit"},
      {R"("ratio":2,"width":3,"height":2,"unit":"mm")", "/steps/0/ratio"},
      {R"("ratio":0)", "/steps/0/ratio"},
      {R"("ratio":2,"pixels":[3.5,2])", "/steps/0/pixels/0"},
      {R"("ratio":2,"pixels":[3])", "/steps/0/pixels"},
      {R"("ratio":2,"pixel_size":1,"pixels":[3,3])", "/steps/0/pixels"},
      {R"("ratio":2,"extent":"all")", "/steps/0/extent"},
      {R"("ratio":2,"extent":{"margin":-1})", "/steps/0/extent/margin"},
      {R"("ratio":2,"extent":{"border":1})", "/steps/0/extent/border"},
      {R"("ratio":2,"allow":[])", "/steps/0/allow"},
      {R"("ratio":2,"allow":["turn","bend"])", "/steps/0/allow/1"},
      {R"("ratio":2,"known":[{"points":[[1,1]],"length":3,"unit":"mm"}])", "/steps/0/known/0/points"},
      {R"("ratio":2,"known":[{"points":[[1,1],[2,2]],"length":0,"unit":"mm"}])", "/steps/0/known/0/length"},
      {R"("ratio":2,"known":[{"points":[[1,1],[2,2]],"length":3}])", "/steps/0/known/0/unit"},
      {R"("ratio":2,"picking":0)", "/steps/0/picking"},
  };
  for (const auto& [keys, place] : rows) {
    INFO(keys);
    try {
      parse_chain(std::string(R"({"fexel":1,"steps":[{"step":"rectify",)") + corners + "," + keys + "}]}");
      FAIL("it was accepted");
    } catch (const Error& error) {
      CHECK(error.where() == place);
    }
  }
}

TEST_CASE("the map of picking errors predicts the movement seen when corners are moved by a pixel", "[rectify][cost]") {
  const Chain chain = rectify(of_sides());
  const Layout layout = lay_out(chain, photo);
  const auto cost = PickingUncertainty::of(chain, photo, layout, 1);
  REQUIRE(cost);
  std::mt19937 random(9);
  std::normal_distribution<double> hand(0, 1);
  const Point places[] = {{20, 20}, {600, 400}, {1180, 790}, {300, 700}, {1100, 60}};
  double square[5] = {};
  constexpr int rounds = 3000;
  for (int i = 0; i < rounds; ++i) {
    RectifyStep moved = of_sides();
    for (Point& p : moved.corners) p = p + Point{hand(random), hand(random)};
    const Map to_moved = map_between(lay_out(rectify(moved), photo), 0, 1);
    for (int k = 0; k < 5; ++k) {
      const auto source = map_between(layout, 1, 0).forward(places[k]);
      square[k] += std::pow(distance(*to_moved.forward(*source), places[k]), 2);
    }
  }
  for (int k = 0; k < 5; ++k) CHECK(cost->movement(places[k]) == Approx(std::sqrt(square[k] / rounds)).epsilon(0.05));
  CHECK_FALSE(PickingUncertainty::of(chain, photo, layout, 0));
}

TEST_CASE("the camera over the plane is found, and says how a thing off the plane reads", "[rectify][cost]") {
  const Chain chain = rectify(of_sides());
  const Layout layout = lay_out(chain, photo);
  const auto camera = plane_camera(chain, layout, 1);
  REQUIRE(camera);
  CHECK(camera->height == Approx(900).epsilon(1e-6));
  CHECK(camera->focal == Approx(2600).epsilon(1e-6));
  CHECK(camera->foot.x == Approx(-250 / 0.5).margin(1e-3));
  CHECK(camera->foot.y == Approx(700 / 0.5).margin(1e-3));
  // A bar of 80 mm that stands 15 mm off the plane, as the pinhole sees it.
  const Point a = on_result(of_sides(), oblique().see(200, 100, -15)),
              b = on_result(of_sides(), oblique().see(280, 100, -15));
  CHECK(distance(a, b) * 0.5 / 80 - 1 == Approx(camera->reads_longer(15)).epsilon(1e-6));
  const Point foot = camera->foot, on_plane = {200 / 0.5, 100 / 0.5};
  CHECK(distance(a, foot) / distance(on_plane, foot) - 1 == Approx(camera->reads_longer(15)).epsilon(1e-6));
  RectifyStep frontal;
  frontal.corners = {Point{500, 400}, Point{1700, 400}, Point{1700, 1200}, Point{500, 1200}};
  const Chain front = rectify(frontal);
  CHECK_FALSE(plane_camera(front, lay_out(front, photo), 1));
}

TEST_CASE("the source pixels behind a result pixel are those of its outline", "[rectify][cost]") {
  const Chain chain = rectify(of_sides());
  const Layout layout = lay_out(chain, photo);
  const Map back = map_between(layout, 1, 0);
  for (const Point p : {Point{10, 10}, Point{700, 300}, Point{1190, 790}}) {
    Point q[4];
    for (int k = 0; k < 4; ++k) q[k] = *back.forward(p + Point{k == 1 || k == 2 ? 0.5 : -0.5, k > 1 ? 0.5 : -0.5});
    const double area = (cross(q[0], q[1], q[2]) + cross(q[0], q[2], q[3])) / 2;
    CHECK(*source_pixels(layout, 1, p) == Approx(area).epsilon(0.001));
  }
}
