/// One benchmark for each path of the engine, on two megapixels: for whoever changes one of them.
#include <benchmark/benchmark.h>

#include "resample/prefilter.h"
#include "resample/warp.h"

namespace {

using namespace fexel;

constexpr int width = 2000, height = 1000;

Image noise(int bands, Depth depth) {
  Image image(width, height, bands, depth);
  unsigned state = 1;
  visit_depth(depth, [&](auto sample) {
    using T = decltype(sample);
    for (int band = 0; band < bands; ++band)
      for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
          state = state * 1664525U + 1013904223U;
          image.row<T>(band, y)[x] = static_cast<T>(64 + (state >> 25));
        }
  });
  return image;
}

Matrix3 turned(double degrees) {
  const double a = degrees * M_PI / 180;
  Matrix3 m;
  m << std::cos(a), -std::sin(a), 0, std::sin(a), std::cos(a), 0, 0, 0, 1;
  return translation(width / 2.0, height / 2.0) * m * translation(-width / 2.0, -height / 2.0);
}

Matrix3 tilted() {
  Matrix3 m;
  m << 0.96, 0.02, 20, -0.015, 0.97, 20, -1.2e-5, 1e-5, 1;
  return m;
}

void run(benchmark::State& state, const Matrix3& pull, Size result, Kernel kernel, Depth depth, int bands) {
  const Pyramid source(std::make_shared<const Image>(noise(bands, depth)));
  Clip inside;
  inside.keep_inside({width, height});
  const WarpPlan plan{pull, inside.through(Map(pull).inverse()), result};
  for (auto _ : state)
    benchmark::DoNotOptimize(
        warp(source, plan, {0, 0, result.width, result.height}, {kernel, Edge::fill, {0}, true}, Quality::final, {}));
  state.SetItemsProcessed(state.iterations() * result.width * result.height * bands);
}

}  // namespace

int main(int argc, char** argv) {
  const std::pair<const char*, Matrix3> maps[] = {
      {"turn 1.8", turned(1.8)}, {"turn 30", turned(30)}, {"tilt", tilted()}};
  for (const auto& [name, pull] : maps)
    for (const Kernel kernel : {Kernel::nearest, Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3})
      for (const Depth depth : {Depth::u8, Depth::u16, Depth::f32})
        for (const int bands : {1, 3})
          benchmark::RegisterBenchmark((std::string(name) + "/" + std::string(name_of(kernel)) + "/" +
                                        std::string(name_of(depth)) + "/" + std::to_string(bands))
                                           .c_str(),
                                       [=](benchmark::State& state) {
                                         run(state, pull, {width, height}, kernel, depth, bands);
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
    run(state, turned(20) * scaling(2.5, 2.5), {width / 3, height / 3}, Kernel::cubic, Depth::u8, 1);
  })->UseRealTime();
  benchmark::RegisterBenchmark("prefilter", [](benchmark::State& state) {
    const Image source = noise(1, Depth::u8);
    for (auto _ : state) benchmark::DoNotOptimize(spline_coefficients(source, Edge::fill, {}));
    state.SetItemsProcessed(state.iterations() * width * height);
  })->UseRealTime();
  benchmark::Initialize(&argc, argv);
  benchmark::RunSpecifiedBenchmarks();
}
