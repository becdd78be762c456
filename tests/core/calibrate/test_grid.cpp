#include <catch2/catch.hpp>
#include <random>
#include <set>

#include "base/error.h"
#include "calibrate/grid_target.h"
#include "tests/grid_scene.h"
#include "tests/support.h"

using namespace fexel;
using namespace fexel::test;

namespace {

GridPattern pattern_of(Print print) {
  return print == Print::checkerboard ? GridPattern::checkerboard
         : print == Print::dots       ? GridPattern::dots
                                      : GridPattern::lines;
}

/// A camera that sees a board of 9 x 7 nodes whole, at any tilt.
GridCamera any_camera(std::mt19937& random, double most_tilt, double most_k1) {
  std::uniform_real_distribution<double> any(0, 1);
  GridCamera camera;
  camera.k1 = most_k1 * (2 * any(random) - 1);
  camera.focal = 500 + 400 * any(random);
  camera.cx += 12 * (2 * any(random) - 1);
  camera.cy += 12 * (2 * any(random) - 1);
  const double step = 30 + 15 * any(random);  // pixels from node to node, square on
  camera.pose(most_tilt * any(random), 360 * any(random), 40 * (any(random) - 0.5), {0, 0, 0});
  camera.place = Eigen::Vector3d(0, 0, camera.focal / step) - camera.turn.col(0) * 4 - camera.turn.col(1) * 3;
  return camera;
}

/// The number of the true node that is nearest to a place.
std::pair<int, int> true_node(const GridCamera& camera, const GridPrint& print, Point at) {
  std::pair<int, int> best;
  double near = 1e300;
  for (int j = -1; j <= print.rows; ++j)
    for (int i = -1; i <= print.columns; ++i)
      if (const double d = distance(camera.seen(i, j), at); d < near) {
        near = d;
        best = {i, j};
      }
  return best;
}

GridTarget found_in(const Image& image) {
  return find_grid_target(image, {0, 0, image.width(), image.height()}, {});
}
std::string refusal_of(const Image& image) {
  try {
    const GridTarget found = found_in(image);
    return std::string("found ") + name_of(found.pattern) + " of " + std::to_string(found.nodes.size());
  } catch (const Error& error) {
    return error.message();
  }
}

/// How far points lie off the straight line that fits them best, squared, summed.
double off_a_line(const std::vector<Point>& points) {
  Point middle;
  for (const Point p : points) middle = middle + (1.0 / static_cast<double>(points.size())) * p;
  double xx = 0, xy = 0, yy = 0;
  for (const Point p : points) {
    xx += (p.x - middle.x) * (p.x - middle.x);
    xy += (p.x - middle.x) * (p.y - middle.y);
    yy += (p.y - middle.y) * (p.y - middle.y);
  }
  return (xx + yy) / 2 - std::hypot((xx - yy) / 2, xy);
}

}  // namespace

TEST_CASE("nodes of grids lie within 0.03 px, up to 50 degrees of tilt and k1 of 0.3, and lines undone are straight",
          "[grid][long]") {
  std::mt19937 random(11);
  std::uniform_real_distribution<double> any(0, 1);
  constexpr int rounds = 18;
  int refused = 0;
  double straight = 0;
  int on_lines = 0;
  for (int round = 0; round < rounds; ++round) {
    GridPrint print;
    print.print = static_cast<Print>(round % 3);
    print.share = print.print == Print::dots ? 0.3 + 0.35 * any(random) : 0.08 + 0.12 * any(random);
    // A tenth of the dots is covered.
    print.hidden = [&](int i, int j) { return (7 * i + 13 * j + round) % 11 == 0; };
    const GridCamera camera = any_camera(random, 50, 0.3);
    const Image image = grid_picture(camera, print, {1, 2}, static_cast<unsigned>(round + 1));
    INFO("round " << round << ", k1 " << camera.k1 << ", share " << print.share);
    GridTarget found;
    try {
      found = found_in(image);
    } catch (const Error& error) {
      ++refused;
      WARN(round << ": " << error.message());
      continue;
    }
    CHECK(found.pattern == pattern_of(print.print));
    CHECK(found.nodes.size() >= 50);
    double sum = 0;
    std::set<std::pair<int, int>> offsets;
    for (const GridNode& n : found.nodes) {
      const auto [i, j] = true_node(camera, print, n.at - n.shift);
      const Point off = camera.seen(i, j) - (n.at - n.shift);
      sum += off.x * off.x + off.y * off.y;
      // Numbered alike, but for where counting begins.
      offsets.insert({i - n.column, j - n.row});
    }
    CHECK(std::sqrt(sum / static_cast<double>(found.nodes.size())) < 0.03);
    CHECK(offsets.size() == 1);
    // True nodes, with the distortion undone that was found.
    const Lens lens(found.view.terms, found.view.centre, found.view.focal);
    for (int j = 0; j < print.rows; ++j) {
      std::vector<Point> row;
      for (int i = 0; i < print.columns; ++i)
        if (const auto at = lens.backward(camera.seen(i, j))) row.push_back(*at);
      REQUIRE(row.size() == 9);
      straight += off_a_line(row);
      on_lines += 9;
    }
  }
  CHECK(refused == 0);
  CHECK(std::sqrt(straight / on_lines) < 0.05);
}

TEST_CASE("soft, noisy and faint boards, dark and light, are found as well", "[grid]") {
  std::mt19937 random(3);
  struct Row {
    Print print;
    GridLook look;
    double most;
  };
  const Row row = GENERATE(Row{Print::checkerboard, {2.5, 2}, 0.05}, Row{Print::checkerboard, {0.5, 6}, 0.08},
                           Row{Print::checkerboard, {1, 3, 120, 40, 0.5}, 0.1}, Row{Print::dots, {2, 4}, 0.08},
                           Row{Print::lines, {1, 2, 60, -140}, 0.03}, Row{Print::dots, {1, 2, 60, -140}, 0.04});
  const GridCamera camera = any_camera(random, 30, 0.1);
  GridPrint print{row.print};
  print.share = row.print == Print::dots ? 0.45 : 0.14;
  const GridTarget found = found_in(grid_picture(camera, print, row.look, 5));
  CHECK(found.pattern == pattern_of(row.print));
  CHECK(found.nodes.size() >= 45);
  double sum = 0;
  for (const GridNode& n : found.nodes) {
    const auto [i, j] = true_node(camera, print, n.at - n.shift);
    const Point off = camera.seen(i, j) - (n.at - n.shift);
    sum += off.x * off.x + off.y * off.y;
  }
  CHECK(std::sqrt(sum / static_cast<double>(found.nodes.size())) < row.most);
}

TEST_CASE("what is no grid is refused with the reason", "[grid][long]") {
  std::mt19937 random(4);
  std::normal_distribution<double> sensor(0, 3);
  const auto made = [&](const std::function<double(double, double)>& f) {
    Image image(640, 480, 1, Depth::u8);
    for (int y = 0; y < 480; ++y)
      for (int x = 0; x < 640; ++x) {
        double v = 0;
        for (int k = 0; k < 4; ++k) v += f(x + 0.25 + 0.5 * (k % 2), y + 0.25 + 0.5 * (k / 2)) / 4;
        image.row<std::uint8_t>(0, y)[x] = static_cast<std::uint8_t>(std::clamp(v + sensor(random), 0.0, 255.0));
      }
    return image;
  };
  for (int seed = 0; seed < 2; ++seed) {
    INFO(seed);
    const double size = 22 + 7 * seed;
    CHECK_THAT(refusal_of(noise(640, 480, 1, Depth::u8, static_cast<unsigned>(seed))), Catch::StartsWith("No grid"));
    CHECK_THAT(refusal_of(made([](double, double) { return 120; })), Catch::StartsWith("No grid"));
    // A ruler: lines in one direction only.
    CHECK_THAT(refusal_of(made([&](double x, double) { return std::fmod(x, size) < 4 ? 60 : 190; })),
               Catch::StartsWith("No grid"));
    // Bricks, half a brick off in every other row.
    CHECK_THAT(refusal_of(made([&](double x, double y) {
                 const int row = static_cast<int>(y / size);
                 const double along = std::fmod(x + (row % 2) * size, 2 * size);
                 return std::fmod(y, size) < 4 || along < 4 ? 190.0 : 90.0;
               })),
               Catch::StartsWith("No grid"));
    // Text: strokes at random in lines.
    std::vector<int> strokes(4000);
    for (int& s : strokes) s = static_cast<int>(random() % 7);
    CHECK_THAT(refusal_of(made([&](double x, double y) {
                 const int letter = static_cast<int>(x / 14), line = static_cast<int>(y / size);
                 const double u = std::fmod(x, 14), v = std::fmod(y, size) / size;
                 if (v > 0.6) return 220.0;
                 const int s = strokes[static_cast<std::size_t>((line * 60 + letter) % 4000)];
                 const bool ink = (s & 1 && u < 3) || (s & 2 && v < 0.15) || (s & 4 && std::abs(v - 0.3) < 0.08);
                 return ink ? 40.0 : 220.0;
               })),
               Catch::StartsWith("No grid"));
    // Dots at random.
    std::vector<Point> dots;
    for (int i = 0; i < 120; ++i) dots.push_back({double(random() % 640), double(random() % 480)});
    CHECK_THAT(refusal_of(made([&](double x, double y) {
                 return std::ranges::any_of(dots, [&](Point p) { return distance(p, {x, y}) < 6; }) ? 60.0 : 200.0;
               })),
               Catch::StartsWith("No grid"));
  }
  CHECK_THROWS_AS(find_grid_target(noise(640, 480, 1, Depth::u8), {0, 0, 20, 20}, {}), Error);
}

TEST_CASE("several views tell focal length and centre, as uncertain as they say", "[grid][long]") {
  // Nodes from the formula with normal errors: what the solver makes of them.
  std::mt19937 random(21);
  std::uniform_real_distribution<double> any(0, 1);
  std::normal_distribution<double> error(0, 0.03);
  int inside = 0, all = 0;
  constexpr int sets = 120;
  for (int set = 0; set < sets; ++set) {
    GridCamera camera;
    camera.focal = 600 + 300 * any(random);
    camera.cx = 320 + 15 * (2 * any(random) - 1);
    camera.cy = 240 + 15 * (2 * any(random) - 1);
    camera.k1 = -0.25 + 0.4 * any(random);
    camera.k2 = set % 2 == 0 ? 0 : 0.08;
    std::vector<std::vector<GridNode>> views(5);
    for (std::size_t v = 0; v < views.size(); ++v) {
      camera.pose(20 + 20 * any(random), 72.0 * static_cast<double>(v) + 40 * any(random), 30 * (any(random) - 0.5),
                  {0, 0, 0});
      camera.place = Eigen::Vector3d(0.5 * any(random), 0.5 * any(random), camera.focal / 42) - camera.turn.col(0) * 4 -
                     camera.turn.col(1) * 3;
      for (int j = 0; j < 7; ++j)
        for (int i = 0; i < 9; ++i) views[v].push_back({i, j, camera.seen(i, j) + Point{error(random), error(random)}});
    }
    const LensCalibration lens = solve_lens(views, camera.size);
    CHECK(lens.rms == Approx(0.03).epsilon(0.15));
    for (const auto& [found, truth] : {std::pair(lens.focal, camera.focal), std::pair(lens.centre_x, camera.cx),
                                       std::pair(lens.centre_y, camera.cy)}) {
      ++all;
      inside += std::abs(found.value - truth) <= found.sigma;
      CHECK(std::abs(found.value - truth) < 6 * found.sigma);
    }
    REQUIRE(lens.tilts.size() == 5);
    for (const double tilt : lens.tilts) CHECK((tilt > 15 && tilt < 45));
  }
  const double share = static_cast<double>(inside) / all;
  CHECK(share > 0.60);
  CHECK(share < 0.75);
}

TEST_CASE("a lens is calibrated from pictures of a board; views that do not tell are refused", "[grid][long]") {
  GridCamera camera;
  camera.focal = 720;
  camera.cx = 331;
  camera.cy = 236;
  camera.k1 = -0.18;
  std::vector<std::vector<GridNode>> views;
  for (int v = 0; v < 4; ++v) {
    camera.pose(30, 90.0 * v + 20, 8.0 * v, {0, 0, 0});
    camera.place = Eigen::Vector3d(0, 0, camera.focal / 44) - camera.turn.col(0) * 4 - camera.turn.col(1) * 3;
    views.push_back(found_in(grid_picture(camera, {}, {1, 2}, static_cast<unsigned>(v + 1))).nodes);
  }
  const LensCalibration lens = solve_lens(views, camera.size);
  CHECK(std::abs(lens.focal.value - 720) < 4 * lens.focal.sigma);
  CHECK(std::abs(lens.centre_x.value - 331) < 4 * lens.centre_x.sigma);
  CHECK(std::abs(lens.centre_y.value - 236) < 4 * lens.centre_y.sigma);
  CHECK(std::abs(lens.terms.k1 + 0.18) < 4 * lens.sigma.k1);
  CHECK(lens.focal.sigma < 1);
  std::vector<std::vector<GridNode>> two(views.begin(), views.begin() + 2);
  CHECK_THROWS_AS(solve_lens(two, camera.size), Error);
  // The board square to the camera in every view.
  std::vector<std::vector<GridNode>> flat(4);
  std::mt19937 random(1);
  std::normal_distribution<double> error(0, 0.02);
  for (std::size_t v = 0; v < 4; ++v) {
    camera.pose(0, 0, 20.0 * static_cast<double>(v), {0, 0, 0});
    camera.place = Eigen::Vector3d(0, 0, 16 + static_cast<double>(v)) - camera.turn.col(0) * 4 - camera.turn.col(1) * 3;
    for (int j = 0; j < 7; ++j)
      for (int i = 0; i < 9; ++i) flat[v].push_back({i, j, camera.seen(i, j) + Point{error(random), error(random)}});
  }
  CHECK_THROWS_WITH(solve_lens(flat, camera.size), Catch::Contains("do not tell the focal length"));
}

TEST_CASE("a board is found in any depth, with bands and in a part of the picture alike", "[grid][long]") {
  std::mt19937 random(9);
  const GridCamera camera = any_camera(random, 25, 0.1);
  const Image grey = grid_picture(camera, {}, {1, 2}, 3);
  const std::size_t all = found_in(grey).nodes.size();
  for (const Depth depth : {Depth::u8, Depth::u16, Depth::f32})
    for (const int bands : {1, 3}) {
      Image image(640, 480, bands, depth);
      const double scale = depth == Depth::u16 ? 257 : depth == Depth::f32 ? 1 / 255.0 : 1;
      visit_depth(depth, [&](auto sample) {
        using T = decltype(sample);
        for (int band = 0; band < bands; ++band)
          for (int y = 0; y < 480; ++y)
            for (int x = 0; x < 640; ++x)
              image.row<T>(band, y)[x] = static_cast<T>(scale * grey.row<std::uint8_t>(0, y)[x]);
      });
      for (const Region part : {Region{0, 0, 640, 480}, Region{60, 40, 520, 400}}) {
        INFO(name_of(depth) << " x " << bands << ", from " << part.x);
        const GridTarget found = find_grid_target(image, part, {});
        CHECK(found.nodes.size() == all);
        for (const GridNode& n : found.nodes) {
          const auto [i, j] = true_node(camera, {}, n.at);
          CHECK(distance(camera.seen(i, j), n.at) < 0.08);
        }
      }
    }
}

TEST_CASE("how well a grid tells its corners is what it says", "[grid]") {
  std::mt19937 random(31);
  std::normal_distribution<double> error(0, 0.05);
  int inside = 0, all = 0;
  for (int round = 0; round < 100; ++round) {
    const GridCamera camera = any_camera(random, 35, round % 2 == 0 ? 0 : 0.2);
    std::vector<GridNode> nodes;
    for (int j = 0; j < 7; ++j)
      for (int i = 0; i < 9; ++i) nodes.push_back({i, j, camera.seen(i, j) + Point{error(random), error(random)}});
    const GridView view = solve_view(nodes, camera.size);
    for (const auto& [i, j] : {std::pair(0, 0), std::pair(8, 0), std::pair(8, 6), std::pair(0, 6)}) {
      const Point off = *view.seen({double(i), double(j)}) - camera.seen(i, j);
      for (const double d : {off.x, off.y}) {
        ++all;
        inside += std::abs(d) <= view.corner_sigma;
      }
    }
  }
  const double share = static_cast<double>(inside) / all;
  CHECK(share > 0.60);
  CHECK(share < 0.75);
}
