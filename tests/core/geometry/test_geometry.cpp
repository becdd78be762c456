#include <catch2/catch.hpp>
#include <random>

#include "base/error.h"
#include "geometry/clip.h"
#include "geometry/lens.h"
#include "geometry/quad.h"
#include "geometry/ring.h"

using namespace fexel;

TEST_CASE("a quarter turn goes counter-clockwise on the screen and starts at the origin", "[geometry]") {
  const Size size{40, 30};
  // The top right corner comes to the top left.
  const Map map(quarter_turn(size, 1));
  CHECK(distance(*map.forward({40, 0}), {0, 0}) < 1e-12);
  CHECK(distance(*map.forward({0, 0}), {0, 40}) < 1e-12);
  const Map back(quarter_turn({30, 40}, -1));
  CHECK(distance(*back.forward(*map.forward({12.5, 7.25})), {12.5, 7.25}) < 1e-12);
  CHECK(quarter_turn(size, 5) == quarter_turn(size, 1));
  CHECK(quarter_turn(size, -2) == quarter_turn(size, 2));
}

TEST_CASE("four corners of the unit square land on the quad and points come back", "[geometry]") {
  const Quad quad{Point{412.5, 300}, Point{1890.2, 355.1}, Point{1844, 1420.7}, Point{380.3, 1290.9}};
  const Map map(unit_square_to_quad(quad));
  const Point unit[] = {{0, 0}, {1, 0}, {1, 1}, {0, 1}};
  for (std::size_t i = 0; i < 4; ++i) CHECK(distance(*map.forward(unit[i]), quad[i]) < 1e-9);
  std::mt19937 random(3);
  std::uniform_real_distribution<double> at(0, 1);
  for (int i = 0; i < 100; ++i) {
    const Point p{at(random), at(random)};
    CHECK(distance(*map.backward(*map.forward(p)), p) < 1e-12);
  }
}

TEST_CASE("the Jacobian is the limit of differences", "[geometry]") {
  Matrix3 m;
  m << 1.2, -0.3, 40, 0.25, 0.9, -12, 3e-4, -2e-4, 1;
  const Map map(m);
  const Point p{310, 220};
  const auto j = map.jacobian(p);
  REQUIRE(j);
  constexpr double h = 1e-4;
  const Point right = *map.forward({p.x + h, p.y}), left = *map.forward({p.x - h, p.y});
  const Point below = *map.forward({p.x, p.y + h}), above = *map.forward({p.x, p.y - h});
  CHECK((*j)(0, 0) == Approx((right.x - left.x) / (2 * h)).epsilon(1e-7));
  CHECK((*j)(1, 0) == Approx((right.y - left.y) / (2 * h)).epsilon(1e-7));
  CHECK((*j)(0, 1) == Approx((below.x - above.x) / (2 * h)).epsilon(1e-7));
  CHECK((*j)(1, 1) == Approx((below.y - above.y) / (2 * h)).epsilon(1e-7));
}

TEST_CASE("a point behind the horizon has no image", "[geometry]") {
  Matrix3 m;
  m << 1, 0, 0, 0, 1, 0, -0.01, 0, 1;
  const Map map(m);
  CHECK(map.forward({99, 0}));
  CHECK_FALSE(map.forward({100, 0}));
  CHECK_FALSE(map.forward({150, 0}));
}

TEST_CASE("a map that cannot be undone is refused", "[geometry]") {
  Matrix3 flat;
  flat << 1, 2, 0, 2, 4, 0, 0, 0, 1;
  CHECK_THROWS_AS(Map(flat), Error);
  Matrix3 endless = Matrix3::Identity();
  endless(0, 2) = std::numeric_limits<double>::infinity();
  CHECK_THROWS_AS(Map(endless), Error);
}

TEST_CASE("singular values agree with their definition", "[geometry]") {
  std::mt19937 random(5);
  std::uniform_real_distribution<double> at(-2, 2);
  for (int i = 0; i < 50; ++i) {
    Matrix2 m;
    m << at(random), at(random), at(random), at(random);
    const auto s = singular_values(m);
    CHECK(s.large * s.small == Approx(std::abs(m(0, 0) * m(1, 1) - m(0, 1) * m(1, 0))).margin(1e-12));
    CHECK(s.large * s.large + s.small * s.small == Approx(m.squaredNorm()));
    CHECK(s.large >= s.small);
  }
}

TEST_CASE("what is wrong with four corners is named", "[geometry]") {
  using Kind = QuadProblem::Kind;
  const Point a{100, 100}, b{500, 120}, c{480, 400}, d{90, 380};
  CHECK_FALSE(check_quad({a, b, c, d}));
  CHECK(check_quad({a, c, b, d})->kind == Kind::crossed);
  CHECK(check_quad({a, d, c, b})->kind == Kind::mirrored);
  CHECK(check_quad({a, b, b, d})->kind == Kind::same_point);
  CHECK(check_quad({a, b, c, Point{a.x + 1e-4, a.y}})->kind == Kind::same_point);
  CHECK(check_quad({Point{0, 0}, Point{100, 0}, Point{200, 0}, Point{0, 100}})->kind == Kind::collinear);
  CHECK(check_quad({a, b, Point{250, 200}, d})->kind == Kind::concave);
  CHECK(check_quad({a, b, Point{NAN, 200}, d})->kind == Kind::not_finite);
  CHECK(check_quad({a, b, b, d})->message.find("2 and 3") != std::string::npos);
}

TEST_CASE("corners in any order are put in order", "[geometry]") {
  const Quad good{Point{100, 100}, Point{500, 120}, Point{480, 400}, Point{90, 380}};
  std::array<std::size_t, 4> order{0, 1, 2, 3};
  do {
    const Quad mixed{good[order[0]], good[order[1]], good[order[2]], good[order[3]]};
    CHECK(in_order(mixed) == good);
  } while (std::next_permutation(order.begin(), order.end()));
}

TEST_CASE("a clip seen through a map holds just the points whose origins it holds", "[geometry]") {
  Clip clip;
  clip.keep_inside({300, 200});
  Matrix3 m;
  m << 1.1, -0.4, 60, 0.3, 0.8, 15, 4e-4, 1e-3, 1;
  const Map map(m);
  const Clip seen = clip.through(map);
  int different = 0;
  for (int y = -60; y < 260; y += 3) {
    const auto span = seen.row(y + 0.5, -100, 500);
    for (int x = -100; x < 500; x += 1) {
      const auto origin = map.backward({x + 0.5, y + 0.5});
      const bool inside = origin && origin->x >= 0 && origin->x <= 300 && origin->y >= 0 && origin->y <= 200;
      different += inside != (x >= span.begin && x < span.end);
      different += inside != seen.contains({x + 0.5, y + 0.5});
    }
  }
  CHECK(different == 0);
}

TEST_CASE("a clip holds a part when it holds all its pixels", "[geometry]") {
  Clip clip;
  clip.keep_inside({300, 200});
  Matrix3 m;
  m << 1.1, -0.4, 60, 0.3, 0.8, 15, 4e-4, 1e-3, 1;
  const Clip seen = clip.through(Map(m));
  std::mt19937 random(5);
  std::uniform_int_distribution<int> place(-20, 260), side(1, 90);
  int held = 0;
  for (int round = 0; round < 400; ++round) {
    const Region part{place(random), place(random), side(random), side(random)};
    bool all = true;
    for (int y = part.y; y < part.y + part.height; ++y) {
      const auto span = seen.row(y + 0.5, part.x, part.x + part.width);
      all = all && span.begin == part.x && span.end == part.x + part.width;
    }
    CHECK(seen.holds(part) == all);
    held += all;
  }
  CHECK(held > 20);
  // Behind a curve it is not known without a look at each pixel.
  CHECK_FALSE(clip.through(Map(std::make_shared<const Lens>(Lens::Terms{-0.1, 0, 0, 0, 0}, Point{150, 100}, 300.0)))
                  .holds({140, 90, 4, 4}));
}

namespace {

const Lens barrel({-0.12, 0.02, -0.001, 0.0008, -0.0005}, {330, 205}, 620);
const RingShape rim{{330, 205}, 80, 190, 0.7, 5.0, true, {700, 110}};

/// A chain of planar maps with a lens and a ring in between, and the same once more, point by point.
Map composed(std::shared_ptr<const Curve> first, std::shared_ptr<const Curve> second) {
  Matrix3 tilted;
  tilted << 1.05, -0.02, 3, 0.04, 0.97, -5, 2e-5, -3e-5, 1;
  return Map(second).inverse().after(Map(tilted).after(Map(first).inverse().after(Map(translation(4, -3)))));
}

}  // namespace

TEST_CASE("a lens is as its formula says, and comes back to a millionth of a pixel", "[geometry]") {
  std::mt19937 random(5);
  std::uniform_real_distribution<double> x(0, 660), y(0, 410);
  for (int i = 0; i < 300; ++i) {
    const Point p{x(random), y(random)};
    const double u = (p.x - 330) / 620, v = (p.y - 205) / 620, s = u * u + v * v;
    const double radial = 1 - 0.12 * s + 0.02 * s * s - 0.001 * s * s * s;
    const Point expected{330 + 620 * (u * radial + 2 * 0.0008 * u * v - 0.0005 * (s + 2 * u * u)),
                         205 + 620 * (v * radial + 0.0008 * (s + 2 * v * v) + 2 * -0.0005 * u * v)};
    CHECK(distance(*barrel.forward(p), expected) < 1e-9);
    CHECK(distance(*barrel.backward(*barrel.forward(p)), p) < 1e-6);
    const auto j = barrel.jacobian(p);
    REQUIRE(j);
    constexpr double step = 1e-4;
    for (int axis = 0; axis < 2; ++axis) {
      const Point off = axis == 0 ? Point{step, 0} : Point{0, step};
      const Point slope = 0.5 / step * (*barrel.forward(p + off) - *barrel.forward(p - off));
      CHECK((*j)(0, axis) == Approx(slope.x).margin(1e-7));
      CHECK((*j)(1, axis) == Approx(slope.y).margin(1e-7));
    }
  }
}

TEST_CASE("a lens that turns back is not defined from there on, and nothing leads beyond", "[geometry]") {
  const Lens strong({-0.3, 0, 0, 0, 0}, {0, 0}, 100);
  // d/dr (r - 0.3 r^3) is zero at r = 1 / sqrt(0.9).
  CHECK(strong.fold() == Approx(100 / std::sqrt(0.9)).epsilon(1e-9));
  CHECK(strong.forward({105, 0}));
  CHECK_FALSE(strong.forward({106, 0}));
  const double farthest = *std::optional(100 * (1 / std::sqrt(0.9)) * (2.0 / 3));
  CHECK(strong.backward({farthest - 0.01, 0}));
  CHECK_FALSE(strong.backward({farthest + 0.01, 0}));
  CHECK(Lens({0.2, 0, 0, 0, 0}, {0, 0}, 100).fold() > 1e9);
}

TEST_CASE("a ring is laid out along its way, row 0 on the outer circle", "[geometry]") {
  const Ring ring({{100, 100}, 40, 80, 0, 2 * M_PI, false, {360, 40}});
  CHECK(distance(*ring.forward({0, 0}), {180, 100}) < 1e-9);
  CHECK(distance(*ring.forward({90, 0}), {100, 20}) < 1e-9);  // counter-clockwise on the screen: up
  CHECK(distance(*ring.forward({180, 40}), {60, 100}) < 1e-9);
  const Ring back({{100, 100}, 40, 80, M_PI / 2, M_PI, true, {180, 40}});
  CHECK(distance(*back.forward({0, 0}), {100, 20}) < 1e-9);
  CHECK(distance(*back.forward({90, 0}), {180, 100}) < 1e-9);
  for (const Ring& each : {ring, back, Ring(rim)})
    for (double u = 5; u < 170; u += 13)
      for (double v = 1; v < 40; v += 7) {
        CHECK(distance(*each.backward(*each.forward({u, v})), {u, v}) < 1e-9);
        const auto j = each.jacobian({u, v});
        const Point along = 5000.0 * (*each.forward({u + 1e-4, v}) - *each.forward({u - 1e-4, v}));
        const Point down = 5000.0 * (*each.forward({u, v + 1e-4}) - *each.forward({u, v - 1e-4}));
        CHECK(distance({(*j)(0, 0), (*j)(1, 0)}, along) < 1e-6);
        CHECK(distance({(*j)(0, 1), (*j)(1, 1)}, down) < 1e-6);
      }
  CHECK_FALSE(ring.backward({100, 100}));
}

TEST_CASE("maps with curves compose, turn round and know their Jacobian", "[geometry]") {
  const auto lens = std::make_shared<const Lens>(barrel);
  const auto ring = std::make_shared<const Ring>(rim);
  const Map map = composed(lens, ring);
  CHECK_FALSE(map.planar());
  Matrix3 tilted;
  tilted << 1.05, -0.02, 3, 0.04, 0.97, -5, 2e-5, -3e-5, 1;
  std::mt19937 random(6);
  std::uniform_real_distribution<double> angle(0, 6), radius(90, 180);
  for (int i = 0; i < 100; ++i) {
    const double a = angle(random), r = radius(random);
    const Point p{330 + r * std::cos(a), 205 - r * std::sin(a)};
    const Point by_hand = *ring->backward(*Map::apply(tilted, *lens->backward(p + Point{4, -3})));
    CHECK(distance(*map.forward(p), by_hand) < 1e-9);
    CHECK(distance(*map.backward(by_hand), p) < 1e-6);
    CHECK(distance(*map.inverse().forward(by_hand), p) < 1e-6);
    const Matrix2 j = *map.jacobian(p);
    if (std::abs(by_hand.x - 350) > 340) continue;  // at the seam differences jump
    const Point along = 5000.0 * (*map.forward(p + Point{1e-4, 0}) - *map.forward(p - Point{1e-4, 0}));
    CHECK(distance({j(0, 0), j(1, 0)}, along) < 1e-4);
  }
  CHECK(map.inverse().after(map).planar());
  CHECK(map == composed(lens, ring));
  CHECK_FALSE(map == composed(lens, std::make_shared<const Ring>(rim)));
}

TEST_CASE("a clip goes through curves and keeps what was inside", "[geometry]") {
  const auto lens = std::make_shared<const Lens>(barrel);
  const Map undo = Map(lens).inverse();
  Clip clip;
  clip.keep_inside({660, 410});
  Clip seen = clip.through(undo).through(Map(translation(7, 9)));
  seen.keep_inside({600, 400});
  CHECK_FALSE(seen.convex());
  std::mt19937 random(8);
  std::uniform_real_distribution<double> x(-40, 700), y(-40, 450);
  for (int i = 0; i < 2000; ++i) {
    const Point p{x(random), y(random)};
    const auto there = lens->forward(p - Point{7, 9});
    const bool inside = p.x >= 0 && p.x <= 600 && p.y >= 0 && p.y <= 400 && there && there->x >= 0 && there->x <= 660 &&
                        there->y >= 0 && there->y <= 410;
    CHECK(seen.contains(p) == inside);
  }
  for (const Point p : seen.corners({600, 400})) {
    const auto there = lens->forward(p - Point{7, 9});
    REQUIRE(there);
    const double away = std::min({p.x, p.y, 600 - p.x, 400 - p.y, there->x, there->y, 660 - there->x, 410 - there->y});
    CHECK(std::abs(away) < 1e-5);
  }
}
