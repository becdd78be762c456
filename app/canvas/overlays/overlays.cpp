#include "app/canvas/overlays/overlays.h"

namespace fexel {

std::vector<std::unique_ptr<Overlay>> make_overlays(PictureView& view) {
  std::vector<std::unique_ptr<Overlay>> out;
  out.push_back(make_distortion_overlay(view));
  out.push_back(make_residual_overlay(view));
  out.push_back(make_motion_overlay(view));
  out.push_back(make_mask_overlay(view));
  out.push_back(make_step_overlay(view));
  out.push_back(make_measurement_overlay(view));
  out.push_back(make_axes_overlay(view));
  out.push_back(make_grid_overlay(view));
  out.push_back(make_mark_overlay(view));
  out.push_back(make_scale_overlay(view));
  return out;
}

}  // namespace fexel
