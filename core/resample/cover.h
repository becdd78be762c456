#pragma once
/// Which pixels of a tile lie inside a clip.
#include <vector>

#include "geometry/clip.h"
#include "resample/course.h"

namespace fexel {

/// For a convex clip each row is one span. Behind curves, stretches of a row that lie well inside or outside are told
/// by their course, and only the others pixel by pixel.
class Cover {
 public:
  Cover(const Clip& clip, Region tile, TileCourses& courses);
  /// With courses of its own.
  Cover(const Clip& clip, Region tile);
  /// The columns of row y whose pixel centres are inside, in order.
  std::vector<Clip::Span> spans(int y) const;

 private:
  const Clip& clip_;
  Region tile_;
  TileCourses* all_ = nullptr;
  std::shared_ptr<TileCourses> own_;                    // which the courses refer to
  std::vector<std::shared_ptr<const Course>> courses_;  // of each part elsewhere
};

}  // namespace fexel
