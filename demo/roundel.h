#pragma once
/// A round dish seen from straight above, with letters and marks around its rim.
#include <nlohmann/json_fwd.hpp>

#include "base/job.h"
#include "chain/chain.h"
#include "image/image.h"

namespace fexel::scene {

/// 1600 x 1600, 8-bit RGB.
Image render_roundel(const Job& job);
/// Its centre, its rim, and its 72 marks.
nlohmann::ordered_json roundel_truth();
/// The chain that rolls the rim out.
Chain roundel_chain();

}  // namespace fexel::scene
