#include <fmt/format.h>

#include <catch2/catch.hpp>

#include "demo/slip.h"
#include "motion_run/flow_tables.h"
#include "motion_run/motion_run.h"
#include "tests/support.h"

// The slip poured round a post, measured with its own chain, against the functions in its truth.

using namespace fexel;

namespace {

struct Measured {
  std::vector<MotionResultFrame> fields;
  MotionUnits units;
  FlowStatistics flow{MotionGrid{}};
};

Measured measured(const MotionProbe& probe) {
  static const test::Scratch scratch;
  static const std::vector<FrameFile> files = [] {
    std::vector<std::filesystem::path> paths;
    for (int pair = 1; pair <= scene::slip_pairs; ++pair)
      for (const bool second : {false, true}) {
        std::vector<Image> pages;
        pages.push_back(scene::render_slip(pair, second, {}));
        paths.emplace_back(scratch / fmt::format("pour-{:02}-{}.tif", pair, second ? "b" : "a"));
        write_pictures(paths.back(), pages, {});
      }
    return list_frames(paths, false, {});
  }();
  Measured out;
  MotionRunOptions options;
  options.probe = probe;
  const MotionFrames frames(scene::slip_chain(), 0, files, {});
  out.units = frames.units();
  run_motion(frames, options,
             [&](const MotionResultFrame& r) {
               out.fields.push_back(r);
               finish(out.fields.back(), options.probe.settings, out.units, {});
             },
             {});
  out.flow = FlowStatistics(out.fields.front().field.grid);
  for (const MotionResultFrame& r : out.fields) out.flow.add(r.field);
  return out;
}

MotionProbe probe() {
  return scene::slip_chain().motions.front();
}

const Measured& with_background() {
  static const Measured all = measured(probe());
  return all;
}

/// The truth's mean and the deviation of its fluctuations over the pairs.
struct Truth {
  Point mean, rms;
};
Truth truth_at(Point p) {
  Truth out;
  for (int pair = 1; pair <= scene::slip_pairs; ++pair)
    out.mean = out.mean + 1.0 / scene::slip_pairs * scene::slip_moved(p, pair);
  for (int pair = 1; pair <= scene::slip_pairs; ++pair) {
    const Point d = scene::slip_moved(p, pair) - out.mean;
    out.rms = out.rms + Point{d.x * d.x, d.y * d.y};
  }
  out.rms = {std::sqrt(out.rms.x / (scene::slip_pairs - 1)), std::sqrt(out.rms.y / (scene::slip_pairs - 1))};
  return out;
}

/// Mean error over points in the shadow, or elsewhere, more than a window from the post.
struct Off {
  double rms = 0;
  Point mean;
  int count = 0;
};
Off off_of(const Measured& all, bool shadow) {
  Off out;
  const MotionField mean = all.flow.mean();
  for (std::size_t i = 0; i < mean.points.size(); ++i) {
    const Point at = mean.grid.at(i);
    if (!mean.points[i].good() || distance(at, scene::slip_post) < scene::slip_radius + 20) continue;
    const bool in = at.y > scene::slip_post.y && std::abs(at.x - scene::slip_post.x) < scene::slip_radius - 20;
    if (in != shadow) continue;
    const Point d = mean.points[i].moved - truth_at(at).mean;
    out.mean = out.mean + d;
    out.rms += d.x * d.x + d.y * d.y;
    ++out.count;
  }
  out.mean = 1.0 / std::max(1, out.count) * out.mean;
  out.rms = std::sqrt(out.rms / (2.0 * std::max(1, out.count)));
  return out;
}

}  // namespace

TEST_CASE("the mean flow is that of the truth, in the shadow too", "[slip]") {
  const Off light = off_of(with_background(), false), shadow = off_of(with_background(), true);
  CHECK(light.count > 3000);
  CHECK(shadow.count > 150);
  CHECK(light.rms < 0.03);
  CHECK(shadow.rms < 0.03);
  for (const Off& off : {light, shadow}) {
    CHECK(std::abs(off.mean.x) < 0.01);
    CHECK(std::abs(off.mean.y) < 0.01);
  }
}

TEST_CASE("without the background taken off, what stands still pulls at the flow", "[slip]") {
  MotionProbe plain = probe();
  plain.settings.prepare.background = MotionBackground::none;
  plain.settings.clean.clear();
  const Off shadow = off_of(measured(plain), true);
  // Toward no movement, in the shadow by far the most.
  CHECK((shadow.count < 100 || shadow.mean.x < -0.01));
}

TEST_CASE("fluctuations are those of the truth within 5 %, and stated", "[slip]") {
  const auto all = with_background().flow.points();
  const MotionGrid& grid = with_background().flow.grid();
  Point found, truth;
  for (std::size_t i = 0; i < all.size(); ++i) {
    if (all[i].n < scene::slip_pairs || distance(grid.at(i), scene::slip_post) < scene::slip_radius + 20) continue;
    const Truth t = truth_at(grid.at(i));
    found = found + Point{all[i].rms.x * all[i].rms.x, all[i].rms.y * all[i].rms.y};
    truth = truth + Point{t.rms.x * t.rms.x, t.rms.y * t.rms.y};
  }
  CHECK(std::sqrt(found.x / truth.x) == Approx(1).margin(0.05));
  CHECK(std::sqrt(found.y / truth.y) == Approx(1).margin(0.05));
}

TEST_CASE("the post has no vector, single fields state their errors, velocities are in mm a ms", "[slip]") {
  double inside = 0, count = 0;
  for (const MotionResultFrame& r : with_background().fields) {
    const int pair = r.number / 2;
    CHECK(r.matched.from + 1 == 2 * pair - 1);
    for (std::size_t i = 0; i < r.field.points.size(); ++i) {
      const Point at = r.field.grid.at(i);
      const MotionPoint& p = r.field.points[i];
      if (distance(at, scene::slip_post) < scene::slip_radius) CHECK_FALSE(p.has_place());
      if (!p.good() || distance(at, scene::slip_post) < scene::slip_radius + 20) continue;
      const Point d = p.moved - scene::slip_moved(at, pair);
      inside += (std::abs(d.x) < p.sigma.x) + (std::abs(d.y) < p.sigma.y);
      count += 2;
    }
  }
  CHECK(inside / count > 0.6);
  CHECK(inside / count < 0.75);
  const std::string csv = flow_csv(with_background().flow, with_background().units, 0);
  CHECK(csv.find("mm/ms") != std::string::npos);
  // Through a line across the whole flow, far from the post.
  const LineFlow through = flow_through(with_background().flow.mean(), {{900, 980}, {900, 60}}, {1, 1}, 32);
  double exact = 0;
  for (int y = 60; y < 980; ++y) exact += truth_at({900, y + 0.5}).mean.x;
  CHECK(through.value == Approx(exact).epsilon(0.01));
}
