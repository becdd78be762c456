#pragma once
/// Sums over blocks of pixels: all that a step of the search needs to know of them.
#include <cstddef>
#include <vector>

#include "align/prepared.h"

namespace fexel {

/// Of one block of a reference: t its samples, i those of the moved frame at the same places, g the gradient of t in
/// samples a pixel, r = gain i + offset − t, all weighted by w.
struct BlockSums {
  enum Sum { w, gxx, gxy, gyy, gxr, gyr, gxi, gyi, gx, gy, i, t, ii, tt, it, count, how_many };
  float sums[how_many] = {};  // the vector code stores them in this order
  Point middle;               ///< in pixels of the level
  double operator[](Sum sum) const { return static_cast<double>(sums[sum]); }
};

/// What is known of the frames' light before a pass, and how far from it a pixel may be to count.
struct Expectation {
  double gain = 1, offset = 0;
  double cut = 0;  ///< residual at which the weight (1 − (r / cut)^2)^2 ends; 0: every pixel counts alike
};

/// Where the moved frame is read.
struct MovedSamples {
  const Image* plane = nullptr;         ///< samples, or
  const Image* coefficients = nullptr;  ///< coefficients of the spline through them
  const Image* there = nullptr;         ///< see PreparedFrame::there()
};

/// What a block's sums are taken of: columns x rows pixels, where columns are a multiple of 16. t and its gradient,
/// `plane` samples from one band to the next, have the same stride.
struct BlockSamples {
  const float* t;
  const float* gradient;
  std::ptrdiff_t plane, stride;
  const float* i;
  std::ptrdiff_t i_stride;
  int columns, rows;
};

/// One pass over a level of the reference: sums over blocks of `block` (16 or 32) pixels a side, those without any
/// pixel left out. `inverse_map` carries the level's places into the moved frame's. Pixels whose gradient or kernel
/// would look outside do not count. `plain`, where asked for, gets what these weights do not count: the sums of i, t,
/// ii, tt, it and the count.
std::vector<BlockSums> sum_blocks(const PreparedFrame& reference, int level, const MovedSamples& moved,
                                  const Matrix3& inverse_map, int block, const Expectation& expected, const Job& job,
                                  std::vector<BlockSums>* plain = nullptr);

}  // namespace fexel
