#pragma once
/// A printed index card on a scanner whose lid shows, laid on a little askew.
#include <nlohmann/json_fwd.hpp>

#include "base/job.h"
#include "chain/chain.h"
#include "image/image.h"

namespace fexel::scene {

/// 1700 x 1250, 8-bit grey, 0.1 mm a pixel.
Image render_card(const Job& job);
/// Its turn, its corners, and where its printed ruler lies.
nlohmann::ordered_json card_truth();
/// The chain that levels it, cuts it out and makes it 800 px wide, with a length on the ruler.
Chain card_chain();

}  // namespace fexel::scene
