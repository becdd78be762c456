#pragma once
/// An old oblique record of the wall, its drawn plan, and control points that were measured on both.
#include <nlohmann/json_fwd.hpp>

#include "base/job.h"
#include "chain/chain.h"
#include "image/image.h"

namespace fexel::scene {

/// Millimetres a pixel of the plan, and of its margin around the field.
inline constexpr double plan_pixel = 0.5, plan_margin = 60;

/// 1600 x 1100, 8-bit grey, faded and grainy.
Image render_old_record(const Job& job);
/// 2040 x 1440, 8-bit RGB: joints and motifs in ink, tiles in flat washes.
Image render_plan(const Job& job);
/// The 14 pairs, targets in millimetres of the plan; x and y of one target are swapped.
std::vector<PointPair> survey_pairs();
nlohmann::ordered_json survey_truth();
Chain survey_chain();

}  // namespace fexel::scene
