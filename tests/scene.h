#pragma once
/// Frames rendered from formulas: a sum of waves seen through exact transforms, with noise; and what theory says of how
/// well such frames can be aligned. Nothing here is taken from the engine.
#include <Eigen/Core>
#include <Eigen/LU>
#include <cmath>
#include <random>

#include "geometry/map.h"
#include "image/image.h"
#include "tests/theory.h"

namespace fexel::test {

/// A picture without pixels.
struct Scene {
  std::vector<Wave> parts;
  double mean = 128;
  double at(double x, double y) const {
    double sum = mean;
    for (const Wave& w : parts) sum += w.amplitude * std::sin(2 * M_PI * (w.fx * x + w.fy * y) + w.phase);
    return sum;
  }
  Point slope(double x, double y) const {
    Point out;
    for (const Wave& w : parts) {
      const double c = 2 * M_PI * w.amplitude * std::cos(2 * M_PI * (w.fx * x + w.fy * y) + w.phase);
      out.x += w.fx * c;
      out.y += w.fy * c;
    }
    return out;
  }
};

/// Waves of `lowest` to `highest` cycles a pixel in even directions, as many to each octave, power falling as in most
/// pictures; their sum has a standard deviation of `contrast`.
Scene textured(int count, double lowest, double highest, double contrast, unsigned seed);

/// The scene's place p is seen at pixel `lies` p. Samples are gain x scene + offset + noise, clamped to the depth.
Image frame_of(const Scene& scene, const Matrix3& lies, Size size, Depth depth, double noise, unsigned seed,
               double gain = 1, double offset = 0);

/// A turn counter-clockwise on the screen and a scale about the middle of a frame, then a shift.
Matrix3 similarity(Size size, double degrees, double scale, double dx, double dy);

/// RMS over a frame of the distance between where two transforms put its pixels.
double distance_rms(const Matrix3& a, const Matrix3& b, Size size);

}  // namespace fexel::test
