/// How much faster each path of the engine is than the next simpler one, on the case it is for: the figures of
/// core/resample/README.md. Both are run by turns; the median ratio counts.
#include <fmt/format.h>

#include <chrono>

#include "base/statistics.h"
#include "bench/photo.h"
#include "resample/warp.h"

namespace {

using namespace fexel;

constexpr int width = 2000, height = 1000, rounds = 9;

double seconds(const Pyramid& source, const WarpPlan& plan, Kernel kernel) {
  const auto start = std::chrono::steady_clock::now();
  warp(source, plan, {0, 0, plan.result.width, plan.result.height}, {kernel, BorderMode::fill, {0}, false},
       Quality::final, {});
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

void compare(const char* map, const Matrix3& inverse_map, Kernel kernel, Depth depth, int bands, Path fast,
             Path plain) {
  const Pyramid source(std::make_shared<const Image>(photo(width, height, bands, depth)));
  Clip inside;
  inside.keep_inside({width, height});
  WarpPlan plan{inverse_map, inside.through(Map(inverse_map).inverse()), {width, height}};
  std::vector<double> ratios;
  for (int round = 0; round < rounds; ++round) {
    plan.forced = plain;
    const double slow = seconds(source, plan, kernel);
    plan.forced = fast;
    ratios.push_back(slow / seconds(source, plan, kernel));
  }
  fmt::print("| `{}` | `{}` | {}, {}, {}, {} band{} | {:.1f} |\n", name_of(fast), name_of(plain), map, name_of(kernel),
             name_of(depth), bands, bands == 1 ? "" : "s", median(ratios));
}

}  // namespace

int main() {
  fmt::print("| path | than | case | times as fast |\n|---|---|---|---|\n");
  const Matrix3 small = turned(width, height, 1.8), large = turned(width, height, 30);
  for (const Kernel kernel : {Kernel::linear, Kernel::cubic, Kernel::lanczos3})
    compare("rotation by 30°", large, kernel, Depth::u16, 1, Path::row_float, Path::sampler);
  compare("rotation by 30°", large, Kernel::bspline3, Depth::f32, 1, Path::row_float, Path::sampler);
  for (const Kernel kernel : {Kernel::linear, Kernel::cubic, Kernel::lanczos3})
    compare("rotation by 30°", large, kernel, Depth::u8, 1, Path::digital_lines, Path::row_float);
  for (const Kernel kernel : {Kernel::linear, Kernel::cubic, Kernel::lanczos3})
    compare("rotation by 1.8°", small, kernel, Depth::u8, 1, Path::int16, Path::digital_lines);
  for (const Depth depth : {Depth::u8, Depth::u16, Depth::f32})
    compare("translation by half a pixel", translation(0.5, 0.5), Kernel::cubic, depth, 1, Path::separable,
            Path::row_float);
  compare("translation by half a pixel", translation(0.5, 0.5), Kernel::cubic, Depth::u8, 1, Path::separable,
          Path::int16);
  compare("whole-pixel move", translation(3, 2), Kernel::cubic, Depth::u8, 1, Path::copy, Path::separable);
}
