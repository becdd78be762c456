#pragma once
/// A printed grid in a picture: a checkerboard, dots or crossed lines of one pitch, seen at any angle through a lens.
#include "calibrate/grid_nodes.h"
#include "calibrate/lens_solve.h"

namespace fexel {

struct GridTarget {
  GridPattern pattern = GridPattern::checkerboard;
  bool dark = true;             ///< dots or lines on a lighter ground
  std::vector<GridNode> nodes;  ///< numbered from 0 in both directions
  int columns = 0, rows = 0;    ///< of the numbers, gaps counted
  int missing = 0;              ///< numbers of the rectangle that were not found
  GridView view;                ///< perspective and lens, in pitches
};

/// Finds the largest grid of a region. Candidates (saddles, or what is darker or lighter than what is around) are
/// numbered from node to node, gaps are bridged by the solved view, and nodes placed by the gradients around them, or
/// by their middle of mass; the middle of a dot is freed of what perspective does to it. What was found is checked
/// against the pattern itself: squares in turn dark and light, lines between the nodes, nothing between dots. Raises an
/// input error with the reason where there is no grid.
GridTarget find_grid_target(const Image& image, Region region, const Job& job);

}  // namespace fexel
