#pragma once
/// The tiled wall, seen from the side and below.
#include <nlohmann/json_fwd.hpp>

#include "base/job.h"
#include "chain/chain.h"
#include "demo/sensor.h"
#include "image/image.h"

namespace fexel::scene {

/// The wall itself under even light, at a place in millimetres.
Colour wall_at(Point p);
/// The wall as a plan draws it, at a place in millimetres.
Colour plan_at(Point p);
/// 2400 x 1600, 8-bit RGB, with blur and sensor noise.
Image render_wall(const Job& job);
/// Camera, homography from wall millimetres to pixels, corners of the field, strips with their ticks.
nlohmann::ordered_json wall_truth();
/// The chain that rectifies the field, with a length on each strip.
Chain wall_chain();

}  // namespace fexel::scene
