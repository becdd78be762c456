#pragma once
/// Fourier transforms of real planes, planned once for each size.
#include <complex>
#include <map>
#include <memory>
#include <mutex>
#include <vector>

#include "geometry/point.h"

namespace fexel {

/// Rows of numbers, and their transform: rows of width / 2 + 1.
using Plane = std::vector<float>;
using Spectrum = std::vector<std::complex<float>>;

/// Several threads may use one.
class FftPlans {
 public:
  FftPlans();
  ~FftPlans();
  /// The transform of a plane of this size, not normalised.
  Spectrum forward(Size size, const Plane& plane) const;
  /// Back, divided by the number of pixels.
  Plane backward(Size size, Spectrum spectrum) const;
  /// Of complex planes, without memory of their own, and not divided on the way back. Both lie at addresses that are
  /// divisible by 16, as those of vectors are; they may not be the same.
  void forward(Size size, const std::complex<float>* from, std::complex<float>* to) const;
  void backward(Size size, const std::complex<float>* from, std::complex<float>* to) const;
  /// The next size from n on that is quick to transform: a product of 2, 3 and 5, and even.
  static int quick(int n);

 private:
  struct Plans;
  const Plans& plans(Size size) const;
  struct ComplexPlans;
  const ComplexPlans& complex_plans(Size size) const;
  mutable std::mutex mutex_;
  mutable std::map<std::pair<int, int>, std::unique_ptr<Plans>> plans_;
  mutable std::map<std::pair<int, int>, std::unique_ptr<ComplexPlans>> complex_;
};

}  // namespace fexel
