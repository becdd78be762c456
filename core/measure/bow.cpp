#include "measure/bow.h"

#include <algorithm>

#include "geometry/lens.h"

namespace fexel {
namespace {

constexpr double most = 0.5;          // of k1: beyond it a picture is hardly one
constexpr double least_sigma = 0.05;  // pixels: no edge is straighter than that

/// By how much the middle of a side stands off the line through its ends once the lens is undone.
std::optional<double> left_of(const EdgeLine& side, const Lens& lens) {
  const Point along = 1 / distance(side.from, side.to) * (side.to - side.from), right{-along.y, along.x};
  // A straight line through a bow lies a third of it below the middle, and two thirds above the ends.
  const Point off = -2.0 / 3 * side.bow * right;
  const auto a = lens.backward(side.from + off), b = lens.backward(side.to + off),
             m = lens.backward(0.5 * (side.from + side.to) + 1.0 / 3 * side.bow * right);
  if (!a || !b || !m) return std::nullopt;
  return -cross(*a, *m, *b) / distance(*a, *b);
}

}  // namespace

std::optional<BowedLens> lens_of_bows(const EdgeCorners& found, Size size) {
  BowedLens out;
  bool bows = false;
  for (const EdgeLine& side : found.sides) {
    out.before = std::max(out.before, std::abs(side.bow));
    bows = bows || std::abs(side.bow) > 0.2 + 2 * side.bow_sigma;
  }
  if (!bows) return std::nullopt;
  const auto misfit = [&](double k1, double* largest) {
    const Lens lens({k1, 0, 0, 0, 0}, size.middle(), size.width);
    double sum = 0;
    for (const EdgeLine& side : found.sides) {
      const auto left = left_of(side, lens);
      if (!left) return 1e300;
      sum += std::pow(*left / std::max(side.bow_sigma, least_sigma), 2);
      if (largest) *largest = std::max(*largest, std::abs(*left));
    }
    return sum;
  };
  // The sum has one dip: thirds of the interval around it.
  double low = -most, high = most;
  for (int round = 0; round < 40; ++round) {
    const double a = low + (high - low) / 3, b = high - (high - low) / 3;
    if (misfit(a, nullptr) < misfit(b, nullptr))
      high = b;
    else
      low = a;
  }
  out.k1 = (low + high) / 2;
  if (misfit(out.k1, &out.after) >= 1e300 || out.after > 0.5 * out.before) return std::nullopt;
  return out;
}

}  // namespace fexel
