#pragma once
/// Sums over one subset of pixels: all that a step of its match needs to know.
#include <cstddef>

#include "image/memory.h"

namespace fexel {

/// A square subset as rows of floats, `stride` from one to the next; behind its pixels nothing counts.
struct SubsetRows {
  float* value;   ///< less their mean; 0 where a pixel does not count
  float* across;  ///< gradient along x and y, in grey levels a pixel; 0 where it does not count
  float* down;
  float* weight;  ///< 1 where a pixel counts, else 0
  int size = 0, stride = 0;
};

/// Sums over a subset, with x and y from its middle. J are the gradient times 1, x and y.
struct SubsetMoments {
  enum Sum {
    vv,  // value²
    gx,
    gxx,
    gxy,
    gy,
    gyx,
    gyy,  // J
    vgx,
    vgxx,
    vgxy,
    vgy,
    vgyx,
    vgyy,  // value J
    aa,
    aax,
    aay,
    aaxx,
    aaxy,
    aayy,  // across² times 1, x, y, x², xy, y²
    ab,
    abx,
    aby,
    abxx,
    abxy,
    abyy,  // across down
    bb,
    bbx,
    bby,
    bbxx,
    bbxy,
    bbyy,  // down²
    how_many
  };
  float sums[how_many];
  double operator[](int k) const { return static_cast<double>(sums[k]); }
};

/// Sums over the subset and what the frame shows of it, g: g, g², value g, and J g.
struct MatchSums {
  enum Sum { g, gg, vg, jg, how_many = jg + 6 };
  float sums[how_many];
  double operator[](int k) const { return static_cast<double>(sums[k]); }
};

/// Coefficients of the spline through a frame: what stands for pixel (0, 0), and samples from row to row. Around the
/// frame they go on for prefilter_margin pixels.
struct SplineCoefficients {
  const float* origin;
  std::ptrdiff_t stride;
};

/// How a subset lies in a frame: place(x, y) = (x0 + xx x + xy y, y0 + yx x + yy y), in pixels from the first one's
/// middle. Every place has its coefficients.
struct SubsetPlace {
  double x0, y0;
  float xx, xy, yx, yy;
};

/// Lanes of the widest vectors that are used: strides are multiples of it.
inline constexpr int subset_lanes = 8;

/// What was read of a subset, before it is weighed, laid out as SubsetRows.
struct SubsetSamples {
  const float *value, *across, *down;
};
/// Takes the mean of the pixels that count off the values, and makes 0 of what does not count. Gives the mean; `count`
/// is how many count.
double weigh_subset(const SubsetSamples& read, double count, const SubsetRows& to);

/// Values and gradients of the spline about a place, given from the first pixel's middle, which may lie between pixels.
void read_subset(const SplineCoefficients& from, double x, double y, const SubsetRows& to);
SubsetMoments moments_of(const SubsetRows& rows);
/// `offset` is taken off every g, so that its sums stay small.
MatchSums sums_of(const SubsetRows& rows, const SplineCoefficients& frame, const SubsetPlace& place, float offset);

}  // namespace fexel
