#pragma once
/// Targets for calibrating: engraved lines, and a chequered board seen from five sides through a lens.
#include <nlohmann/json_fwd.hpp>

#include "base/job.h"
#include "chain/chain.h"
#include "image/image.h"

namespace fexel::scene {

/// 1400 x 1000, 8-bit grey: lines 0.5 mm apart, turned by 0.7 degrees, longer ones each five and ten.
Image render_lines(const Job& job);
nlohmann::ordered_json lines_truth();
Chain lines_chain();

inline constexpr int board_views = 5;
/// View 1 to 5: 1200 x 900, 8-bit grey, of a board with squares of 10 mm.
Image render_board(int view, const Job& job);
/// The lens, and where the outermost nodes lie in each view.
nlohmann::ordered_json board_truth();

}  // namespace fexel::scene
