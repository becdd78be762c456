#pragma once
/// Letters drawn with strokes, so that no font is needed: the same on every machine.
#include <string>
#include <unordered_map>
#include <vector>

#include "geometry/point.h"

namespace fexel::scene {

/// Strokes of text on a plane, and how far a place is from the nearest of them.
class Lettering {
 public:
  /// `reach`: distances beyond it need not be told apart.
  explicit Lettering(double reach) : reach_(reach) {}
  /// Capital letters, digits, and - . : / with their lower left corner at `at`; `height` is that of a capital.
  void write(const std::string& text, Point at, double height);
  void stroke(Point from, Point to);
  /// How far `p` is from the nearest stroke; `reach` where none is so near.
  double distance_to(Point p) const;
  /// How wide a text would be.
  static double width_of(const std::string& text, double height);

 private:
  struct Stroke {
    Point from, to;
  };
  long cell(double v) const { return static_cast<long>(std::floor(v / reach_)); }
  double reach_;
  std::vector<Stroke> strokes_;
  std::unordered_map<long, std::vector<int>> cells_;
};

}  // namespace fexel::scene
