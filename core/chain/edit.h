#pragma once
/// Changes to a chain that keep its probes where they are on the picture.
#include "chain/layout.h"

namespace fexel {

/// The chain with `step` put in as number `index` (from 0). Gauges behind it move on with their stations.
Chain with_step_inserted(const Chain& chain, int index, const Step& step);
/// The chain without the step at `index`. Gauges at the station it made are carried to the station it got; one that
/// cannot be carried keeps its coordinates.
Chain with_step_removed(const Chain& chain, const Layout& layout, int index);

/// A step of this word with values that make sense for the station it gets. Raises a call error for an unknown word.
Step sensible_step(const std::string& word, const StepInput& input);

/// A step that cannot be made, put right as far as that can be done without asking: a crop moved and cut so that it
/// lies in its station, anything else begun again with sensible values. Nothing where even those do not help.
struct Remedy {
  Step step;
  bool begun_again = false;
};
std::optional<Remedy> remedied(const Step& step, const StepInput& input);

}  // namespace fexel
