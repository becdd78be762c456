/// A run over a folder against its parts: reading, warping and writing the same files, each with all cores busy.
#include <fmt/format.h>

#include <atomic>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <functional>
#include <random>
#include <thread>

#include "batch/batch.h"

using namespace fexel;
namespace fs = std::filesystem;

namespace {

double timed(const std::function<void()>& body) {
  const auto begin = std::chrono::steady_clock::now();
  body();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
}

/// body(i) for all files, as many at a time as there are cores.
double side_by_side(std::size_t count, const std::function<void(std::size_t)>& body) {
  return timed([&] {
    std::atomic<std::size_t> next = 0;
    std::vector<std::jthread> threads;
    for (int t = 0; t < worker_threads(); ++t)
      threads.emplace_back([&] {
        for (std::size_t i = next++; i < count; i = next++) body(i);
      });
  });
}

}  // namespace

int main() {
  const fs::path folder = fs::temp_directory_path() / "fexel-bench-batch";
  fs::remove_all(folder);
  fs::create_directories(folder / "in");
  constexpr std::size_t count = 40;
  std::mt19937 random(1);
  Image image(2400, 1600, 3, Depth::u8);
  for (int b = 0; b < 3; ++b)
    for (int y = 0; y < image.height(); ++y)
      for (int x = 0; x < image.width(); ++x)
        image.row<std::uint8_t>(b, y)[x] =
            static_cast<std::uint8_t>(100 + 60 * std::sin(0.02 * x + b) + static_cast<double>(random() % 8));
  std::vector<Image> page;
  page.push_back(std::move(image));
  for (const char* ending : {"tif", "jpg"}) {
    std::vector<fs::path> inputs;
    for (std::size_t i = 0; i < count; ++i) {
      inputs.push_back(folder / "in" / fmt::format("p-{}.{}", i, ending));
      write_pictures(inputs.back(), page, {*format_of_name(inputs.back()), {}, true, {}});
    }
    Chain chain;
    chain.steps = {{RotateStep{3}, true, {}}};
    RunOptions options;
    options.folder = folder / "out";
    options.replace = true;
    const auto items = plan_run(chain, inputs, options);
    fs::create_directories(options.folder);
    const Layout layout = lay_out(chain, {{2400, 1600}, 3, Depth::u8, {}, {}, 0});
    std::vector<std::shared_ptr<const Pyramid>> read(count);
    std::vector<Image> made(count);
    const double reading = side_by_side(count, [&](std::size_t i) {
      read[i] = std::make_shared<const Pyramid>(std::make_shared<const Image>(read_picture(inputs[i])));
    });
    const double warping =
        side_by_side(count, [&](std::size_t i) { made[i] = evaluate(chain, layout, *read[i], {}, nullptr); });
    const double writing = side_by_side(count, [&](std::size_t i) {
      std::vector<Image> pages;
      pages.push_back(std::move(made[i]));
      write_pictures(folder / fmt::format("w-{}.{}", i, ending), pages, {*format_of_name(inputs[i]), {}, true, {}});
    });
    read.clear();
    std::vector<std::size_t> all(count);
    for (std::size_t i = 0; i < count; ++i) all[i] = i;
    const double run = timed([&] { run_batch(chain, items, all, options, {}, {}); });
    fmt::print("{}: reading {:.2f} s, warping {:.2f} s, writing {:.2f} s; the run {:.2f} s: {:.2f} of the parts\n",
               ending, reading, warping, writing, run, (reading + warping + writing) / run);
  }
  fs::remove_all(folder);
  return 0;
}
