#include "bench/shape_rows.h"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cstring>
#include <functional>

#include "bench/photo.h"
#include "chain/evaluate.h"
#include "filter/filter.h"

namespace fexel {
namespace {

constexpr int width = 6000, height = 4000;

double seconds_of(const std::function<void()>& body) {
  const auto start = std::chrono::steady_clock::now();
  body();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

struct Timed {
  double middle, spread;  // seconds; half of the range as a share
};
Timed timed(int runs, const std::function<void()>& body) {
  std::vector<double> times;
  for (int i = 0; i < runs; ++i) times.push_back(seconds_of(body));
  std::ranges::sort(times);
  const double middle = times[times.size() / 2];
  return {middle, (times.back() - times.front()) / 2 / middle};
}

void print(const char* name, const char* detail, Timed ours, double unit, double at_most, const char* against) {
  fmt::print("| {} | {} | {:.2f} ± {:.0f} % {} | {:.1f} | – |\n", name, detail, ours.middle / unit, 100 * ours.spread,
             against, at_most);
  std::fflush(stdout);
}

}  // namespace

void print_shape_rows(int runs) {
  const auto picture = std::make_shared<const Image>(photo(width, height, 1, Depth::u8));
  const Pyramid source(picture);
  // Thirty pairs on a grid, moved by a few pixels each.
  std::string pairs;
  for (int i = 0; i < 30; ++i) {
    const double x = 400 + 1040 * (i % 6), y = 300 + 850 * (i / 6);
    pairs += fmt::format("{}{{\"from\":[{},{}],\"to\":[{},{}]}}", i > 0 ? "," : "", x, y, x + 9 * std::sin(i * 1.7),
                         y + 9 * std::cos(i * 2.3));
  }
  struct Row {
    const char *name, *steps;
    double at_most;
  };
  const std::string spline = R"({"step":"fit","model":"thin-plate","pairs":[)" + pairs + "]}";
  const Row rows[] = {
      {"tilt", R"({"step":"tilt","about_x":4,"about_y":-5,"extent":"keep"})", 1},
      {"lens and turn of 1.8°", R"({"step":"lens","k1":-0.04},{"step":"rotate","degrees":1.8,"extent":"keep"})", 1.6},
      {"thin-plate spline, 30 points", spline.c_str(), 2},
      {"unwrap, a rim", R"({"step":"unwrap","centre":[3000,2000],"inner":1325,"outer":1800})", 1.3},
      {"unwrap, a ring that shrinks", R"({"step":"unwrap","centre":[3000,2000],"inner":600,"outer":1950})", 1.3}};
  Matrix3 tilted;
  tilted << 0.96, 0.02, 60, -0.015, 0.97, 70, -4e-6, 3e-6, 1;
  WarpPlan plain{tilted, {}, {width, height}};
  Clip inside;
  inside.keep_inside({width, height});
  plain.clip = inside.through(Map(tilted).inverse());
  const auto run = [&](const WarpPlan& plan) {
    return timed(runs, [&] {
      warp(source, plan, {0, 0, plan.result.width, plan.result.height}, {}, Quality::final, {});
    });
  };
  const double per_pixel = run(plain).middle / (double(width) * height);
  for (const Row& row : rows) {
    const Layout layout = lay_out(parse_chain(fmt::format("{{\"fexel\":1,\"steps\":[{}]}}", row.steps)),
                                  {{width, height}, 1, Depth::u8, {}});
    layout.require_sound();
    const WarpPlan plan = plan_for(layout, layout.last());
    const double pixels = double(plan.result.width) * plan.result.height;
    print(row.name, "u8, cubic", run(plan), per_pixel * pixels, row.at_most, "x perspective");
  }
  std::vector<std::byte> from(std::size_t{width} * height, std::byte{1}), to(from.size());
  const double copy = timed(runs, [&] { std::memcpy(to.data(), from.data(), from.size()); }).middle;
  const int fewer = std::min(runs, 3);
  print("local contrast", "u8", timed(fewer, [&] { equalised(*picture, 64, 2); }), copy, 25, "x memcpy");
  print("median, radius 2", "u8", timed(fewer, [&] { median(*picture, 2); }), copy, 40, "x memcpy");
  print("Gaussian, radius 8", "u8", timed(fewer, [&] { gaussian(*picture, 8); }), copy, 12, "x memcpy");
}

}  // namespace fexel
