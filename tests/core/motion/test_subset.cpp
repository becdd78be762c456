#include <catch2/catch.hpp>

#include "motion/subset.h"
#include "tests/motion_scene.h"

// One subset found in another frame.

using namespace fexel;
using test::moved_frame;
using test::Speckle;

namespace {

const test::Displacement still = [](Point) { return Point{}; };

}  // namespace

TEST_CASE("a subset's values and slopes are those of the spline through the frame", "[motion]") {
  const Speckle surface(3);
  const Image image = moved_frame(60, 50, surface, still, 0, 1);
  const MotionFrame frame(image, {}, nullptr, {});
  const double x = GENERATE(20.0, 20.25, 20.7), y = GENERATE(24.0, 23.5);
  constexpr int size = 9, stride = 16;
  std::vector<float> value(size * stride), across(value), down(value);
  read_subset(frame.coefficients(), x, y, {value.data(), across.data(), down.data(), nullptr, size, stride});
  const SplineCoefficients spline = frame.coefficients();
  const auto weight = [](double d) {
    d = std::abs(d);
    return d < 1 ? 2.0 / 3 - d * d + d * d * d / 2 : d < 2 ? (2 - d) * (2 - d) * (2 - d) / 6 : 0;
  };
  const auto plain = [&](double px, double py) {
    double sum = 0;
    for (int j = int(std::floor(py)) - 1; j <= int(std::floor(py)) + 2; ++j)
      for (int i = int(std::floor(px)) - 1; i <= int(std::floor(px)) + 2; ++i)
        sum += weight(px - i) * weight(py - j) * double(spline.origin[j * spline.stride + i]);
    return sum;
  };
  for (int r = 0; r < size; ++r)
    for (int c = 0; c < size; ++c) {
      const double px = x - 4 + c, py = y - 4 + r, h = 1e-4;
      const std::size_t i = static_cast<std::size_t>(r * stride + c);
      CHECK(double(value[i]) == Approx(plain(px, py)).margin(1e-3));
      CHECK(double(across[i]) == Approx((plain(px + h, py) - plain(px - h, py)) / (2 * h)).margin(2e-3));
      CHECK(double(down[i]) == Approx((plain(px, py + h) - plain(px, py - h)) / (2 * h)).margin(2e-3));
      // At whole pixels it goes through the samples.
      if (px == std::floor(px) && py == std::floor(py))
        CHECK(double(value[i]) == Approx(double(image.row<float>(0, int(py))[int(px)])).margin(1e-3));
    }
}

TEST_CASE("the sums of a subset are those of plain loops, wherever it lies", "[motion]") {
  std::mt19937 random(5);
  std::uniform_real_distribution<float> any(-20, 20);
  Image image = moved_frame(80, 70, Speckle(4), still, 5, 2);
  const MotionFrame frame(image, {}, nullptr, {});
  const int size = GENERATE(11, 15, 21, 31);
  const int stride = (size + 7) / 8 * 8;
  const auto cells = static_cast<std::size_t>(size * stride);
  std::vector<float> v(cells), a(cells), b(cells), w(cells);
  for (int r = 0; r < size; ++r)
    for (int c = 0; c < size; ++c) {
      const std::size_t i = static_cast<std::size_t>(r * stride + c);
      w[i] = random() % 5 == 0 ? 0.0F : 1.0F;
      v[i] = w[i] * any(random);
      a[i] = w[i] * any(random);
      b[i] = w[i] * any(random);
    }
  const SubsetRows rows{v.data(), a.data(), b.data(), w.data(), size, stride};
  const double half = 0.5 * (size - 1);
  const auto [xx, xy] = GENERATE(std::pair(1.0F, 0.0F), std::pair(1.02F, -0.01F), std::pair(0.9F, 0.3F));
  const SubsetPlace place{38.37, 33.61, xx, xy, -xy, xx};
  const SubsetMoments m = moments_of(rows);
  const MatchSums s = sums_of(rows, frame.coefficients(), place, 100);
  std::vector<double> moments(SubsetMoments::how_many, 0), sums(MatchSums::how_many, 0);
  const SplineCoefficients spline = frame.coefficients();
  const auto weight_of = [](double d) {
    d = std::abs(d);
    return d < 1 ? 2.0 / 3 - d * d + d * d * d / 2 : d < 2 ? (2 - d) * (2 - d) * (2 - d) / 6 : 0;
  };
  for (int r = 0; r < size; ++r)
    for (int c = 0; c < size; ++c) {
      const std::size_t i = static_cast<std::size_t>(r * stride + c);
      const double x = c - half, y = r - half, vi = double(v[i]), ai = double(a[i]), bi = double(b[i]);
      const double terms[] = {1, x, y};
      const double px = place.x0 + double(xx) * x + double(xy) * y, py = place.y0 - double(xy) * x + double(xx) * y;
      double g = 0;
      for (int q = int(std::floor(py)) - 1; q <= int(std::floor(py)) + 2; ++q)
        for (int p = int(std::floor(px)) - 1; p <= int(std::floor(px)) + 2; ++p)
          g += weight_of(px - p) * weight_of(py - q) * double(spline.origin[q * spline.stride + p]);
      g = double(w[i]) * (g - 100);
      moments[SubsetMoments::vv] += vi * vi;
      const double squares[] = {x * x, x * y, y * y};
      for (int k = 0; k < 3; ++k) {
        moments[std::size_t(SubsetMoments::gx + k)] += ai * terms[k];
        moments[std::size_t(SubsetMoments::gy + k)] += bi * terms[k];
        moments[std::size_t(SubsetMoments::vgx + k)] += vi * ai * terms[k];
        moments[std::size_t(SubsetMoments::vgy + k)] += vi * bi * terms[k];
        const double products[] = {ai * ai, ai * bi, bi * bi};
        for (int q = 0; q < 3; ++q) {
          moments[std::size_t(SubsetMoments::aa + 6 * q + k)] += products[q] * terms[k];
          moments[std::size_t(SubsetMoments::aa + 6 * q + 3 + k)] += products[q] * squares[k];
        }
        sums[std::size_t(MatchSums::jg + k)] += ai * terms[k] * g;
        sums[std::size_t(MatchSums::jg + 3 + k)] += bi * terms[k] * g;
      }
      sums[MatchSums::g] += g;
      sums[MatchSums::gg] += g * g;
      sums[MatchSums::vg] += vi * g;
    }
  const double scale = size * size * 400.0;
  for (int k = 0; k < SubsetMoments::how_many; ++k)
    CHECK(std::abs(m[k] - moments[std::size_t(k)]) < 2e-6 * scale * half * half);
  for (int k = 0; k < MatchSums::how_many; ++k) CHECK(std::abs(s[k] - sums[std::size_t(k)]) < 1e-5 * scale * half);
}

TEST_CASE("a subset is found to the noise's limit, without a pull at any fraction of a pixel", "[motion]") {
  const double noise = GENERATE(0.0, 4.0);
  const int size = 21;
  const Speckle surface(7);
  double worst_mean = 0, squares = 0, floor = 0, stated = 0, covered = 0;
  int count = 0;
  for (int step = 0; step < 11; ++step) {
    const Point shift{0.1 * step, 0.3 * step - 1};
    const Image first = moved_frame(260, 260, surface, still, noise, unsigned(10 + step));
    const Image second = moved_frame(
        260, 260, surface, [&](Point) { return shift; }, noise, unsigned(50 + step));
    const MotionFrame reference(first, {}, nullptr, {}), frame(second, {}, nullptr, {});
    const MotionFrame clean(moved_frame(260, 260, surface, still, 0, 1), {}, nullptr, {});
    SubsetMatcher matcher(size), truth(size);
    Point mean;
    int here = 0;
    for (int y = 20; y < 240; y += 11)
      for (int x = 20; x < 240; x += 11) {
        const Point at{x + 0.5, y + 0.5};
        REQUIRE(matcher.take(reference, at));
        const SubsetFound found = matcher.match(frame, {{std::round(shift.x), std::round(shift.y)}});
        REQUIRE(found.found());
        const Point off = found.motion.moved - shift;
        mean = mean + off;
        ++here;
        squares += off.x * off.x + off.y * off.y;
        REQUIRE(truth.take(clean, at));
        const SubsetTexture t = truth.texture(0);
        floor +=
            noise * noise * (t.sigma_per_noise.x * t.sigma_per_noise.x + t.sigma_per_noise.y * t.sigma_per_noise.y);
        stated += found.sigma.x * found.sigma.x + found.sigma.y * found.sigma.y;
        covered += (std::abs(off.x) < found.sigma.x) + (std::abs(off.y) < found.sigma.y);
        count += 2;
      }
    worst_mean = std::max({worst_mean, std::abs(mean.x / here), std::abs(mean.y / here)});
  }
  INFO("noise " << noise << " rms " << std::sqrt(squares / count) << " floor " << std::sqrt(floor / count) << " stated "
                << std::sqrt(stated / count) << " covered " << covered / count << " bias " << worst_mean);
  if (noise == 0) {
    CHECK(std::sqrt(squares / count) < 0.002);
    CHECK(worst_mean < 0.002);
    // Without noise the interpolation is what is left, and is in what is stated.
    CHECK(covered / count > 0.6);
  } else {
    CHECK(std::sqrt(squares / floor) < 1.05);
    CHECK(covered / count > 0.60);
    CHECK(covered / count < 0.75);
    // The mean of 400 subsets has this much noise itself.
    CHECK(worst_mean < 0.002 + 4 * std::sqrt(floor / count / 400));
  }
}
