#pragma once
/// From samples to the coefficients of the cubic spline through them.
#include "base/job.h"
#include "image/image.h"
#include "resample/kernels/kernel.h"

namespace fexel {

/// Pixels that coefficients reach beyond the picture on every side.
inline constexpr int prefilter_margin = 16;

/// The coefficients c with (c[k−1] + 4 c[k] + c[k+1]) / 6 = the samples, along rows and columns, as float, with
/// prefilter_margin more pixels on every side, where the samples go on by the border mode. Where the samples are flat
/// the coefficients are the samples to the last bit. The error of ending there is below 1e-9 of the sample range.
/// Source: M. Unser, A. Aldroubi, M. Eden, 1993, "B-spline signal processing: part II".
Image spline_coefficients(const Image& samples, BorderMode edge, const Job& job);

}  // namespace fexel
