#pragma once
/// How far frames are smoothed before they are matched.
#include <memory>

#include "align/prepared.h"
#include "filter/fft_plans.h"

namespace fexel {

/// The standard deviation of the Gaussian, in px, with which shifts of frames like this one are found best; 0 where
/// noise is no matter. From the spectrum of the frame's middle: noise is what its emptiest ring holds, signal the rest,
/// and what least squares on the gradient then comes to is worked out for several widths.
double best_smoothing(const PreparedFrame& frame, const FftPlans& transforms);

/// The first frame of several, smoothed as is best for it; the others get its smoothing(0).
std::shared_ptr<const PreparedFrame> prepared_best(const Image& frame, int band, SimilarityMetric likeness,
                                                   const Image* use, Role role, const FftPlans& transforms,
                                                   const Job& job);

/// The variance of the gradient's noise, where that of a smoothed plane's samples is 1: see PreparedFrame::gradient().
double gradient_noise_of(double smoothing);

/// The share of the variance of a smoothed plane's noise, along one axis, that interpolation at a fraction of a pixel
/// keeps: by the cubic spline, or linear.
double noise_kept(double smoothing, double fraction, bool spline);

}  // namespace fexel
