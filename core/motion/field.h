#pragma once
/// A field of movement: where each of many places of a reference went in another frame.
#include <Eigen/Core>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "geometry/point.h"

namespace fexel {

/// ok: as good as it states. weak: there, and less certain than most; see the reason. masked: its subset is behind a
/// mask for the most part. rejected: not found, or taken out by a rule. filled: made from its neighbours.
enum class MotionStatus : std::uint8_t { ok, weak, masked, rejected, filled };

/// Why a point is not ok.
enum class MotionReason : std::uint8_t {
  none,
  flat,         ///< too little texture to hold on to
  uncertain,    ///< found to worse than limits say
  unlike,       ///< the frame shows something else there
  differs,      ///< it differs from the reference by much more than the others do
  outside,      ///< it left the frame, or what the frame shows
  lost,         ///< nothing led there, or it was lost before
  masked,       ///< behind a mask
  glare,        ///< rules from here on: samples at the end of their range
  correlation,  ///< correlation
  back,         ///< the way back ends elsewhere
  limits,       ///< outside of limits drawn on the scatter of components
  deviation,    ///< far from the mean of all
  neighbours,   ///< far from its neighbours
  peaks         ///< another peak of the correlation is nearly as high
};

/// "ok", "weak", ...; in files and tables.
const char* name_of(MotionStatus status);
std::optional<MotionStatus> motion_status_named(const std::string& name);
/// "no texture", ...; a few words for tables and the window.
const char* name_of(MotionReason reason);

struct MotionPoint {
  Point moved;                                         ///< from the reference to the frame, in px
  Eigen::Matrix2d gradient = Eigen::Matrix2d::Zero();  ///< of the displacement: d moved / d place
  Point sigma;                                         ///< standard uncertainty along x and y, in px
  double score = 0;                                    ///< normalised correlation of the two subsets
  double misfit = 0;                                   ///< RMS of what the match leaves, in grey levels
  double predicted = 0;                                ///< standard uncertainty that texture and noise let expect, px
  double glare = 0;                                    ///< share of the subset at the ends of the samples' range
  double peaks = 0;                                    ///< ratio of the highest peak to the next; 0: not known
  std::optional<double> back;                          ///< how far the way back ends from the start, where it was gone
  MotionStatus status = MotionStatus::rejected;
  MotionReason reason = MotionReason::lost;
  bool good() const { return status == MotionStatus::ok; }
  bool has_place() const {
    return status == MotionStatus::ok || status == MotionStatus::weak || status == MotionStatus::filled;
  }
};

/// Places on a lattice, row by row, of which some count.
struct MotionGrid {
  Point first;                   ///< the middle of a pixel
  int step_x = 10, step_y = 10;  ///< px
  int columns = 0, rows = 0;
  std::vector<char> used;  ///< of each place: inside of the region
  std::size_t count() const { return static_cast<std::size_t>(columns) * static_cast<std::size_t>(rows); }
  Point at(std::size_t i) const {
    const auto c = static_cast<int>(i) % columns, r = static_cast<int>(i) / columns;
    return {first.x + step_x * c, first.y + step_y * r};
  }
  bool operator==(const MotionGrid&) const = default;
};

struct MotionField {
  MotionGrid grid;
  std::vector<MotionPoint> points;  ///< as many as the grid's
  int from = 0;                     ///< the frame that displacements begin at, from 0
  int reference = 0;                ///< the one that was matched against
  int frame = 0;                    ///< from 0
  double typical_misfit = 0;        ///< median over the points that were found, in grey levels
  /// How many points that are used have a status.
  int count(MotionStatus status) const;
  int used() const;
};

/// A grid over a region of a picture, a polygon in its pixels; everywhere where it has no corners. Places lie on
/// pixels' middles, and keep `margin` px from the picture's border. Raises a call error where there is room for none.
MotionGrid grid_over(Size size, const std::vector<Point>& region, int step_x, int step_y, int margin);

}  // namespace fexel
