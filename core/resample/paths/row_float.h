#pragma once
/// Interpolation of whole rows in vector code, for the widest instructions that the processor has.
#include <string>
#include <vector>

#include "geometry/map.h"
#include "image/image.h"
#include "resample/coordinates/map_grid.h"
#include "resample/coordinates/source_points.h"
#include "resample/kernels/kernel.h"

namespace fexel {

/// The samples that rows are interpolated from: pixels [left, right) x [top, bottom) around pixel (0, 0) can be read.
struct Samples {
  const std::byte* origin = nullptr;     ///< pixel (0, 0) of the first band
  std::ptrdiff_t stride = 0, plane = 0;  ///< samples from row to row, and from band to band
  int left = 0, top = 0, right = 0, bottom = 0;
  Depth depth = Depth::u8;
  int bands = 1;
};
/// The samples of a picture whose pixel (0, 0) stands `margin` pixels inside; the margin itself is read if so asked.
Samples samples_of(const Image& image, int margin = 0, bool read_margin = false);

/// Where a row's samples go: rounded and clamped to u8 or u16, or as float.
struct RowTarget {
  std::byte* first = nullptr;  ///< sample of the row's first pixel, first band
  std::ptrdiff_t plane = 0;    ///< bytes from band to band
  Depth depth = Depth::u8;
};

/// Pixels [x, x + count) of a row.
struct PixelSpan {
  int x, count;
};

/// Interpolates pixels [x, x + count) of result row y, whose centres `inverse_map` maps into the samples (whose pixel
/// centres are at halves), with a kernel's own width. Coordinates keep 2^-24 px. Pixels whose kernel reaches too close
/// to the end of the samples, or whose map is too steep, are not written but appended to `rest`, left to right, for
/// slower code. Adds the samples that the target's depth could not hold to `clamped`. The kernel is linear, cubic,
/// lanczos3 or bspline3 (the last on spline coefficients). The error against double arithmetic is below 1e-6 of the
/// sample range; flat samples stay what they are to the last bit.
void interpolate_row(const Samples& samples, Kernel kernel, const Matrix3& inverse_map, int x, int y, int count,
                     const RowTarget& target, std::vector<PixelSpan>& rest, std::int64_t& clamped);

/// The same for a row of a curved map, in stretches between the places of its grid; pixels of stretches that are not
/// sound are left to slower code, too.
void interpolate_along(const Samples& samples, Kernel kernel, const MapGridRow& row, int x, int count,
                       const RowTarget& target, std::vector<PixelSpan>& rest, std::int64_t& clamped);

/// The same for a run of pixels whose source coordinates are given; false, and nothing is written, where the kernel
/// reaches too close to the end of the samples, or pixels stand too far from each other or are too few.
bool interpolate_points(const Samples& samples, Kernel kernel, const SourcePoints& run, const RowTarget& target,
                        std::int64_t& clamped);

/// The names of the instruction sets that interpolate_row() can use here, best first.
std::vector<std::string> vector_targets();
/// Makes interpolate_row() use one of vector_targets(), or the best for an empty name. Not while others run it.
void use_vector_target(const std::string& name);

}  // namespace fexel
