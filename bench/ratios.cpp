/// Prints how long the engine takes, as ratios within one run: against memcpy of the result's bytes on one thread, and
/// against the smooth transform of Qt's painter on as many threads as the engine uses.
#include <fmt/format.h>

#include <QGuiApplication>
#include <QImage>
#include <QPainter>
#include <chrono>
#include <cstring>
#include <filesystem>
#include <thread>

#include "bench/photo.h"
#include "bench/shape_rows.h"
#include "bench/stolen.h"
#include "files/picture.h"
#include "resample/kernels/prefilter.h"
#include "resample/warp.h"

namespace {

using namespace fexel;

constexpr int width = 6000, height = 4000;

double seconds_of(const std::function<void()>& body) {
  const auto start = std::chrono::steady_clock::now();
  body();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

double median(std::vector<double> values) {
  std::ranges::sort(values);
  return values[values.size() / 2];
}

Matrix3 mild_perspective() {
  Matrix3 m;
  m << 0.96, 0.02, 60, -0.015, 0.97, 70, -4e-6, 3e-6, 1;
  return m;
}

struct Row {
  std::string name;
  int bands;
  Depth depth;
  std::vector<Matrix3> inverse_maps;  ///< the worst counts
  Kernel kernel;
  double at_most;       ///< x memcpy
  double qt_at_least;   ///< 0: no comparison
  double of_input = 0;  ///< when set, memcpy of the input's bytes counts, and the result is this much smaller
};

/// Anything else that is measured against memcpy of some bytes.
struct OtherPath {
  std::string name, detail;
  std::size_t bytes;
  double at_most;
  int runs;
  std::function<void()> body;
  std::function<void()> before = {};  ///< each run, not measured
};

class Rig {
 public:
  explicit Rig(int runs) : runs_(runs) {}

  void print(const OtherPath& path) {
    from_.assign(path.bytes, std::byte{1});
    to_.assign(path.bytes, std::byte{2});
    bytes_ = path.bytes;
    std::vector<double> ours, copies;
    for (int i = 0; i < path.runs; ++i) {
      copies.push_back(seconds_of([&] { std::memcpy(to_.data(), from_.data(), bytes_); }));
      if (path.before) path.before();
      ours.push_back(seconds_of(path.body));
    }
    const double middle = median(ours);
    std::ranges::sort(ours);
    fmt::print("| {} | {} | {:.1f} ± {:.0f} % | {:.1f} | – |\n", path.name, path.detail, middle / median(copies),
               100 * (ours.back() - ours.front()) / 2 / middle, path.at_most);
    std::fflush(stdout);
    source_.reset();
  }

  void print(const Row& row) {
    prepare(row);
    const double scale = row.of_input > 0 ? row.of_input : 1;
    const Size result{static_cast<int>(width * scale + 0.5), static_cast<int>(height * scale + 0.5)};
    double worst = 0, spread = 0, copy = 0;
    for (const Matrix3& inverse_map : row.inverse_maps) {
      WarpPlan plan{inverse_map, {}, result};
      Clip inside;
      inside.keep_inside({width, height});
      plan.clip = inside.through(Map(inverse_map).inverse());
      const Resampling how{row.kernel, BorderMode::fill, {0}, scale < 1};
      std::vector<double> ours, copies;
      for (int i = 0; i < runs_; ++i) {
        copies.push_back(seconds_of([&] { std::memcpy(to_.data(), from_.data(), bytes_); }));
        ours.push_back(seconds_of([&] {
          const Image out = warp(*source_, plan, {0, 0, result.width, result.height}, how, Quality::final, {});
          if (out.empty()) std::abort();
        }));
      }
      copy = median(copies);
      const double share = median(ours) / copy;
      if (share > worst) {
        worst = share;
        std::ranges::sort(ours);
        spread = (ours.back() - ours.front()) / 2 / median(ours);
      }
    }
    std::string qt = "–";
    if (row.qt_at_least > 0) {
      const auto against = [&](const QImage& picture) {
        return (row.of_input > 0 ? qt_scaled(picture, result) : qt_seconds(picture, row.inverse_maps.back(), result)) /
               (worst * copy);
      };
      qt = fmt::format("{:.1f} x ({:.0f})", against(picture_), row.qt_at_least);
      if (!wide_.isNull()) qt += fmt::format("; {:.1f} x with 32 bits a pixel", against(wide_));
    }
    fmt::print("| {} | {} | {:.1f} ± {:.0f} % | {:.1f} | {} |\n", row.name, name_of(row.kernel), worst, 100 * spread,
               row.at_most, qt);
    std::fflush(stdout);
  }

 private:
  void prepare(const Row& row) {
    if (!source_ || source_->base().bands() != row.bands || source_->base().depth() != row.depth) {
      source_ = std::make_unique<Pyramid>(std::make_shared<const Image>(photo(width, height, row.bands, row.depth)));
      bytes_ = static_cast<std::size_t>(width) * height * static_cast<std::size_t>(row.bands) * bytes_of(row.depth);
      from_.assign(bytes_, std::byte{1});
      to_.assign(bytes_, std::byte{2});
      const auto format = row.bands == 3            ? QImage::Format_RGB888
                          : row.depth == Depth::u16 ? QImage::Format_Grayscale16
                                                    : QImage::Format_Grayscale8;
      picture_ = QImage(width, height, format);
      picture_.fill(Qt::gray);
      wide_ = row.bands == 3 ? picture_.convertToFormat(QImage::Format_RGB32) : QImage();
    }
  }

  /// Each thread paints its own stripe.
  double qt_seconds(const QImage& picture, const Matrix3& inverse_map, Size result) const {
    const Matrix3 m = Map(inverse_map).inverse().matrix();
    // Qt's rows are our columns.
    const QTransform there(m(0, 0), m(1, 0), m(2, 0), m(0, 1), m(1, 1), m(2, 1), m(0, 2), m(1, 2), m(2, 2));
    const int threads = static_cast<int>(std::thread::hardware_concurrency());
    std::vector<QImage> stripes;
    for (int i = 0; i < threads; ++i) stripes.emplace_back(result.width, result.height / threads, picture.format());
    std::vector<double> times;
    for (int run = 0; run < 3; ++run)
      times.push_back(seconds_of([&] {
        std::vector<std::jthread> workers;
        for (int i = 0; i < threads; ++i)
          workers.emplace_back([&, i] {
            QPainter painter(&stripes[static_cast<std::size_t>(i)]);
            painter.setRenderHint(QPainter::SmoothPixmapTransform);
            painter.setTransform(there * QTransform::fromTranslate(0, -i * (result.height / threads)));
            painter.drawImage(0, 0, picture);
          });
      }));
    return median(times);
  }

  /// Qt scales with its own pool of threads.
  static double qt_scaled(const QImage& picture, Size result) {
    std::vector<double> times;
    for (int run = 0; run < 3; ++run)
      times.push_back(seconds_of([&] {
        if (picture.scaled(result.width, result.height, Qt::IgnoreAspectRatio, Qt::SmoothTransformation).isNull())
          std::abort();
      }));
    return median(times);
  }

  int runs_;
  std::unique_ptr<Pyramid> source_;
  std::vector<std::byte> from_, to_;
  std::size_t bytes_ = 0;
  QImage picture_;  ///< the same bytes a pixel as ours
  QImage wide_;     ///< three bands in the format that Qt is fastest in
};

/// Whole-pixel moves, the spline's prefilter, and the codecs.
std::vector<OtherPath> other_paths(int runs) {
  const auto moved = [](const std::string& name, const Matrix3& inverse_map, Size result, double at_most, int times) {
    const auto source = std::make_shared<Pyramid>(std::make_shared<const Image>(photo(width, height, 1, Depth::u8)));
    const WarpPlan plan{inverse_map, {}, result};
    return OtherPath{
        name,    "u8",  static_cast<std::size_t>(result.width) * static_cast<std::size_t>(result.height),
        at_most, times, [=] { warp(*source, plan, {0, 0, result.width, result.height}, {}, Quality::final, {}); }};
  };
  Matrix3 mirror, quarter;
  mirror << -1, 0, width, 0, 1, 0, 0, 0, 1;
  quarter << 0, -1, width, 1, 0, 0, 0, 0, 1;
  const auto small = std::make_shared<Image>(photo(width, height, 1, Depth::u8));
  std::vector<OtherPath> paths = {moved("mirror", mirror, {width, height}, 1.5, runs),
                                  moved("crop by whole pixels", translation(100, 50), {5800, 3900}, 1.2, runs),
                                  moved("quarter turn", quarter, {height, width}, 4, runs)};
  constexpr std::size_t pixels = std::size_t{width} * height;
  paths.push_back({"prefilter of the spline", "u8 to f32", pixels * 4, 3, runs,
                   [small] { spline_coefficients(*small, BorderMode::fill, {}); }});

  const auto folder = std::filesystem::temp_directory_path() / fmt::format("fexel-bench-{}", ::getpid());
  std::filesystem::create_directories(folder);
  const auto pages = std::make_shared<std::vector<Image>>();
  pages->push_back(photo(width, height, 1, Depth::u16));
  const int times = std::min(runs, 3);
  const auto files = [&](const std::string& name, Format format, bool compress, double read, double write) {
    WriteOptions how;
    how.format = format;
    how.compress = compress;
    const auto path = folder / (name + ".file");
    paths.push_back({name, "write", pixels * 2, write, times, [=] { write_pictures(path, *pages, how); },
                     [=] { std::filesystem::remove(path); }});
    paths.push_back({name, "read", pixels * 2, read, times, [=] { read_picture(path); }});
  };
  files("TIFF u16, not compressed", Format::tiff, false, 1.8, 5);
  files("TIFF u16, deflate", Format::tiff, true, 12, 45);
  files("PNG u16", Format::png, true, 50, 180);
  return paths;
}

}  // namespace

int main(int argc, char** argv) {
  qputenv("QT_QPA_PLATFORM", "offscreen");  // Qt only transforms in memory
  QGuiApplication app(argc, argv);
  const std::vector<Matrix3> small = {turned(width, height, 0.3), turned(width, height, 1), turned(width, height, 1.8),
                                      turned(width, height, 2.5)},
                             one_eight = {turned(width, height, 1.8)},
                             large = {turned(width, height, 30), turned(width, height, 90.5)},
                             tilted = {mild_perspective()}, half = {scaling(2, 2)},
                             eighth = {scaling(1 / 0.13, 1 / 0.13)};
  using enum Kernel;
  constexpr Depth u8 = Depth::u8, u16 = Depth::u16, f32 = Depth::f32;
  const std::vector<Row> rows = {{"u8, turns of 0.3 to 2.5°", 1, u8, small, linear, 3, 30},
                                 {"", 1, u8, small, cubic, 6, 12},
                                 {"", 1, u8, small, lanczos3, 11, 8},
                                 {"u8, turns of 30 and 90.5°", 1, u8, large, linear, 14, 6},
                                 {"", 1, u8, large, cubic, 22, 4},
                                 {"", 1, u8, large, lanczos3, 36, 2},
                                 {"u8, mild perspective", 1, u8, tilted, linear, 6, 20},
                                 {"", 1, u8, tilted, cubic, 11, 12},
                                 {"", 1, u8, tilted, lanczos3, 20, 7},
                                 {"u8, resize x0.5 (of the input)", 1, u8, half, area, 0.6, 60, 0.5},
                                 {"", 1, u8, half, lanczos3, 2.4, 18, 0.5},
                                 {"u8, resize x0.13 (of the input)", 1, u8, eighth, area, 1.6, 14, 0.13},
                                 {"", 1, u8, eighth, lanczos3, 3, 8, 0.13},
                                 {"u16, turn of 1.8°", 1, u16, one_eight, linear, 2.7, 14},
                                 {"", 1, u16, one_eight, cubic, 5, 8},
                                 {"", 1, u16, one_eight, lanczos3, 10, 4},
                                 {"u16, mild perspective", 1, u16, tilted, linear, 5.5, 14},
                                 {"", 1, u16, tilted, cubic, 8.5, 9},
                                 {"", 1, u16, tilted, lanczos3, 12, 6},
                                 {"f32, turn of 1.8°", 1, f32, one_eight, linear, 1.6, 0},
                                 {"", 1, f32, one_eight, cubic, 2.6, 0},
                                 {"", 1, f32, one_eight, lanczos3, 5, 0},
                                 {"", 1, f32, one_eight, bspline3, 2.8, 0},
                                 {"f32, mild perspective", 1, f32, tilted, linear, 2.8, 0},
                                 {"", 1, f32, tilted, cubic, 4.2, 0},
                                 {"", 1, f32, tilted, lanczos3, 6, 0},
                                 {"", 1, f32, tilted, bspline3, 4, 0},
                                 {"three bands u8, turn of 1.8°", 3, u8, one_eight, linear, 2, 18},
                                 {"", 3, u8, one_eight, cubic, 5.5, 6},
                                 {"", 3, u8, one_eight, lanczos3, 10, 3},
                                 {"three bands u8, mild perspective", 3, u8, tilted, linear, 5, 10},
                                 {"", 3, u8, tilted, cubic, 10, 5},
                                 {"", 3, u8, tilted, lanczos3, 15, 3}};
  const int runs = argc > 1 ? std::max(1, std::atoi(argv[1])) : 7;
  const double stolen = stolen_seconds();
  fmt::print("{} x {} pixels, {} threads, median of {} runs, ± half the range.\n\n", width, height,
             std::thread::hardware_concurrency(), runs);
  fmt::print("| path | kernel | x memcpy | at most | faster than Qt's smooth transform (at least) |\n");
  fmt::print("|---|---|---|---|---|\n");
  Rig rig(runs);
  const double all = seconds_of([&] {
    for (const Row& row : rows) rig.print(row);
    for (const OtherPath& path : other_paths(runs)) rig.print(path);
    print_shape_rows(runs);
  });
  std::error_code code;
  std::filesystem::remove_all(std::filesystem::temp_directory_path() / fmt::format("fexel-bench-{}", ::getpid()), code);
  fmt::print("\n{:.0f} s, of which {:.1f} s were taken by other guests of the machine.\n", all,
             stolen_seconds() - stolen);
}
