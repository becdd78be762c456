#pragma once
/// Changes to a chain that keep its measurements where they are on the picture.
#include "chain/layout.h"

namespace fexel {

/// The chain with `step` put in as number `index` (from 0). Measurements behind it move on with their stations.
Chain with_step_inserted(const Chain& chain, int index, const Step& step);
/// The chain without the step at `index`. Measurements at the station it made are carried to the station it got; one
/// that cannot be carried keeps its coordinates.
Chain with_step_removed(const Chain& chain, const Layout& layout, int index);

/// What makes a step work that cannot be made: the step fitted into its station where its kind can do that, else a new
/// one of its kind with values that suit. Nothing where even those do not help.
struct Remedy {
  Step step;
  bool begun_again = false;
};
std::optional<Remedy> remedied(const Step& step, const StepInput& input);

}  // namespace fexel
