#include <catch2/catch.hpp>
#include <random>

#include "base/error.h"
#include "geometry/clip.h"
#include "geometry/quad.h"

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
