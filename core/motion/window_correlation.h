#pragma once
/// The correlation of two windows, its peak, and how certain the peak is.
#include <memory>
#include <optional>
#include <vector>

#include "filter/fft_plans.h"
#include "image/image.h"

namespace fexel {

/// Planes are size x size, with no shift in the middle, at (size / 2, size / 2); a peak to the right of it means that
/// the second window's content lies further right.
struct WindowPlane {
  std::vector<float> values;  ///< covariances a pixel, each by its own overlap; the normalised correlation when divided
  double norm = 0;            ///< by this: the two standard deviations' product
  double share = 0;           ///< of the window's pixels that count in both
  double over_noise = 1e9;    ///< of the plane that a product was made of: a product hides its own noise
};

/// Correlates windows of one size. Holds buffers: one object for each thread.
///
/// The mean of each window is taken out, and each covariance is divided by the pixels that overlap at its shift, so
/// that nothing pulls toward no shift (J. Westerweel, 1997, "Fundamentals of digital particle image velocimetry").
/// Windows that are masked in part are correlated with room around, so that what is wrapped does not count either.
class WindowCorrelator {
 public:
  WindowCorrelator(int size, const FftPlans& plans);
  /// Windows whose first pixels are (ax, ay) of a and (bx, by) of b; what is beyond the picture or masked there does
  /// not count. False where less than half of the window does, or one of them is flat.
  bool correlate(const Image& a, int ax, int ay, const Image& b, int bx, int by, WindowPlane& out);

 private:
  /// A window's values without their mean, and its mask where one is needed.
  struct Taken {
    std::vector<float> values, mask;
    int count = 0;
    double variance = 0;
  };
  void take(const Image& from, int x, int y, Taken& out) const;
  /// The covariances of two planes at all shifts, wrapped, times the number of pixels; of planes that the windows lie
  /// in the corner of, which are `side` wide.
  const std::vector<std::complex<float>>& covariances(int side, const std::vector<float>& a,
                                                      const std::vector<float>& b);
  int size_;
  const FftPlans& plans_;
  Taken a_, b_;
  std::vector<float> by_overlap_;  // of whole windows, as planes are laid out
  std::vector<std::complex<float>> pair_, spectrum_;
};

/// The geometric mean of planes, of what is above nothing: what only one of them shows is no peak. For robust matching:
/// D. P. Hart, 2000, "PIV error correction".
WindowPlane mean_of_products(const std::vector<WindowPlane>& planes);

struct WindowPeak {
  bool found = false;     ///< inside of the reach, and not at its edge
  Point shift;            ///< px
  double height = 0;      ///< normalised correlation
  double ratio = 0;       ///< to the next peak; 100 where there is none
  double over_noise = 0;  ///< the height, in standard deviations of the plane beside the peak
};
/// The highest peak at most `reach` px from the middle, to parts of a pixel: by the Gaussian through the nine
/// covariances about it (H. Nobach, M. Honkanen, 2005, "Two-dimensional Gaussian regression for sub-pixel displacement
/// estimation in particle image velocimetry or particle position estimation in particle tracking velocimetry").
WindowPeak highest_peak(const WindowPlane& plane, int size, int reach);

/// Two windows that are laid on each other nearly: what is left of a shift, and how certain that is. Sums; those of
/// several pairs add up.
struct WindowFit {
  double xx = 0, xy = 0, yy = 0;  ///< of products of slopes
  double x = 0, y = 0;            ///< of slopes times differences
  double var_x = 0, var_y = 0;    ///< of these two sums, from the differences' own statistics
  double difference = 0;          ///< of squared differences
  double count = 0;               ///< pixels
  void add(const WindowFit& other);
  /// The shift that is left, by least squares; nothing where nothing holds the window.
  std::optional<Point> shift() const;
  /// Its standard uncertainty along x and y, px; infinite where nothing holds the window.
  Point sigma() const;
};
/// The second window is like the first one moved by the shift. The variance of the sums goes by how far differences
/// times slopes are alike from pixel to pixel, so that grains that only one of the two shows count: B. Wieneke, 2015,
/// "PIV uncertainty quantification from correlation statistics". `known` is taken off before. Pixels around the window
/// are needed; without them it is smaller.
class WindowFitter {
 public:
  explicit WindowFitter(int size);
  WindowFit fit(const Image& a, int ax, int ay, const Image& b, int bx, int by, std::optional<Point> known);

 private:
  int size_;
  std::vector<float> a_, b_, across_, down_, difference_, product_, sums_;
  std::vector<char> counts_;
};

}  // namespace fexel
