#pragma once
/// Interpolation kernels and border modes.
#include <algorithm>
#include <cmath>
#include <functional>
#include <optional>
#include <span>
#include <string_view>
#include <vector>

namespace fexel {

/// nearest: the sample whose pixel the point is in. linear: a tent of one pixel. cubic: cubic convolution with a = −0.5
/// (R. G. Keys, 1981, "Cubic convolution interpolation for digital image processing"). lanczos3: a sinc under a sinc
/// window of three pixels, its weights divided by their sum (C. E. Duchon, 1979, "Lanczos filtering in one and two
/// dimensions"). bspline3: the cubic spline through all samples (M. Unser, 1999, "Splines: a perfect fit for signal and
/// image processing"). area: the mean over the result pixel's footprint; where nothing shrinks it is linear.
enum class Kernel { nearest, linear, cubic, lanczos3, bspline3, area };
/// What kernels read, and what is painted, outside the source. fill: the fill value is painted, kernels read the
/// nearest edge pixel. For samples abc: extend aaa|abc|ccc, mirror cba|abc|cba, mirror_once cb|abc|ba,
/// tile abc|abc|abc, without end.
enum class BorderMode { fill, extend, mirror, mirror_once, tile };

/// The pixel, 0 to count − 1, that stands at place `index` of a line of `count` pixels under the rule.
inline int folded(int index, int count, BorderMode edge) {
  if (index >= 0 && index < count) return index;
  const auto modulo = [](int value, int period) {
    const int rest = value % period;
    return rest < 0 ? rest + period : rest;
  };
  switch (edge) {
    case BorderMode::fill:
    case BorderMode::extend:
      return index < 0 ? 0 : count - 1;
    case BorderMode::mirror: {
      const int at = modulo(index, 2 * count);
      return at < count ? at : 2 * count - 1 - at;
    }
    case BorderMode::mirror_once: {
      if (count == 1) return 0;
      const int at = modulo(index, 2 * count - 2);
      return at < count ? at : 2 * count - 2 - at;
    }
    case BorderMode::tile:
      return modulo(index, count);
  }
  return 0;
}

std::string_view name_of(Kernel kernel);
std::string_view name_of(BorderMode edge);
std::optional<Kernel> kernel_named(std::string_view name);
std::optional<BorderMode> border_mode_named(std::string_view name);
std::vector<std::string_view> kernel_names();
std::vector<std::string_view> border_mode_names();

/// How a chain resamples.
struct Resampling {
  Kernel kernel = Kernel::cubic;
  BorderMode edge = BorderMode::fill;
  std::vector<double> fill{0};  ///< one value, or one a band, in sample values
  bool antialias = true;        ///< widen the kernel to the pixel's footprint where the map shrinks
  bool operator==(const Resampling&) const = default;
  float fill_of(int band) const {
    return static_cast<float>(fill.size() == 1 ? fill[0] : fill[static_cast<std::size_t>(band)]);
  }
};

/// The kernel's value at distance x, in pixels; it sums to one over the pixels to within rounding. For bspline3 this is
/// what prefilter and spline come to together, which never ends but falls to a quarter with each pixel.
double kernel_value(Kernel kernel, double x);
/// Half of the kernel's support, in pixels; for bspline3 the distance beyond which less than 1e-9 is left.
double kernel_radius(Kernel kernel);

/// How much of a wave of `frequency` cycles a pixel the kernel leaves, as a share of its amplitude: the transform of
/// the kernel, by Simpson's rule, within 1e-5.
double frequency_response(Kernel kernel, double frequency);

/// The six weights of lanczos3 for a point that lies t behind its third tap, 0 <= t < 1, with s = t − 1/2:
/// weight k is even[k](s²) + s odd[k](s²) and weight 5 − k is even[k](s²) − s odd[k](s²), polynomials of `terms` terms,
/// lowest first. Five terms keep 1.3e-7, four 4e-6.
struct LanczosFit {
  float even[3][5], odd[3][5];
};
/// The least-squares fit of that form. Terms are 4 or 5.
const LanczosFit& lanczos_fit(int terms);

/// The kernel that is used where the map shrinks, in *result* pixels: the kernel averaged by a tent 1.2 px wide at its
/// foot. The averaging keeps waves of 0.8 cycles per result pixel and above under 6 % in every direction, on sampled
/// pictures too, where the plain widened tent leaves up to 11 %. The spline is cut at four pixels. Not for area, whose
/// footprint is its kernel.
class ShrinkingKernel {
 public:
  static const ShrinkingKernel& of(Kernel kernel);
  /// The kernel itself, as it is laid along an axis of a footprint that does not shrink; the spline is cut at five
  /// pixels.
  static const ShrinkingKernel& not_widened(Kernel kernel);
  double radius() const { return radius_; }
  /// Value at |x| in result pixels, within 4e-6.
  float operator()(float x) const {
    const float at = std::abs(x) * pieces_.per_pixel;
    if (at >= Pieces::last) return 0;
    const int i = static_cast<int>(at);
    const float t = at - static_cast<float>(i);
    float sum = pieces_.terms[Pieces::degree][i];
    for (int k = Pieces::degree - 1; k >= 0; --k) sum = pieces_.terms[k][i] + t * sum;
    return sum;
  }
  /// The same in full: what tests and tables of accuracy compare with.
  static double exact(Kernel kernel, double x);

  /// The kernel in pieces of equal length, each a polynomial in the share t of it that lies behind: few enough for
  /// vector code to keep a term of all pieces in a register. The last one, beyond the kernel's end, is nothing.
  struct Pieces {
    static constexpr int count = 16, last = count - 1, degree = 4;
    float per_pixel;
    alignas(64) float terms[degree + 1][count]{};  // lowest first
  };
  const Pieces& pieces() const { return pieces_; }

 private:
  /// `value` in pieces of which `per_pixel` make a result pixel, up to `radius`.
  ShrinkingKernel(double radius, double per_pixel, const std::function<double(double)>& value);
  double radius_;
  Pieces pieces_;
};

}  // namespace fexel
