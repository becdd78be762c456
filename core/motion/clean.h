#pragma once
/// Rules that take points out of a field. Nothing is deleted: a point that is taken out says which rule did it.
#include "motion/field.h"

namespace fexel {

struct CleanRule {
  /// picture: texture (predicted uncertainty over limit px), glare (share of saturated samples over limit). match:
  /// correlation (below limit), noise (stated uncertainty over limit px), back (the way back ends over limit px away),
  /// peaks (ratio of the two highest peaks below limit). field: limits (the displacement lies outside of an outline in
  /// px), deviation (over limit standard deviations from the mean of all), neighbours (normalised median over limit).
  enum class Kind { texture, glare, correlation, noise, back, limits, deviation, neighbours, peaks };
  Kind kind = Kind::neighbours;
  double limit = 0;
  std::vector<Point> outline = {};  ///< of limits, in px of displacement
  bool operator==(const CleanRule&) const = default;
};
const std::vector<std::string>& clean_words();
const char* name_of(CleanRule::Kind kind);

/// What a rule takes out of what the rules before it left, and by how much the mean of the rest moves.
struct CleanEffect {
  int taken = 0;
  Point mean_moves;
};

/// The field without what the rules take out, one after the other. The median test compares with the eight neighbours:
/// J. Westerweel, F. Scarano, 2005, "Universal outlier detection for PIV data", with 0.1 px for what is noise, each
/// carried to the point by its own gradient.
MotionField cleaned(const MotionField& field, const std::vector<CleanRule>& rules,
                    std::vector<CleanEffect>* effects = nullptr);

/// A limit for a rule, from the data: what keeps all but the few that stand out.
CleanRule proposed_rule(const MotionField& field, CleanRule::Kind kind);

/// Holes of points that were rejected, but not masked, filled from their neighbours: by the plane through those within
/// two steps, ring by ring from the rim. Points without neighbours stay. What is filled says so.
MotionField with_holes_filled(MotionField field);

/// Mean displacement of the points that are ok.
Point mean_of(const MotionField& field);

}  // namespace fexel
