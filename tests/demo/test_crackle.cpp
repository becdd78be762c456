#include <catch2/catch.hpp>

#include "demo/crackle.h"
#include "motion_run/motion_run.h"
#include "tests/support.h"

// The cracking tile of the demo, measured with its own chain, against the functions in its truth.

using namespace fexel;

namespace {

/// Fields of some frames, each from the first.
struct Measured {
  std::vector<MotionResultFrame> fields;
  MotionUnits units;
  Chain chain = scene::crackle_chain();
};

const Measured& measured() {
  static const Measured all = [] {
    const test::Scratch scratch;
    const scene::Crackle series({});
    std::vector<std::filesystem::path> files;
    for (const int n : {1, 5, 7, 10, 13}) {
      std::vector<Image> pages;
      pages.push_back(series.frame(n, {}));
      files.emplace_back(scratch / ("load-" + std::string(n < 10 ? "0" : "") + std::to_string(n) + ".tif"));
      write_pictures(files.back(), pages, {});
    }
    Measured out;
    MotionRunOptions options;
    options.probe = out.chain.motions.front();
    const MotionFrames frames(out.chain, 0, list_frames(files, false, {}), {});
    out.units = frames.units();
    const int numbers[] = {1, 5, 7, 10, 13};
    run_motion(frames, options,
               [&](const MotionResultFrame& r) {
                 out.fields.push_back(r);
                 finish(out.fields.back(), options.probe.settings, out.units, {});
                 out.fields.back().number = numbers[r.number - 1];
               },
               {});
    return out;
  }();
  return all;
}

constexpr double away = 40;  // px from the crack: beyond the subset and the window of strain nearest to it

}  // namespace

TEST_CASE("the tile's displacement is that of its truth, in px and in mm", "[crackle]") {
  for (const MotionResultFrame& r : measured().fields) {
    double squares = 0, count = 0, covered = 0, used = 0;
    for (std::size_t i = 0; i < r.field.points.size(); ++i) {
      const Point at = r.field.grid.at(i);
      const MotionPoint& p = r.field.points[i];
      if (r.field.grid.used[i] == 0 || std::abs(at.x - scene::crack_at(at.y)) < away) continue;
      const bool near_bare = at.x > 750 && at.x < 910 && at.y > 150 && at.y < 290;
      used += !near_bare;
      if (!p.good()) continue;
      const Point off = p.moved - scene::crackle_moved(at, r.number);
      squares += off.x * off.x + off.y * off.y;
      covered += (std::abs(off.x) < p.sigma.x) + (std::abs(off.y) < p.sigma.y);
      count += 2;
    }
    INFO("frame " << r.number << ": " << std::sqrt(squares / count) << " px RMS, " << covered / count << " inside");
    CHECK(std::sqrt(squares / count) < 0.02);
    CHECK(count / 2 > 0.99 * used);
    CHECK(covered / count > 0.55);
    CHECK(scene::crackle_pixel * std::sqrt(squares / count) < 0.001);  // mm
    const Point one = measured().units.displacement({1, 0});
    CHECK(one.x == Approx(scene::crackle_pixel));
    CHECK(measured().units.unit() == "mm");
  }
}

TEST_CASE("no point of the bare patch is good, nor one over the open crack", "[crackle]") {
  for (const MotionResultFrame& r : measured().fields) {
    int bare = 0, over = 0;
    for (std::size_t i = 0; i < r.field.points.size(); ++i) {
      const Point at = r.field.grid.at(i);
      const MotionPoint& p = r.field.points[i];
      if (r.field.grid.used[i] == 0) continue;
      // Subsets that lie in the patch as a whole.
      if (at.x > 770 + 14 && at.x < 890 - 14 && at.y > 170 + 14 && at.y < 270 - 14) {
        ++bare;
        CHECK_FALSE(p.good());
        CHECK(p.reason != MotionReason::none);
      }
      if (r.number >= 10 && std::abs(at.x - scene::crack_at(at.y)) < 4) {
        ++over;
        CHECK_FALSE(p.good());
      }
    }
    CHECK(bare > 30);
    if (r.number >= 10) CHECK(over > 20);
  }
}

TEST_CASE("strain is that of the truth away from the crack, within what it states", "[crackle]") {
  for (const MotionResultFrame& r : measured().fields) {
    double squares = 0, stated = 0, count = 0;
    for (std::size_t i = 0; i < r.strain.size(); ++i) {
      const Point at = r.field.grid.at(i);
      if (!r.strain[i] || std::abs(at.x - scene::crack_at(at.y)) < 60) continue;
      // Slopes of the truth by differences.
      constexpr double h = 0.5;
      const auto moved = [&](Point p) { return scene::crackle_moved(p, r.number); };
      const double xx = (moved(at + Point{h, 0}).x - moved(at - Point{h, 0}).x) / (2 * h),
                   yy = (moved(at + Point{0, h}).y - moved(at - Point{0, h}).y) / (2 * h);
      squares += std::pow(r.strain[i]->xx - xx, 2) + std::pow(r.strain[i]->yy - yy, 2);
      stated += 2 * r.strain[i]->sigma * r.strain[i]->sigma;
      count += 2;
    }
    INFO("frame " << r.number << ": strain " << std::sqrt(squares / count) << " RMS, stated "
                  << std::sqrt(stated / count));
    CHECK(count > 4000);
    CHECK(std::sqrt(squares / count) < 2e-4);
    CHECK(std::sqrt(squares / stated) < 1.3);
  }
}

TEST_CASE("the crack's opening over time is that of its truth", "[crackle]") {
  for (const MotionResultFrame& r : measured().fields)
    for (const double y : {200.0, 400.0, 600.0}) {
      // An extensometer: the mean of a few points on each side, as far from the crack as it takes.
      const auto side = [&](double from, double to) {
        Point sum;
        double n = 0;
        for (std::size_t i = 0; i < r.field.points.size(); ++i) {
          const Point at = r.field.grid.at(i);
          const double x = at.x - scene::crack_at(at.y);
          if (r.field.grid.used[i] == 0 || !r.field.points[i].good() || std::abs(at.y - y) > 30 || x < from || x > to)
            continue;
          // Less what the tile itself does there: what is left is the crack's.
          Point closed = scene::crackle_moved(at, r.number);
          closed.x -= (x < 0 ? -1 : 1) * scene::crack_opening(at.y, r.number) / 2;
          sum = sum + (r.field.points[i].moved - closed);
          ++n;
        }
        REQUIRE(n > 5);
        return 1 / n * sum;
      };
      const Point apart = side(20, 60) - side(-60, -20);
      double opening = 0, n = 0;
      for (double at = y - 30; at <= y + 30; at += 1, ++n) opening += scene::crack_opening(at, r.number);
      CHECK(std::abs(apart.x - opening / n) < 0.05);
    }
}
