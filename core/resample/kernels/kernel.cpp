#include "resample/kernels/kernel.h"

#include <array>
#include <cmath>
#include <numbers>

namespace fexel {
namespace {

constexpr std::string_view kernel_table[] = {"nearest", "linear", "cubic", "lanczos3", "bspline3", "area"};
constexpr std::string_view edge_table[] = {"fill", "extend", "mirror", "mirror-once", "tile"};
constexpr double tent_half_width = 0.6;

/// sinc(x) sinc(x / 3), not yet divided by the sum over the pixels.
double windowed_sinc(double x) {
  if (std::abs(x) < 1e-9) return 1;
  if (std::abs(x) >= 3) return 0;
  const double a = M_PI * x;
  return 3 * std::sin(a) * std::sin(a / 3) / (a * a);
}

const double spline_pole = std::sqrt(3.0) - 2;

/// The cubic B-spline.
double spline(double x) {
  const double t = std::abs(x);
  if (t < 1) return 2.0 / 3 - t * t + t * t * t / 2;
  if (t < 2) return (2 - t) * (2 - t) * (2 - t) / 6;
  return 0;
}

/// Where a kernel is cut when it is widened.
double widened_radius(Kernel kernel) {
  return std::min(kernel_radius(kernel), 4.0);
}

template <class Enum, std::size_t N>
std::optional<Enum> named(const std::string_view (&table)[N], std::string_view name) {
  for (std::size_t i = 0; i < N; ++i)
    if (table[i] == name) return static_cast<Enum>(i);
  return std::nullopt;
}

}  // namespace

std::string_view name_of(Kernel kernel) {
  return kernel_table[static_cast<std::size_t>(kernel)];
}
std::string_view name_of(BorderMode edge) {
  return edge_table[static_cast<std::size_t>(edge)];
}
std::optional<Kernel> kernel_named(std::string_view name) {
  return named<Kernel>(kernel_table, name);
}
std::optional<BorderMode> border_mode_named(std::string_view name) {
  return named<BorderMode>(edge_table, name);
}
std::vector<std::string_view> kernel_names() {
  return {std::begin(kernel_table), std::end(kernel_table)};
}
std::vector<std::string_view> border_mode_names() {
  return {std::begin(edge_table), std::end(edge_table)};
}

double kernel_value(Kernel kernel, double x) {
  const double t = std::abs(x);
  switch (kernel) {
    case Kernel::nearest:
      return x >= -0.5 && x < 0.5 ? 1 : 0;
    case Kernel::linear:
    case Kernel::area:
      return t < 1 ? 1 - t : 0;
    case Kernel::cubic:
      if (t < 1) return (1.5 * t - 2.5) * t * t + 1;
      if (t < 2) return ((-0.5 * t + 2.5) * t - 4) * t + 2;
      return 0;
    case Kernel::lanczos3: {
      if (t >= 3) return 0;
      double sum = 0;
      const double part = x - std::floor(x);
      for (int tap = -3; tap <= 2; ++tap) sum += windowed_sinc(part + tap);
      return windowed_sinc(x) / sum;
    }
    case Kernel::bspline3: {
      double sum = 0;
      for (int tap = static_cast<int>(std::floor(x)) - 1; tap <= static_cast<int>(std::floor(x)) + 2; ++tap)
        sum += std::pow(spline_pole, std::abs(tap)) * spline(x - tap);
      return sum * -6 * spline_pole / (1 - spline_pole * spline_pole);
    }
  }
  return 0;
}

double kernel_radius(Kernel kernel) {
  switch (kernel) {
    case Kernel::nearest:
      return 0.5;
    case Kernel::linear:
    case Kernel::area:
      return 1;
    case Kernel::cubic:
      return 2;
    case Kernel::lanczos3:
      return 3;
    case Kernel::bspline3:
      return 17;
  }
  return 0;
}

namespace {

/// Least squares at Chebyshev's points, where his polynomials are orthogonal; then as powers of s.
LanczosFit fitted_lanczos(int terms) {
  constexpr int points = 400;
  LanczosFit fit{};
  for (int k = 0; k < 3; ++k) {
    std::array<double, 12> powers{}, before{}, now{1};  // of u = 2 s: the sum, and two polynomials in a row
    for (int n = 0; n < 2 * terms; ++n) {
      double share = 0;
      for (int i = 0; i < points; ++i) {
        const double angle = M_PI * (i + 0.5) / points;
        share += kernel_value(Kernel::lanczos3, k - 2.5 - 0.5 * std::cos(angle)) * std::cos(n * angle);
      }
      share *= (n == 0 ? 1.0 : 2.0) / points;
      for (std::size_t m = 0; m < powers.size(); ++m) powers[m] += share * now[m];
      std::array<double, 12> next{};
      for (std::size_t m = 0; m + 1 < next.size(); ++m) next[m + 1] = (n == 0 ? 1 : 2) * now[m];
      for (std::size_t m = 0; m < next.size(); ++m) next[m] -= before[m];
      before = now;
      now = next;
    }
    for (int n = 0; n < terms; ++n) {
      fit.even[k][n] = static_cast<float>(std::ldexp(powers[static_cast<std::size_t>(2 * n)], 2 * n));
      fit.odd[k][n] = static_cast<float>(std::ldexp(powers[static_cast<std::size_t>(2 * n + 1)], 2 * n + 1));
    }
  }
  return fit;
}

}  // namespace

double frequency_response(Kernel kernel, double frequency) {
  if (kernel == Kernel::nearest) {
    const double a = std::numbers::pi * frequency;
    return std::abs(a) < 1e-9 ? 1 : std::sin(a) / a;
  }
  // The kernels' pieces end at whole pixels.
  constexpr int parts = 64;
  double sum = 0;
  for (int piece = 0; piece < static_cast<int>(std::ceil(kernel_radius(kernel))); ++piece)
    for (int i = 0; i <= parts; ++i) {
      const double x = piece + double(i) / parts, weight = i == 0 || i == parts ? 1 : i % 2 == 1 ? 4 : 2;
      sum += weight * kernel_value(kernel, x) * std::cos(2 * std::numbers::pi * frequency * x);
    }
  return 2 * sum / (3 * parts);
}

const LanczosFit& lanczos_fit(int terms) {
  static const LanczosFit four = fitted_lanczos(4), five = fitted_lanczos(5);
  return terms == 4 ? four : five;
}

namespace {

/// Gauss-Legendre with two points on each piece of the tent: exact for cubic pieces, but for the few with a knot
/// inside.
double averaged(Kernel kernel, double x, int pieces) {
  const double piece = 2 * tent_half_width / pieces;
  const double node = 0.5 / std::sqrt(3.0);
  double sum = 0;
  for (int i = 0; i < pieces; ++i)
    for (const double side : {-node, node}) {
      const double offset = -tent_half_width + (i + 0.5 + side) * piece;
      if (std::abs(x - offset) < widened_radius(kernel))
        sum += kernel_value(kernel, x - offset) * (1 - std::abs(offset) / tent_half_width);
    }
  return sum * piece / 2 / tent_half_width;
}

}  // namespace

double ShrinkingKernel::exact(Kernel kernel, double x) {
  return averaged(kernel, x, 480);
}

ShrinkingKernel::ShrinkingKernel(double radius, double per_pixel, const std::function<double(double)>& value)
    : radius_(radius) {
  constexpr int nodes = Pieces::degree + 1;
  pieces_.per_pixel = static_cast<float>(per_pixel);
  const double piece = 1 / per_pixel;
  for (int i = 0; i < Pieces::last && i * piece < radius - 1e-9; ++i) {
    // Through the Chebyshev points, by divided differences, which are then multiplied out.
    std::array<double, nodes> t{}, f{}, terms{};
    for (int k = 0; k < nodes; ++k) {
      const auto n = static_cast<std::size_t>(k);
      t[n] = 0.5 - 0.5 * std::cos(std::numbers::pi * (k + 0.5) / nodes);
      f[n] = value((i + t[n]) * piece);
    }
    for (std::size_t order = 1; order < nodes; ++order)
      for (std::size_t k = nodes - 1; k >= order; --k) f[k] = (f[k] - f[k - 1]) / (t[k] - t[k - order]);
    for (std::size_t k = nodes; k-- > 0;) {
      for (std::size_t m = nodes - 1; m > 0; --m) terms[m] = terms[m - 1] - t[k] * terms[m];
      terms[0] = f[k] - t[k] * terms[0];
    }
    for (std::size_t m = 0; m < nodes; ++m) pieces_.terms[m][i] = static_cast<float>(terms[m]);
  }
}

namespace {

/// One for each kernel but nearest; that of area is not used.
template <class Make>
const ShrinkingKernel& kept(Kernel kernel, const Make& make) {
  // Each is made when it is first asked for.
  switch (kernel) {
    case Kernel::cubic: {
      static const ShrinkingKernel cubic = make(Kernel::cubic);
      return cubic;
    }
    case Kernel::lanczos3: {
      static const ShrinkingKernel lanczos3 = make(Kernel::lanczos3);
      return lanczos3;
    }
    case Kernel::bspline3: {
      static const ShrinkingKernel bspline3 = make(Kernel::bspline3);
      return bspline3;
    }
    default: {
      static const ShrinkingKernel linear = make(Kernel::linear);
      return linear;
    }
  }
}

}  // namespace

const ShrinkingKernel& ShrinkingKernel::of(Kernel kernel) {
  return kept(kernel, [](Kernel which) {
    const double radius = widened_radius(which) + tent_half_width;
    return ShrinkingKernel(radius, Pieces::last / radius, [&](double x) { return averaged(which, x, 240); });
  });
}

const ShrinkingKernel& ShrinkingKernel::not_widened(Kernel kernel) {
  return kept(kernel, [](Kernel which) {
    // Pieces end at whole pixels, where the kernels are joined.
    const double radius = std::min(kernel_radius(which), 5.0);
    // Where taps stand closer than a pixel apart, the weights of lanczos3 sum to one over those.
    return ShrinkingKernel(radius, std::floor(Pieces::last / radius), [&](double x) {
      return which == Kernel::lanczos3 ? windowed_sinc(x) : kernel_value(which, x);
    });
  });
}

}  // namespace fexel
