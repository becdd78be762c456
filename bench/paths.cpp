/// One benchmark for each path of the engine, on two megapixels: for whoever changes one of them.
#include <benchmark/benchmark.h>

#include "bench/photo.h"
#include "resample/kernels/prefilter.h"
#include "resample/warp.h"

namespace {

using namespace fexel;

constexpr int width = 2000, height = 1000;

Matrix3 tilted() {
  Matrix3 m;
  m << 0.96, 0.02, 20, -0.015, 0.97, 20, -1.2e-5, 1e-5, 1;
  return m;
}

void run(benchmark::State& state, const Matrix3& inverse_map, Size result, Kernel kernel, Depth depth, int bands) {
  const Pyramid source(std::make_shared<const Image>(photo(width, height, bands, depth)));
  Clip inside;
  inside.keep_inside({width, height});
  const WarpPlan plan{inverse_map, inside.through(Map(inverse_map).inverse()), result};
  for (auto _ : state)
    benchmark::DoNotOptimize(warp(source, plan, {0, 0, result.width, result.height},
                                  {kernel, BorderMode::fill, {0}, true}, Quality::final, {}));
  state.SetItemsProcessed(state.iterations() * result.width * result.height * bands);
}

}  // namespace

int main(int argc, char** argv) {
  const std::pair<const char*, Matrix3> maps[] = {
      {"turn 1.8", turned(width, height, 1.8)}, {"turn 30", turned(width, height, 30)}, {"tilt", tilted()}};
  for (const auto& [name, inverse_map] : maps)
    for (const Kernel kernel : {Kernel::nearest, Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3})
      for (const Depth depth : {Depth::u8, Depth::u16, Depth::f32})
        for (const int bands : {1, 3})
          benchmark::RegisterBenchmark((std::string(name) + "/" + std::string(name_of(kernel)) + "/" +
                                        std::string(name_of(depth)) + "/" + std::to_string(bands))
                                           .c_str(),
                                       [=](benchmark::State& state) {
                                         run(state, inverse_map, {width, height}, kernel, depth, bands);
                                       })
              ->UseRealTime();
  for (const double scale : {0.13, 0.5, 1.7})
    for (const Kernel kernel : {Kernel::area, Kernel::cubic, Kernel::lanczos3})
      benchmark::RegisterBenchmark(("resize " + std::to_string(scale) + "/" + std::string(name_of(kernel))).c_str(),
                                   [=](benchmark::State& state) {
                                     run(state, scaling(1 / scale, 1 / scale),
                                         {static_cast<int>(width * scale), static_cast<int>(height * scale)}, kernel,
                                         Depth::u8, 1);
                                   })
          ->UseRealTime();
  benchmark::RegisterBenchmark("turn 20, shrunk 2.5 times/cubic", [](benchmark::State& state) {
    run(state, turned(width, height, 20) * scaling(2.5, 2.5), {width / 3, height / 3}, Kernel::cubic, Depth::u8, 1);
  })->UseRealTime();
  benchmark::RegisterBenchmark("prefilter", [](benchmark::State& state) {
    const Image source = photo(width, height, 1, Depth::u8);
    for (auto _ : state) benchmark::DoNotOptimize(spline_coefficients(source, BorderMode::fill, {}));
    state.SetItemsProcessed(state.iterations() * width * height);
  })->UseRealTime();
  benchmark::Initialize(&argc, argv);
  benchmark::RunSpecifiedBenchmarks();
}
