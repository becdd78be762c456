#include "filter/fft_plans.h"

#include <fftw3.h>

namespace fexel {
namespace {

fftwf_complex* in_place(Spectrum& spectrum) {
  return reinterpret_cast<fftwf_complex*>(spectrum.data());
}
/// The library does not say in its types what it only reads.
fftwf_complex* library_type(const std::complex<float>* numbers) {
  return reinterpret_cast<fftwf_complex*>(const_cast<std::complex<float>*>(numbers));
}
/// The planner is one for the whole process, and one thread's at a time.
std::mutex& planner() {
  static std::mutex mutex;
  return mutex;
}

}  // namespace

struct FftPlans::Plans {
  fftwf_plan forward = nullptr, backward = nullptr;
  explicit Plans(Size size) {
    Plane plane(static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height));
    Spectrum spectrum(static_cast<std::size_t>(size.width / 2 + 1) * static_cast<std::size_t>(size.height));
    const std::scoped_lock lock(planner());
    constexpr unsigned how = FFTW_ESTIMATE | FFTW_UNALIGNED;
    forward = fftwf_plan_dft_r2c_2d(size.height, size.width, plane.data(), in_place(spectrum), how);
    backward = fftwf_plan_dft_c2r_2d(size.height, size.width, in_place(spectrum), plane.data(), how);
  }
  ~Plans() {
    const std::scoped_lock lock(planner());
    fftwf_destroy_plan(forward);
    fftwf_destroy_plan(backward);
  }
};

struct FftPlans::ComplexPlans {
  fftwf_plan forward = nullptr, backward = nullptr;
  explicit ComplexPlans(Size size) {
    Spectrum from(static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height)), to(from.size());
    const std::scoped_lock lock(planner());
    const auto plan = [&](int sign) {
      return fftwf_plan_dft_2d(size.height, size.width, in_place(from), in_place(to), sign,
                               FFTW_ESTIMATE | FFTW_PRESERVE_INPUT);
    };
    forward = plan(FFTW_FORWARD);
    backward = plan(FFTW_BACKWARD);
  }
  ~ComplexPlans() {
    const std::scoped_lock lock(planner());
    fftwf_destroy_plan(forward);
    fftwf_destroy_plan(backward);
  }
};

FftPlans::FftPlans() = default;
FftPlans::~FftPlans() = default;

const FftPlans::Plans& FftPlans::plans(Size size) const {
  const std::scoped_lock lock(mutex_);
  auto& made = plans_[{size.width, size.height}];
  if (!made) made = std::make_unique<Plans>(size);
  return *made;
}

const FftPlans::ComplexPlans& FftPlans::complex_plans(Size size) const {
  const std::scoped_lock lock(mutex_);
  auto& made = complex_[{size.width, size.height}];
  if (!made) made = std::make_unique<ComplexPlans>(size);
  return *made;
}

Spectrum FftPlans::forward(Size size, const Plane& plane) const {
  Spectrum out(static_cast<std::size_t>(size.width / 2 + 1) * static_cast<std::size_t>(size.height));
  // The transform does not write to its input, which the library does not say in its types.
  fftwf_execute_dft_r2c(plans(size).forward, const_cast<float*>(plane.data()), in_place(out));
  return out;
}

Plane FftPlans::backward(Size size, Spectrum spectrum) const {
  Plane out(static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height));
  fftwf_execute_dft_c2r(plans(size).backward, in_place(spectrum), out.data());
  const float scale = 1 / static_cast<float>(out.size());
  for (float& v : out) v *= scale;
  return out;
}

void FftPlans::forward(Size size, const std::complex<float>* from, std::complex<float>* to) const {
  fftwf_execute_dft(complex_plans(size).forward, library_type(from), library_type(to));
}

void FftPlans::backward(Size size, const std::complex<float>* from, std::complex<float>* to) const {
  fftwf_execute_dft(complex_plans(size).backward, library_type(from), library_type(to));
}

int FftPlans::quick(int n) {
  for (n += n % 2;; n += 2) {
    int rest = n;
    for (const int factor : {2, 3, 5})
      while (rest % factor == 0) rest /= factor;
    if (rest == 1) return n;
  }
}

}  // namespace fexel
