#pragma once
/// Nodes of grid targets. Parts of find_grid_target().
#include <vector>

#include "base/job.h"
#include "geometry/point.h"
#include "image/image.h"

namespace fexel {

/// What is printed on a grid target: squares in turn dark and light, dots, or lines that cross.
enum class GridPattern { checkerboard, dots, lines };
const char* name_of(GridPattern pattern);

/// A place that may be a node.
struct NodeCandidate {
  Point at;
  double strength = 0;  ///< of the curvature there
  double turn = 0;      ///< of a saddle: the direction in which it rises, in radians, modulo pi
};

/// Saddles of the smoothed picture (corners of a checkerboard), or places that are darker, or lighter, than what is
/// around in every direction (dots, crossings). `plane` is one f32 band; `level` halves it that many times first.
/// Sorted by strength; none where nothing stands out of the noise.
enum class CandidateKind { saddles, dark, light };
std::vector<NodeCandidate> node_candidates(const Image& plane, CandidateKind kind, int level, const Job& job);

/// The plane with its gradients, for refining.
class NodeRefiner {
 public:
  explicit NodeRefiner(const Image& plane, const Job& job);
  /// Where the gradients in a window of this radius say that two edges or lines cross: the point that all of their
  /// tangents pass by closest. Nothing where they say none within the window. Source: W. Foerstner, E. Guelch, 1987, "A
  /// fast operator for detection and precise location of distinct points, corners and centres of circular features".
  std::optional<Point> crossing(Point near, double radius) const;
  /// The centre of mass of what is darker (or lighter) than the ring around; `area` in pixels.
  struct Dot {
    Point at;
    double area = 0;
  };
  /// Within half a step along `u` and `v`, in which it looks round.
  std::optional<Dot> dot(Point near, Point u, Point v, bool dark) const;
  /// A sample between pixels; nothing outside.
  std::optional<double> sample(Point p) const;

 private:
  int width_, height_;
  std::vector<float> value_, across_, down_;
};

}  // namespace fexel
