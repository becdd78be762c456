#pragma once
/// All overlays, in the order in which they are drawn. A new one is a file in this folder and a line in overlays.cpp.
#include <memory>

#include "app/canvas/overlays/overlay.h"

namespace fexel {

std::vector<std::unique_ptr<Overlay>> make_overlays(PictureView& view);

std::unique_ptr<Overlay> make_distortion_overlay(PictureView& view);
std::unique_ptr<Overlay> make_residual_overlay(PictureView& view);
std::unique_ptr<Overlay> make_motion_overlay(PictureView& view);
std::unique_ptr<Overlay> make_mask_overlay(PictureView& view);
std::unique_ptr<Overlay> make_step_overlay(PictureView& view);
std::unique_ptr<Overlay> make_measurement_overlay(PictureView& view);
std::unique_ptr<Overlay> make_axes_overlay(PictureView& view);
std::unique_ptr<Overlay> make_grid_overlay(PictureView& view);
std::unique_ptr<Overlay> make_mark_overlay(PictureView& view);
std::unique_ptr<Overlay> make_scale_overlay(PictureView& view);

}  // namespace fexel
