#pragma once
/// Where a picture has pixels: an intersection of half planes, which planar maps carry exactly.
#include <vector>

#include "geometry/map.h"

namespace fexel {

/// The points with a x + b y + c >= 0, where (a, b) has unit length (or is zero: then c alone decides).
struct HalfPlane {
  double a = 0, b = 0, c = 0;
  bool operator==(const HalfPlane&) const = default;
};

/// A region: all points that lie in every half plane, here or, behind a curve, where a map carries them. Without any it
/// is the whole plane. Without curves it is convex.
class Clip {
 public:
  /// Half planes that hold somewhere else, and the map to there. A point without an image there is outside.
  struct Elsewhere {
    Map there;
    std::vector<HalfPlane> planes;
    bool operator==(const Elsewhere&) const = default;
  };
  /// Keeps only the points inside [0,W] x [0,H].
  void keep_inside(Size size);
  /// Keeps only the points that are inside the other region, too.
  void keep(const Clip& other);
  /// The same region seen through `map` (this clip's picture is the map's source); what lies behind the map's horizon
  /// is cut away.
  Clip through(const Map& map) const;
  /// Inside, or outside by less than a billionth of a pixel.
  bool contains(Point p) const;
  bool convex() const { return elsewhere_.empty(); }
  /// Whether all pixel centres of a part of a picture are inside; of a region that is not convex that is not known.
  bool holds(Region part) const;
  /// The part of the row of pixel centres at `y` whose columns are inside: begin <= column < end, within [first, last).
  /// Of a region that is not convex, what its half planes here leave.
  struct Span {
    int begin, end;
  };
  Span row(double y, int first, int last) const;
  /// The corners of what of [0,W] x [0,H] is inside, in order; none when nothing is. Of a region that is not convex,
  /// points along its outline, no farther apart than a hundredth of a side.
  std::vector<Point> corners(Size frame) const;
  const std::vector<HalfPlane>& planes() const { return planes_; }
  const std::vector<Elsewhere>& elsewhere() const { return elsewhere_; }
  bool operator==(const Clip&) const = default;

 private:
  void add(double a, double b, double c);
  std::vector<HalfPlane> planes_;
  std::vector<Elsewhere> elsewhere_;
};

/// Whether a point lies in all of them, or outside by less than a billionth of a pixel.
bool inside_all(const std::vector<HalfPlane>& planes, Point p);

}  // namespace fexel
