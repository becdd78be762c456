/// The kernel that is widened where a map shrinks, against its definition in plain double arithmetic.
#include <catch2/catch.hpp>

#include "resample/kernels/footprint.h"
#include "tests/maps.h"
#include "tests/plain_wide.h"
#include "tests/support.h"

using namespace fexel;
using namespace fexel::test;

namespace {

/// What a result pixel is, from its definition.
double expected_at(const Image& source, const Endless& endless, int band, const Resampling& how,
                   const Matrix3& inverse_map, Point centre) {
  return expected_sample(source, endless, band, how, *Map::apply(inverse_map, centre),
                         *Map::derivative(inverse_map, centre));
}

Matrix3 shrinking(double across, double down, double degrees) {
  const double a = degrees * M_PI / 180;
  Matrix3 m;
  m << across * std::cos(a), -down * std::sin(a), 40, across * std::sin(a), down * std::cos(a), -9, 0, 0, 1;
  return m;
}

}  // namespace

TEST_CASE("a footprint is the Jacobian with its singular values raised, mirrored or flat ones too", "[shrinking]") {
  std::mt19937 random(5);
  std::normal_distribution<double> entry(0, 2);
  for (int i = 0; i < 300; ++i) {
    Matrix2 jacobian;
    jacobian << entry(random), entry(random), entry(random), entry(random);
    if (std::abs(jacobian.determinant()) < 1e-3) continue;
    const Footprint print = footprint(jacobian);
    CHECK((print.reach - raised(jacobian)).norm() < 1e-9);
    CHECK((print.reach * print.to_result - Matrix2::Identity()).norm() < 1e-9);
  }
  // Where the map is flat in one direction, or nowhere goes anywhere, the footprint still has an extent.
  for (const double flat : {0.0, 1e-300, 3.0}) {
    Matrix2 jacobian;
    jacobian << flat, flat, flat, flat;
    const Eigen::JacobiSVD<Matrix2> svd(footprint(jacobian).reach);
    CHECK(svd.singularValues()[0] == Approx(std::max(2 * flat, 1.0)));
    CHECK(svd.singularValues()[1] == Approx(1));
  }
  const Footprint far = footprint(Matrix2::Constant(std::numeric_limits<double>::infinity()));
  CHECK(far.reach.allFinite());
  CHECK(far.to_result.allFinite());
  CHECK(footprint(Matrix2::Constant(std::numeric_limits<double>::quiet_NaN())).reach == Matrix2::Identity());
}

TEST_CASE("on every instruction set the widened kernel is the mean under it, to beyond the edges", "[shrinking]") {
  const BestTarget afterwards;
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3, Kernel::area);
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32);
  const int bands = GENERATE(1, 4);
  const Size size{110, 90}, result{50, 37};
  // The spline's own samples are laid out under edges by its prefilter; the others' repeat as the rules say.
  const BorderMode edge = depth == Depth::u16 ? BorderMode::mirror : bands == 4 ? BorderMode::tile : BorderMode::extend;
  const Image samples = test::noise(size.width, size.height, bands, depth);
  const Pyramid source = pyramid_of(samples.clone());
  const Resampling how{kernel, edge, {0}, true};
  std::vector<Endless> endless;
  for (int band = 0; band < bands; ++band) endless.emplace_back(samples, band, kernel, edge);
  const double allowed = depth == Depth::u8 ? 0.51 : depth == Depth::u16 ? 1.2 : 2e-5;
  const double top = depth == Depth::u8 ? 255 : depth == Depth::u16 ? 65535 : 1e30;
  for (const std::string& target : vector_targets()) {
    use_vector_target(target);
    for (const Matrix3& inverse_map : {shrinking(2.6, 1.1, 23), shrinking(1.2, 1.7, -70), shrinking(-1.9, 1.4, 0)}) {
      const Image out = warp(source, plan_of(inverse_map, size, result), {0, 0, result.width, result.height}, how,
                             Quality::final, {});
      double worst = 0;
      for (int y = 0; y < result.height; y += 6)
        for (int x = y % 5; x < result.width; x += 7) {
          const Point at = *Map::apply(inverse_map, {x + 0.5, y + 0.5});
          // As far out as the reference can be asked.
          if (at.x < -10 || at.y < -10 || at.x > size.width + 10 || at.y > size.height + 10) continue;
          for (int band = 0; band < bands; band += 3) {
            const double expected = expected_at(samples, endless[static_cast<std::size_t>(band)], band, how,
                                                inverse_map, {x + 0.5, y + 0.5});
            worst = std::max(
                worst, std::abs(value(out, band, x, y) - std::clamp(expected, depth == Depth::f32 ? -9.0 : 0.0, top)));
          }
        }
      INFO(target << ", " << name_of(kernel) << ", " << name_of(depth) << ", " << name_of(edge) << "\n" << inverse_map);
      CHECK(worst < allowed);
    }
  }
}

TEST_CASE("where a map shrinks more and more, each pixel has its own footprint", "[shrinking]") {
  // Footprints are exact every 16 pixels and even in between: here they change by a hundredth within that.
  const Kernel kernel = GENERATE(Kernel::cubic, Kernel::area);
  const Size size{400, 300}, result{120, 90};
  const Image samples = test::noise(size.width, size.height, 1, Depth::f32);
  Matrix3 inverse_map;
  inverse_map << 1.6, 0.5, 20, -0.3, 1.9, 30, -5e-4, -3e-4, 1;
  const Resampling how{kernel, BorderMode::extend, {0}, true};
  const Image out = warp(pyramid_of(samples.clone()), plan_of(inverse_map, size, result),
                         {0, 0, result.width, result.height}, how, Quality::final, {});
  const Endless endless(samples, 0, kernel, BorderMode::extend);
  double square = 0;
  int count = 0;
  for (int y = 0; y < result.height; y += 11)
    for (int x = 3; x < result.width; x += 9) {
      if (!out.valid(x, y)) continue;
      const double error = value(out, 0, x, y) - expected_at(samples, endless, 0, how, inverse_map, {x + 0.5, y + 0.5});
      square += error * error;
      ++count;
    }
  CHECK(count > 60);
  CHECK(std::sqrt(square / count) < 2e-4);  // of noise between 0 and 1
}

TEST_CASE("pixels that lie hundreds of source pixels from each other are the same done together and alone",
          "[shrinking]") {
  const BorderMode edge = GENERATE(BorderMode::extend, BorderMode::mirror, BorderMode::mirror_once, BorderMode::tile);
  const Depth depth = GENERATE(Depth::u8, Depth::f32);
  const Size size{700, 500};
  const Image samples = test::noise(size.width, size.height, 2, depth);
  const Resampling how{Kernel::area, edge, {0}, true};
  const Matrix3 inverse_map = shrinking(52, 37, 31);
  const Pyramid source = pyramid_of(samples.clone());
  const Size result{34, 20};
  const WarpPlan plan = plan_of(inverse_map, size, result);
  const Image whole = warp(source, plan, {0, 0, result.width, result.height}, how, Quality::final, {});
  for (const Region part : {Region{3, 5, 1, 1}, Region{0, 0, 5, 7}, Region{17, 2, 17, 18}}) {
    const Image alone = warp(source, plan, part, how, Quality::final, {});
    bool same = true;
    for (int band = 0; band < 2; ++band)
      for (int y = 0; y < part.height; ++y)
        for (int x = 0; x < part.width; ++x)
          same = same && value(alone, band, x, y) == value(whole, band, part.x + x, part.y + y);
    CHECK(same);
  }
  const double expected = plain_wide(samples, 1, Kernel::area, edge, *Map::apply(inverse_map, {4.5, 3.5}),
                                     inverse_map.topLeftCorner<2, 2>());
  CHECK(value(whole, 1, 4, 3) == Approx(expected).margin(depth == Depth::u8 ? 0.51 : 2e-6));
}

TEST_CASE("a number that is none stays within the kernel that covers it", "[shrinking]") {
  const Kernel kernel = GENERATE(Kernel::linear, Kernel::cubic, Kernel::area);
  Image samples = test::noise(160, 120, 1, Depth::f32);
  samples.row<float>(0, 61)[83] = std::numeric_limits<float>::quiet_NaN();
  const Matrix3 inverse_map = shrinking(2.2, 2.4, 15);
  const Size result{60, 48};
  const Image out = warp(pyramid_of(samples.clone()), plan_of(inverse_map, {160, 120}, result), {0, 0, 60, 48},
                         {kernel, BorderMode::extend, {0}, true}, Quality::final, {});
  const Matrix2 to_result = Matrix2(inverse_map.topLeftCorner<2, 2>()).inverse();
  const double radius = kernel == Kernel::linear ? 1.6 : kernel == Kernel::cubic ? 2.6 : 0;
  int touched = 0;
  bool right = true;
  for (int y = 0; y < result.height; ++y)
    for (int x = 0; x < result.width; ++x) {
      const Point at = *Map::apply(inverse_map, {x + 0.5, y + 0.5});
      const Eigen::Vector2d uv = to_result * Eigen::Vector2d(83.5 - at.x, 61.5 - at.y);
      const auto end = [&](int row) {
        return radius > 0 ? radius : 0.5 + 0.5 * (std::abs(to_result(row, 0)) + std::abs(to_result(row, 1)));
      };
      const double over = std::max(std::abs(uv.x()) - end(0), std::abs(uv.y()) - end(1));
      const bool none = std::isnan(out.row<float>(0, y)[x]);
      touched += none;
      if (std::abs(over) > 0.02) right = right && none == (over < 0);
    }
  CHECK(right);
  CHECK(touched > 0);
}
