#pragma once
/// Changes of samples. All keep the depth unless they say otherwise, round to nearest and clamp; beyond the picture the
/// nearest pixel is read; a mask is kept. `clamped` grows by the samples that the depth could not hold.
#include <vector>

#include "base/job.h"
#include "geometry/point.h"
#include "image/image.h"

namespace fexel {

/// Rows of numbers.
struct Grid {
  int width = 1, height = 1;
  std::vector<double> numbers;  ///< row by row
  bool operator==(const Grid&) const = default;
  double sum() const;
};

/// The bands of these numbers, from 0, in this order. The picture has them all.
Image chosen_bands(const Image& image, const std::vector<int>& bands);
/// One band: the sum of all bands with these weights, one for each.
Image weighed_bands(const Image& image, const std::vector<double>& weights, const Job& job = {},
                    std::int64_t* clamped = nullptr);

/// One band, from 1, or the mean of all, 0; as float.
Image plane_of(const Image& image, int band, const Job& job);

/// A Gaussian of standard deviation radius / 2, cut off at four standard deviations, with weights that sum to one. The
/// radius is more than 0.
Image gaussian(const Image& image, double radius, const Job& job = {});
/// The picture minus gaussian(), plus the middle of an integer picture's range (128, 32768).
Image highpass(const Image& image, double radius, const Job& job = {}, std::int64_t* clamped = nullptr);

/// Each sample becomes the median of the (2 radius + 1)^2 around it. Source: T. S. Huang, G. J. Yang, G. Y. Tang, 1979,
/// "A fast two-dimensional median filtering algorithm".
Image median(const Image& image, int radius, const Job& job = {});

/// The standard deviation of the noise in a part of an f32 band, in samples: a second difference along both axes leaves
/// noise, times 6, and little of the picture. Source: J. Immerkaer, 1996, "Fast noise variance estimation". A part
/// smaller than 3 x 3 has none.
double noise_in(const Image& plane, Region part);

/// scale x the sum of the kernel's numbers, as they are written, times the samples that they lie on, plus offset. An
/// odd kernel's middle lies on the pixel; an even one's lies half a pixel to the right of its middle, or below. Samples
/// that the new depth cannot hold are clamped, and counted.
Image convolved(const Image& image, const Grid& kernel, double scale, double offset, Depth depth, const Job& job = {},
                std::int64_t* clamped = nullptr);

/// Histogram equalisation over tiles of `tile` pixels, linear between their middles; the slope from old to new value is
/// at most `limit`, what is cut off being spread evenly. f32 is equalised between its smallest and largest sample.
/// Several bands keep their ratios: their mean is equalised. Source: K. Zuiderveld, 1994, "Contrast limited adaptive
/// histogram equalization".
Image equalised(const Image& image, int tile, double limit, const Job& job = {});

}  // namespace fexel
