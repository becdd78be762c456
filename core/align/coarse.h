#pragma once
/// Where to begin a search, found without a start.
#include <vector>

#include "align/prepared.h"
#include "filter/fft_plans.h"

namespace fexel {

/// A transform from the reference's places to the frame's, at full size, and how well the two agree there.
struct Start {
  Matrix3 inverse_map = Matrix3::Identity();
  double agreement = 0;  ///< normalised correlation over the overlap, less where that is small
};

/// Shifts at which the planes may agree, best first, at most three: peaks of the phase correlation (C. D. Kuglin, D. C.
/// Hines, 1975, "The phase correlation image alignment method") of the level, each judged by correlation over what then
/// overlaps. The frame is turned before: `turned` carries the level's places from the reference to the frame.
std::vector<Start> shift_starts(const PreparedFrame& reference, const PreparedFrame& frame, int level,
                                const FftPlans& transforms, const Matrix3& turned = Matrix3::Identity());

/// The same by the normalised correlation of every shift over what overlaps there (D. Padfield, 2012, "Masked object
/// registration in the Fourier domain"): slower, but sure where little overlaps.
std::vector<Start> overlap_starts(const PreparedFrame& reference, const PreparedFrame& frame, int level,
                                  const FftPlans& transforms);

/// The same with a turn of any angle and a scale of 0.4 to 2.5, from the spectra's magnitudes in logarithmic polar
/// coordinates (B. S. Reddy, B. N. Chatterji, 1996, "An FFT-based technique for translation, rotation, and
/// scale-invariant image registration"). Without `scales`, the scale is 1.
std::vector<Start> turned_starts(const PreparedFrame& reference, const PreparedFrame& frame, int level, bool scales,
                                 const FftPlans& transforms);

}  // namespace fexel
