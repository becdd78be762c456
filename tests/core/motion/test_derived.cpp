#include <Eigen/Dense>
#include <catch2/catch.hpp>

#include "base/error.h"
#include "base/job.h"
#include "motion/sequence.h"
#include "motion/texture.h"
#include "tests/motion_scene.h"
#include "text/reader.h"

// What is derived from fields: strain, rules, texture, noise, trials, settings.

using namespace fexel;
using test::moved_frame;
using test::Speckle;

namespace {

const test::Displacement still = [](Point) { return Point{}; };

/// A field as if it had been measured: the truth, and noise of each point.
MotionField made(const test::Displacement& moved, double noise, unsigned seed, int columns = 21, int rows = 17) {
  MotionField out;
  out.grid = {{20.5, 30.5}, 8, 6, columns, rows, std::vector<char>(static_cast<std::size_t>(columns * rows), 1)};
  std::mt19937 random(seed);
  std::normal_distribution<double> normal(0, 1);
  for (std::size_t i = 0; i < out.grid.count(); ++i) {
    MotionPoint p;
    p.moved = moved(out.grid.at(i)) + noise * Point{normal(random), normal(random)};
    constexpr double h = 1e-3;
    const Point at = out.grid.at(i), dx = 1 / (2 * h) * (moved(at + Point{h, 0}) - moved(at - Point{h, 0})),
                dy = 1 / (2 * h) * (moved(at + Point{0, h}) - moved(at - Point{0, h}));
    p.gradient << dx.x, dy.x, dx.y, dy.y;
    p.sigma = {noise, noise};
    p.status = MotionStatus::ok;
    p.reason = MotionReason::none;
    p.score = 0.99;
    out.points.push_back(p);
  }
  return out;
}

}  // namespace

TEST_CASE("strain of linear fields is that of the formulas, wherever points are missing", "[motion]") {
  Eigen::Matrix2d g;
  g << 0.012, 0.004, -0.007, -0.003;
  MotionField field = made(
      [&](Point p) {
        return Point{g(0, 0) * p.x + g(0, 1) * p.y + 3, g(1, 0) * p.x + g(1, 1) * p.y};
      },
      0, 1);
  for (std::size_t i = 0; i < field.points.size(); i += 4) field.points[i].status = MotionStatus::rejected;
  const StrainMeasure measure = GENERATE(StrainMeasure::small, StrainMeasure::green_lagrange);
  Eigen::Matrix2d e = 0.5 * (g + g.transpose());
  if (measure == StrainMeasure::green_lagrange) e += 0.5 * g.transpose() * g;
  const Eigen::SelfAdjointEigenSolver<Eigen::Matrix2d> principal(e);
  int there = 0;
  for (const auto& s : strain_of(field, {5, measure, {1, 1}}, 9, {})) {
    if (!s) continue;
    ++there;
    CHECK(s->xx == Approx(e(0, 0)).margin(1e-12));
    CHECK(s->yy == Approx(e(1, 1)).margin(1e-12));
    CHECK(s->xy == Approx(e(0, 1)).margin(1e-12));
    CHECK(s->first == Approx(principal.eigenvalues()(1)).margin(1e-12));
    CHECK(s->second == Approx(principal.eigenvalues()(0)).margin(1e-12));
    CHECK(s->shear == Approx((principal.eigenvalues()(1) - principal.eigenvalues()(0)) / 2).margin(1e-12));
    // Along the first principal direction, y up, the length grows by the first value.
    const double a = s->direction * degree;
    const Eigen::Vector2d along(std::cos(a), -std::sin(a));
    CHECK(along.dot(e * along) == Approx(s->first).margin(1e-12));
  }
  CHECK(there > 200);
  // A turn alone, counter-clockwise on the screen, is no strain of Green and Lagrange.
  const double turn = 10 * degree;
  Eigen::Matrix2d spun;
  spun << std::cos(turn) - 1, std::sin(turn), -std::sin(turn), std::cos(turn) - 1;
  const Strain none = strain_from(spun, StrainMeasure::green_lagrange);
  CHECK(std::abs(none.xx) + std::abs(none.yy) + std::abs(none.xy) < 1e-12);
  CHECK(none.rotation == Approx(10));
}

TEST_CASE("pixels that are not square count by their sides", "[motion]") {
  // Twice as wide as high: a shear of 0.01 a length, and a stretch of 0.02.
  const Point pixel{0.2, 0.1};
  const MotionField field = made([&](Point p) { return Point{0.02 * p.x + 0.01 * p.y * pixel.y / pixel.x, 0}; }, 0, 1);
  for (const auto& s : strain_of(field, {5, StrainMeasure::small, pixel}, 9, {}))
    if (s) {
      CHECK(s->xx == Approx(0.02));
      CHECK(s->xy == Approx(0.005));
      CHECK(std::abs(s->yy) < 1e-12);
    }
}

TEST_CASE("the stated uncertainty of strain is its scatter, for points apart and with holes", "[motion]") {
  const int window = GENERATE(3, 5, 7);
  const bool holes = GENERATE(false, true);
  double squares = 0, stated = 0;
  int count = 0;
  for (unsigned set = 0; set < 60; ++set) {
    MotionField field = made(still, 0.01, set + 1);
    if (holes)
      for (std::size_t i = 0; i < field.points.size(); i += 5) field.points[i].status = MotionStatus::rejected;
    // Subsets of 5 px, 8 and 6 px apart, share nothing.
    for (const auto& s : strain_of(field, {window, StrainMeasure::small, {1, 1}}, 5, {}))
      if (s) {
        squares += s->yy * s->yy;  // the rows are closer: the worse one
        stated += s->sigma * s->sigma;
        ++count;
      }
  }
  CHECK(count > 5000);
  CHECK(std::sqrt(squares / stated) == Approx(1).margin(0.06));
}

TEST_CASE("the median test finds spurious vectors, and keeps the others", "[motion]") {
  int spurious = 0, found = 0, sound = 0, alarms = 0;
  for (unsigned set = 0; set < 20; ++set) {
    MotionField field = made(
        [](Point p) {
          return Point{4 * std::sin(p.y / 60), 3 * std::cos(p.x / 70)};
        },
        0.05, set + 1, 40, 40);
    std::mt19937 random(set + 100);
    std::uniform_real_distribution<double> far(-12, 12);
    std::vector<char> wrong(field.points.size(), 0);
    for (std::size_t i = 0; i < field.points.size(); ++i)
      if (random() % 20 == 0) {
        const Point off{far(random), far(random)};
        if (std::hypot(off.x, off.y) < 1) continue;
        field.points[i].moved = field.points[i].moved + off;
        wrong[i] = 1;
      }
    const MotionField clean = cleaned(field, {{CleanRule::Kind::neighbours, 2, {}}});
    for (std::size_t i = 0; i < field.points.size(); ++i) {
      const bool taken = clean.points[i].status == MotionStatus::rejected;
      (wrong[i] ? spurious : sound) += 1;
      (wrong[i] ? found : alarms) += taken;
      if (taken) CHECK(clean.points[i].reason == MotionReason::neighbours);
    }
  }
  CHECK(found >= 0.95 * spurious);
  CHECK(alarms <= 0.01 * sound);
}

TEST_CASE("each rule takes what it says, says so, and can be taken back", "[motion]") {
  MotionField field = made([](Point p) { return Point{0.01 * p.x, 0}; }, 0.01, 3);
  field.points[5].score = 0.4;
  field.points[6].sigma = {0.5, 0.1};
  field.points[7].back = 0.6;
  field.points[8].glare = 0.3;
  field.points[9].predicted = 0.4;
  field.points[10].moved = {40, 0};
  using Kind = CleanRule::Kind;
  const std::vector<std::pair<CleanRule, std::size_t>> rules{
      {{Kind::correlation, 0.6, {}}, 5},
      {{Kind::noise, 0.2, {}}, 6},
      {{Kind::back, 0.2, {}}, 7},
      {{Kind::glare, 0.1, {}}, 8},
      {{Kind::texture, 0.2, {}}, 9},
      {{Kind::deviation, 5, {}}, 10},
      {{Kind::limits, 0, {{-1, -1}, {6, -1}, {6, 1}, {-1, 1}}}, 10}};
  for (const auto& [rule, point] : rules) {
    std::vector<CleanEffect> effects;
    const MotionField out = cleaned(field, {rule}, &effects);
    REQUIRE(effects.size() == 1);
    CHECK(effects[0].taken == 1);
    CHECK(out.points[point].status == MotionStatus::rejected);
    // Nothing is deleted.
    CHECK(out.points[point].moved == field.points[point].moved);
    const Point moves = mean_of(out) - mean_of(field);
    CHECK(distance(moves, effects[0].mean_moves) < 1e-12);
  }
  // Proposed limits keep nearly all of sound points.
  const MotionField sound = made([](Point p) { return Point{0.01 * p.x, 0}; }, 0.01, 4);
  for (int k = 0; k < static_cast<int>(clean_words().size()); ++k) {
    const CleanRule rule = proposed_rule(sound, static_cast<Kind>(k));
    std::vector<CleanEffect> effects;
    cleaned(sound, {rule}, &effects);
    CAPTURE(name_of(rule.kind));
    CHECK(effects[0].taken <= 0.02 * static_cast<double>(sound.points.size()));
  }
}

TEST_CASE("holes are filled with the plane around them, and stay marked; masked ones stay", "[motion]") {
  const test::Displacement moved = [](Point p) { return Point{0.02 * p.x - 0.01 * p.y, 1 + 0.03 * p.y}; };
  MotionField field = made(moved, 0, 1);
  for (int r = 5; r < 9; ++r)
    for (int c = 6; c < 11; ++c) field.points[static_cast<std::size_t>(r * 21 + c)].status = MotionStatus::rejected;
  field.points[0].status = MotionStatus::masked;
  const MotionField full = with_holes_filled(field);
  for (std::size_t i = 0; i < field.points.size(); ++i) {
    if (field.points[i].status == MotionStatus::rejected) {
      CHECK(full.points[i].status == MotionStatus::filled);
      CHECK(distance(full.points[i].moved, moved(field.grid.at(i))) < 1e-9);
    } else {
      CHECK(full.points[i].status == field.points[i].status);
    }
  }
}

TEST_CASE("the predicted uncertainty is what matches come to, and a size is proposed that reaches it", "[motion]") {
  const Speckle surface(31);
  const double noise = GENERATE(2.0, 6.0);
  const Image first = moved_frame(300, 280, surface, still, noise, 1),
              second = moved_frame(300, 280, surface, still, noise, 2);
  const MotionFrame a(first, {}, nullptr, {}), b(second, {}, nullptr, {});
  CHECK(noise_between(a, b) == Approx(noise).epsilon(0.05));
  MotionSettings settings;
  MotionSequence sequence(settings, {300, 280}, nullptr);
  sequence.next(first, {});
  const MotionField field = *sequence.next(second, {});
  const auto predicted = predicted_uncertainty(a, field.grid, settings.subset.size, noise, {});
  double squares = 0, said = 0;
  for (std::size_t i = 0; i < field.points.size(); ++i) {
    squares += field.points[i].moved.x * field.points[i].moved.x + field.points[i].moved.y * field.points[i].moved.y;
    said += 2 * predicted[i] * predicted[i];
  }
  CHECK(std::sqrt(squares / said) == Approx(1).margin(0.12));
  const StillNoise still_is = still_noise(field, StrainSettings{}, settings.subset.size, {});
  CHECK(still_is.points == field.count(MotionStatus::ok));
  CHECK(still_is.deviation.x == Approx(std::sqrt(squares / (2.0 * double(field.points.size())))).epsilon(0.15));
  CHECK(still_is.stated == Approx(still_is.deviation.x).epsilon(0.25));
  REQUIRE(still_is.strain);
  // The smallest size that is good enough: the next smaller one is not.
  const double wanted = 0.02;
  const auto size = proposed_size(a, field.grid, noise, wanted, {});
  REQUIRE(size);
  const auto grid = grid_over({300, 280}, {}, 7, 7, *size / 2 + 2);
  CHECK(share_within(grid, predicted_uncertainty(a, grid, *size, noise, {}), wanted) > 0.9);
  CHECK(share_within(grid, predicted_uncertainty(a, grid, *size - 4, noise, {}), wanted) < 0.95);
}

TEST_CASE("a trial on a frame says the error that the frame's own movement has", "[motion]") {
  const double noise = GENERATE(1.0, 5.0);
  const Image frame = moved_frame(420, 380, Speckle(41), still, 0, 1);
  MotionSettings settings;
  const MotionTrial trial = motion_trial(frame, settings, noise, {});
  // The same field, drawn from the formula.
  CHECK(trial.found > 0.99);
  CHECK(trial.bias < 0.003);
  CHECK(trial.ratio > 0.85);
  CHECK(trial.ratio < 1.15);
  const test::Displacement moved = [](Point p) {
    return Point{p.x / 420 + 0.002 * (p.x - 210), 0.37 + 0.002 * (p.y - 190)};
  };
  MotionSequence sequence(settings, {420, 380}, nullptr);
  sequence.next(moved_frame(420, 380, Speckle(41), still, noise, 5), {});
  const MotionField field = *sequence.next(moved_frame(420, 380, Speckle(41), moved, noise, 6), {});
  double squares = 0, count = 0;
  for (std::size_t i = 0; i < field.points.size(); ++i)
    if (field.points[i].good()) {
      const Point off = field.points[i].moved - moved(field.grid.at(i));
      squares += off.x * off.x + off.y * off.y;
      count += 2;
    }
  CHECK(trial.rms == Approx(std::sqrt(squares / count)).epsilon(0.1));
}

TEST_CASE("settings of movement are written and read, and refused with the place", "[motion]") {
  MotionSettings s;
  s.step_x = 7;
  s.step_y = 9;
  s.subset = {31, 20, true};
  s.against = MotionAgainst::neighbour;
  s.region = {{1, 2}, {30, 4}, {20, 50}};
  s.prepare = {MotionBackground::median, true, 12, 40, 1.5};
  s.renew = false;
  s.clean = {{CleanRule::Kind::neighbours, 2, {}}, {CleanRule::Kind::limits, 0, {{0, 0}, {1, 0}, {1, 1}}}};
  s.fill = true;
  s.strain = 7;
  s.measure = StrainMeasure::green_lagrange;
  MotionSettings flow;
  flow.method = MotionMethod::window;
  flow.window = {{96, 48, 24}, 3, true, true};
  flow.clean = {{CleanRule::Kind::peaks, 1.3, {}}};
  for (const MotionSettings& each : {s, flow, MotionSettings{}}) {
    Json out = Json::object();
    write_motion(out, each);
    JsonReader in(out, "/m", motion_keys());
    MotionSettings back;
    read_motion(in, back);
    CHECK(back == each);
  }
  const std::pair<const char*, const char*> wrong[] = {{R"({"size":20})", "/m/size"},
                                                       {R"({"size":5})", "/m/size"},
                                                       {R"({"spacing":0})", "/m/spacing"},
                                                       {R"({"spacing":[1,2,3]})", "/m/spacing"},
                                                       {R"({"spacing":1.5})", "/m/spacing"},
                                                       {R"({"region":[[1,2],[3,4]]})", "/m/region"},
                                                       {R"({"against":"last"})", "/m/against"},
                                                       {R"({"clean":[{"rule":"much","limit":1}]})", "/m/clean/0/rule"},
                                                       {R"({"clean":[{"rule":"noise"}]})", "/m/clean/0/limit"},
                                                       {R"({"strain":4})", "/m/strain"},
                                                       {R"({"method":"waves"})", "/m/method"},
                                                       {R"({"method":"window","size":[32,64]})", "/m/size"},
                                                       {R"({"method":"window","size":[31]})", "/m/size"},
                                                       {R"({"method":"window","passes":-1})", "/m/passes"},
                                                       {R"({"prepare":{"background":"sum"}})", "/m/prepare/background"},
                                                       {R"({"prepare":{"blur":1}})", "/m/prepare/blur"}};
  for (const auto& [text, place] : wrong) {
    const Json value = parse_json(text);
    JsonReader in(value, "/m", motion_keys());
    MotionSettings read;
    std::string where;
    try {
      read_motion(in, read);
    } catch (const Error& error) {
      where = error.where();
    }
    CAPTURE(text);
    CHECK(where == place);
  }
}
