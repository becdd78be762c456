#include <catch2/catch.hpp>

#include "base/error.h"
#include "filter/fft_plans.h"
#include "motion/clean.h"
#include "motion/sequence.h"
#include "motion/window_correlation.h"
#include "tests/grain_scene.h"
#include "tests/support.h"

// Flows by the correlation of windows: what is found, how true it is, what is refused.

using namespace fexel;
using test::grain_pair;
using test::GrainScene;

namespace {

using Flow = std::function<Point(Point)>;

MotionField matched(const std::pair<Image, Image>& pair, const WindowSettings& settings,
                    const std::vector<Point>& region = {}, const Image* use = nullptr) {
  const MotionFrame a(pair.first, {}, use, {}), b(pair.second, {}, use, {});
  const int step = settings.last() / 2;
  return match_windows(a, b, window_grid(a.size(), region, step, step, settings.last()), settings, {});
}

struct Errors {
  double rms = 0, inside = 0, ratio = 0, largest = 0;
  Point mean;
  int good = 0, used = 0;
};
Errors errors_of(const std::vector<std::pair<MotionField, Flow>>& all) {
  Errors out;
  double stated = 0;
  for (const auto& [field, flow] : all)
    for (std::size_t i = 0; i < field.points.size(); ++i) {
      if (field.grid.used[i] == 0) continue;
      ++out.used;
      const MotionPoint& p = field.points[i];
      if (!p.good()) continue;
      ++out.good;
      const Point d = p.moved - flow(field.grid.at(i));
      out.mean = out.mean + d;
      out.rms += d.x * d.x + d.y * d.y;
      stated += p.sigma.x * p.sigma.x + p.sigma.y * p.sigma.y;
      out.inside += (std::abs(d.x) < p.sigma.x) + (std::abs(d.y) < p.sigma.y);
      out.largest = std::max(out.largest, std::hypot(d.x, d.y));
    }
  const double n = std::max(1, out.good);
  out.ratio = std::sqrt(out.rms / stated);
  out.rms = std::sqrt(out.rms / (2 * n));
  out.inside /= 2 * n;
  out.mean = 1 / n * out.mean;
  return out;
}

GrainScene scene_of(double grains) {
  GrainScene out;
  out.width = out.height = 320;
  out.per_pixel = grains / 1024;
  out.light = 200;
  return out;
}

}  // namespace

TEST_CASE("uniform flows are found at every part of a pixel, and as certain as is stated", "[motion][windows]") {
  const double grains = GENERATE(4.0, 8.0, 20.0);
  const int passes = GENERATE(0, 1, 2);
  CAPTURE(grains, passes);
  WindowSettings settings;
  settings.passes = passes;
  std::vector<std::pair<MotionField, Flow>> all;
  for (int k = 0; k < 8; ++k) {
    const Flow flow = [k](Point) { return Point{0.25 * k, 0.25 * k + 2.375}; };
    all.emplace_back(matched(grain_pair(scene_of(grains), flow, static_cast<unsigned>(k + 1)), settings), flow);
  }
  const Errors e = errors_of(all);
  CHECK(e.good >= (grains > 5 ? 0.98 : 0.9) * e.used);
  CHECK(e.largest < 0.6);
  CHECK(e.inside > 0.6);
  CHECK(e.inside < 0.75);
  if (passes == 1 && grains >= 8) CHECK(e.rms < 0.03);
  CHECK(e.rms < (grains < 5 ? 0.055 : 0.045));
  // Over the cycle nothing pulls one way.
  CHECK(std::abs(e.mean.x) < 0.005);
  CHECK(std::abs(e.mean.y) < 0.005);
}

TEST_CASE("parts of a pixel do not pull at what is found on deformed frames", "[motion][windows]") {
  GrainScene scene = scene_of(12);
  scene.noise = 1;
  scene.lost = 0;
  const double part = GENERATE(0.0, 0.25, 0.5, 0.75, 1.25, 1.5);
  const Flow flow = [part](Point) { return Point{part, 3 - part}; };
  std::vector<std::pair<MotionField, Flow>> all;
  for (unsigned seed = 1; seed < 4; ++seed) all.emplace_back(matched(grain_pair(scene, flow, seed), {}), flow);
  const Errors e = errors_of(all);
  CAPTURE(part);
  CHECK(std::abs(e.mean.x) < 0.005);
  CHECK(std::abs(e.mean.y) < 0.005);
}

TEST_CASE("shear, solid turns, vortices and stagnation points are followed", "[motion][windows]") {
  const Point middle{160, 160};
  const auto [name, flow] =
      GENERATE_COPY(std::pair<std::string, Flow>("shear",
                                                 [=](Point p) {
                                                   return Point{0.1 * (p.y - middle.y), 0};
                                                 }),
                    std::pair<std::string, Flow>("turn",
                                                 [=](Point p) {
                                                   return Point{0.06 * (p.y - middle.y), -0.06 * (p.x - middle.x)};
                                                 }),
                    std::pair<std::string, Flow>("vortex",
                                                 [=](Point p) {
                                                   const Point d = p - middle;
                                                   const double r2 = d.x * d.x + d.y * d.y + 1e-9;
                                                   const double c = 250 * (1 - std::exp(-r2 / 2500)) / r2;
                                                   return Point{-c * d.y, c * d.x};
                                                 }),
                    std::pair<std::string, Flow>("stagnation", [=](Point p) {
                      return Point{0.05 * (p.x - middle.x), -0.05 * (p.y - middle.y)};
                    }));
  CAPTURE(name);
  std::vector<std::pair<MotionField, Flow>> all;
  for (unsigned seed = 1; seed < 4; ++seed) all.emplace_back(matched(grain_pair(scene_of(8), flow, seed), {}), flow);
  const Errors e = errors_of(all);
  CHECK(e.good >= 0.9 * e.used);
  CHECK(e.rms < 0.06);
  CHECK(e.inside > 0.57);
}

TEST_CASE("beside a wall the flow is that at the place, and behind a mask there is no vector", "[motion][windows]") {
  GrainScene scene = scene_of(12);
  // Below the wall nothing flows; above it, faster with the distance.
  const double wall = 250;
  scene.bare = [=](Point p) { return p.y > wall; };
  const Flow flow = [=](Point p) { return Point{0.03 * (wall - p.y), 0}; };
  Image use(320, 320, 1, Depth::u8);
  for (int y = 0; y < 320; ++y)
    for (int x = 0; x < 320; ++x) use.row<std::uint8_t>(0, y)[x] = y < wall ? 255 : 0;
  std::vector<std::pair<MotionField, Flow>> all;
  int behind = 0;
  for (unsigned seed = 1; seed < 5; ++seed) {
    MotionField field = matched(grain_pair(scene, flow, seed), {}, {}, &use);
    for (std::size_t i = 0; i < field.points.size(); ++i) {
      const Point at = field.grid.at(i);
      if (at.y > wall) {
        CHECK(field.points[i].status == MotionStatus::masked);
        ++behind;
      }
      // Those whose window the wall cuts.
      if (at.y < wall - 16 || at.y > wall) field.grid.used[i] = 0;
    }
    all.emplace_back(std::move(field), flow);
  }
  CHECK(behind > 100);
  const Errors e = errors_of(all);
  CHECK(e.good > 0.8 * e.used);
  CHECK(std::abs(e.mean.x) < 0.03);
  CHECK(e.rms < 0.08);
}

TEST_CASE("places without grains never have a vector that is ok", "[motion][windows]") {
  GrainScene scene;
  scene.per_pixel = 0;
  WindowSettings settings;
  settings.sizes = GENERATE(std::vector{64, 32}, std::vector{32, 16});
  settings.robust = GENERATE(false, true);
  int used = 0;
  for (unsigned seed = 1; used < 1000; ++seed) {
    const MotionField field = matched(grain_pair(
                                          scene,
                                          [](Point) {
                                            return Point{2, 1};
                                          },
                                          seed),
                                      settings);
    used += field.used();
    CHECK(field.count(MotionStatus::ok) == 0);
  }
}

TEST_CASE("what stands still behind the flow pulls at it, and not with the background off", "[motion][windows]") {
  // Fixed spots among few grains; five pairs.
  GrainScene scene = scene_of(6);
  scene.background = [](Point p) {
    const int i = static_cast<int>(p.x / 10), j = static_cast<int>(p.y / 10);
    const double d =
        std::pow(p.x - 10 * i - 2 - (i * 7 + j * 3) % 6, 2) + std::pow(p.y - 10 * j - 2 - (i * 5 + j * 2) % 6, 2);
    return 150 * std::exp(-d / 2);
  };
  const Flow flow = [](Point) { return Point{1.1, 0.4}; };
  std::vector<std::pair<Image, Image>> pairs;
  for (unsigned seed = 1; seed < 9; ++seed) pairs.push_back(grain_pair(scene, flow, seed));
  Image middle(320, 320, 1, Depth::f32);
  for (int y = 0; y < 320; ++y)
    for (int x = 0; x < 320; ++x) {
      std::vector<float> values;
      for (const auto& [a, b] : pairs)
        for (const Image* image : {&a, &b}) values.push_back(static_cast<float>(image->row<std::uint8_t>(0, y)[x]));
      std::ranges::sort(values);
      middle.row<float>(0, y)[x] = (values[7] + values[8]) / 2;
    }
  WindowSettings settings;
  double with = 0, without = 0;
  for (const auto& [a, b] : pairs)
    for (const bool off : {false, true}) {
      const MotionFrame first(a, {}, nullptr, {}, off ? &middle : nullptr),
          second(b, {}, nullptr, {}, off ? &middle : nullptr);
      const MotionField field = match_windows(first, second, window_grid({320, 320}, {}, 16, 16, 32), settings, {});
      (off ? without : with) += mean_of(field).x / static_cast<double>(pairs.size());
    }
  CHECK(with < 1.0);
  CHECK(std::abs(without - 1.1) < 0.02);
}

TEST_CASE("correlations of all pairs find a flow that no pair shows alone", "[motion][windows]") {
  // One grain a window.
  const GrainScene scene = scene_of(1);
  const Flow flow = [](Point p) { return Point{2.2 + 0.01 * p.y, -1.3}; };
  std::vector<WindowPair> pairs;
  for (unsigned seed = 1; seed < 13; ++seed) {
    const auto [a, b] = grain_pair(scene, flow, seed);
    pairs.emplace_back(std::make_shared<const MotionFrame>(a, MotionPrepare{}, nullptr, Job{}),
                       std::make_shared<const MotionFrame>(b, MotionPrepare{}, nullptr, Job{}));
  }
  WindowSettings settings;
  settings.ensemble = true;
  const MotionGrid grid = window_grid({320, 320}, {}, 16, 16, 32);
  const MotionField alone = match_windows(*pairs[0].first, *pairs[0].second, grid, {}, {});
  const MotionField all = match_ensemble(static_cast<int>(pairs.size()),
                                         [&](int k) { return pairs[static_cast<std::size_t>(k)]; }, grid, settings, {});
  CHECK(alone.count(MotionStatus::ok) < 0.6 * alone.used());
  const Errors e = errors_of({{all, flow}});
  CHECK(e.good > 0.97 * e.used);
  CHECK(e.rms < 0.05);
  CHECK(e.inside > 0.6);
  CHECK(e.inside < 0.8);
}

TEST_CASE("a mask over one of many pairs takes nothing from the others, whichever it is", "[motion][windows]") {
  const Flow flow = [](Point) { return Point{2.2, -1.3}; };
  Image use(320, 320, 1, Depth::u8);
  for (int y = 0; y < 320; ++y)
    for (int x = 0; x < 320; ++x) use.row<std::uint8_t>(0, y)[x] = x < 160 ? 0 : 255;
  const int masked = GENERATE(0, 3, 7);
  std::vector<WindowPair> pairs;
  for (int k = 0; k < 8; ++k) {
    const auto [a, b] = grain_pair(scene_of(3), flow, static_cast<unsigned>(k + 1));
    const Image* own = k == masked ? &use : nullptr;
    pairs.emplace_back(std::make_shared<const MotionFrame>(a, MotionPrepare{}, own, Job{}),
                       std::make_shared<const MotionFrame>(b, MotionPrepare{}, own, Job{}));
  }
  WindowSettings settings;
  settings.ensemble = true;
  const auto all = [&](int count) {
    return match_ensemble(count, [&](int k) { return pairs[static_cast<std::size_t>((masked + k) % 8)]; },
                          window_grid({320, 320}, {}, 16, 16, 32), settings, {});
  };
  const Errors e = errors_of({{all(8), flow}});
  CHECK(e.good > 0.97 * e.used);
  CHECK(e.rms < 0.04);
  // Masked in all there are, it is masked.
  const MotionField alone = all(1);
  for (std::size_t i = 0; i < alone.points.size(); ++i)
    if (alone.grid.at(i).x < 155) CHECK(alone.points[i].status == MotionStatus::masked);
}

TEST_CASE("robust matching finds no less, and as true", "[motion][windows]") {
  const Flow flow = [](Point) { return Point{2.3, 1.2}; };
  const auto pair = grain_pair(scene_of(5), flow, 3);
  WindowSettings settings;
  const Errors plain = errors_of({{matched(pair, settings), flow}});
  settings.robust = true;
  const Errors robust = errors_of({{matched(pair, settings), flow}});
  CHECK(robust.good >= plain.good);
  CHECK(robust.rms < 0.06);
}

TEST_CASE("spurious vectors are found by their neighbours, and few others", "[motion][windows]") {
  const Flow flow = [](Point p) { return Point{3 + 0.02 * p.y, 0.01 * p.x}; };
  GrainScene scene = scene_of(10);
  scene.width = scene.height = 512;
  MotionField field = matched(grain_pair(scene, flow, 8), {});
  std::mt19937 random(5);
  std::uniform_real_distribution<double> flat(-8, 8);
  std::vector<char> spoilt(field.points.size(), 0);
  int all = 0, kept = 0;
  for (std::size_t i = 0; i < field.points.size(); ++i) {
    MotionPoint& p = field.points[i];
    if (!p.good()) continue;
    ++kept;
    if (random() % 20 != 0) continue;
    const Point by{flat(random), flat(random)};
    if (std::hypot(by.x, by.y) < 1) continue;
    p.moved = p.moved + by;
    spoilt[i] = 1;
    ++all;
  }
  const MotionField out = cleaned(field, {{CleanRule::Kind::neighbours, 2, {}}});
  int found = 0, wrong = 0;
  for (std::size_t i = 0; i < field.points.size(); ++i) {
    if (!field.points[i].good() || out.points[i].good()) continue;
    (spoilt[i] != 0 ? found : wrong) += 1;
  }
  REQUIRE(all > 25);
  CHECK(found >= 0.95 * all);
  CHECK(wrong <= 0.01 * kept);
}

TEST_CASE("threads change nothing, and a region finds what the whole does nearly", "[motion][windows]") {
  const Flow flow = [](Point p) { return Point{1.3 + 0.01 * p.x, 0.7}; };
  const auto pair = grain_pair(scene_of(10), flow, 2);
  use_threads(1);
  const MotionField one = matched(pair, {});
  use_threads(2);
  const MotionField two = matched(pair, {});
  use_threads(0);
  for (std::size_t i = 0; i < one.points.size(); ++i) {
    CHECK(one.points[i].moved == two.points[i].moved);
    CHECK(one.points[i].sigma == two.points[i].sigma);
  }
}

TEST_CASE("a window's covariances are those of plain loops, whole and masked", "[motion][windows]") {
  constexpr int size = 8;
  Image a = test::noise(20, 20, 3, Depth::f32), b = test::noise(20, 20, 4, Depth::f32);
  if (GENERATE(false, true)) {
    a.make_mask(true);
    for (int y = 4; y < 7; ++y) a.set_valid(6, y, false);
  }
  const FftPlans plans;
  WindowCorrelator correlator(size, plans);
  WindowPlane plane;
  REQUIRE(correlator.correlate(a, 4, 3, b, 6, 5, plane));
  const bool masked = a.has_mask();
  const auto mean = [&](const Image& from, int left, int top) {
    double sum = 0, n = 0;
    for (int y = 0; y < size; ++y)
      for (int x = 0; x < size; ++x)
        if (from.valid(left + x, top + y)) {
          sum += static_cast<double>(from.row<float>(0, top + y)[left + x]);
          ++n;
        }
    return sum / n;
  };
  const double ma = mean(a, 4, 3), mb = mean(b, 6, 5);
  for (int dy = -2; dy <= 2; ++dy)
    for (int dx = -2; dx <= 2; ++dx) {
      double sum = 0, n = 0;
      for (int y = 0; y < size; ++y)
        for (int x = 0; x < size; ++x) {
          int u = x + dx, v = y + dy;
          // Whole windows are wrapped; masked ones are not.
          const bool in = u >= 0 && v >= 0 && u < size && v < size;
          if (masked && !in) continue;
          u = (u + size) % size;
          v = (v + size) % size;
          if (!a.valid(4 + x, 3 + y)) continue;
          sum += (static_cast<double>(a.row<float>(0, 3 + y)[4 + x]) - ma) *
                 (static_cast<double>(b.row<float>(0, 5 + v)[6 + u]) - mb);
          ++n;
        }
      const double overlap = masked ? n : (size - std::abs(dx)) * (size - std::abs(dy));
      CHECK(static_cast<double>(plane.values[static_cast<std::size_t>((dy + 4) * size + dx + 4)]) ==
            Approx(sum / overlap).margin(1e-3));
    }
}

TEST_CASE("grains are counted and measured, and windows proposed that suit them", "[motion][windows]") {
  GrainScene scene = scene_of(10);
  scene.width = scene.height = 512;
  scene.light = 150;
  const double far = GENERATE(3.0, 11.0);
  const auto [a, b] = grain_pair(
      scene,
      [far](Point) {
        return Point{far, 0};
      },
      3);
  const MotionFrame first(a, {}, nullptr, {}), second(b, {}, nullptr, {});
  const GrainSigns signs = grain_signs(first, second, {}, {});
  CHECK(signs.diameter == Approx(2.8).epsilon(0.15));
  CHECK(signs.for_each == Approx(102.4).epsilon(0.3));
  CHECK(signs.largest == Approx(far).margin(0.4));
  CHECK(signs.proposed.last() >= 24);
  CHECK(signs.proposed.last() <= 40);
  CHECK(signs.proposed.sizes.front() >= 4 * far);
  GrainScene none = scene;
  none.per_pixel = 0;
  const auto [c, d] = grain_pair(
      none, [](Point) { return Point{}; }, 3);
  CHECK_THROWS_AS(grain_signs(MotionFrame(c, {}, nullptr, {}), MotionFrame(d, {}, nullptr, {}), {}, {}), Error);
}

TEST_CASE("windows that are not possible are refused with a sentence", "[motion][windows]") {
  const auto refused = [](std::vector<int> sizes, int passes, bool ensemble, const char* says) {
    WindowSettings s;
    s.sizes = std::move(sizes);
    s.passes = passes;
    s.ensemble = ensemble;
    CHECK_THROWS_WITH(check_windows(s), Catch::Contains(says));
  };
  refused({}, 1, false, "one size");
  refused({31}, 1, false, "not possible");
  refused({32, 64}, 1, false, "large to small");
  refused({1024}, 1, false, "not possible");
  refused({32}, 21, false, "passes");
  refused({32}, 0, true, "deformed");
  CHECK_THROWS_WITH(window_grid({40, 40}, {}, 16, 16, 64), Catch::Contains("no room"));
}
