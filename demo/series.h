#pragma once
/// Many pictures of one piece of the wall: while it dries, and through five filters.
#include <nlohmann/json_fwd.hpp>

#include "base/job.h"
#include "geometry/map.h"
#include "image/image.h"

namespace fexel::scene {

inline constexpr int drying_frames = 16;
/// Frame 1 to 16: 1600 x 1200, 16-bit grey, held by hand. The damp goes, the light changes; frame 9 is blurred, and
/// frame 12 shows something else.
class Drying {
 public:
  explicit Drying(const Job& job);
  Image frame(int number, const Job& job) const;

 private:
  Image dry_;  // the wall's light at every half pixel of frame 1, and around
};
/// Where each frame lies: its transform to frame 1, and what it shows.
nlohmann::ordered_json drying_truth();

/// 1280 x 960, five bands of 16 bits: ultraviolet, blue, green, red, infrared, each through its own filter.
Image render_bands(const Job& job);
nlohmann::ordered_json bands_truth();
const char* band_name(int band);

}  // namespace fexel::scene
