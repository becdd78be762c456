#pragma once
/// What a hand can take hold of on the picture to change a step, and the lines that show it: one entry for each kind of
/// step that has any.
#include <vector>

#include "steps/steps.h"

namespace fexel {

/// A line over the picture, in the coordinates of the station that the step gets.
struct StepLine {
  std::vector<Point> points;
  bool closed = false;
  bool arrow = false;  ///< its last point has a head
};
struct StepHandle {
  Point at;
  std::string name;  ///< short: a number, or a letter
};
struct StepFigure {
  std::vector<StepHandle> handles;
  std::vector<StepLine> lines;
};

StepFigure figure_of(const StepKind& step, const StepInput& input);
/// The step when its handle `index` is put at `to`.
StepKind with_handle_at(const StepKind& step, const StepInput& input, int index, Point to);
/// The same on the step's result, in its coordinates: where a fit is told to put its points, and lines from where it
/// does put them. `made` is the step's map.
StepFigure result_figure_of(const StepKind& step, const Map& made);
StepKind with_result_handle_at(const StepKind& step, int index, Point to);
/// The step told to what standard uncertainty, in pixels, that handle was placed, where it keeps such a thing.
StepKind with_picking(StepKind step, int index, double picking);
/// The words for undo: what moving this handle does.
std::string handle_purpose(const StepKind& step, int index);

}  // namespace fexel
