#pragma once
/// A speckled tile that is pulled until a crack opens.
#include <nlohmann/json_fwd.hpp>

#include "base/job.h"
#include "chain/chain.h"
#include "image/image.h"

namespace fexel::scene {

inline constexpr int crackle_frames = 13;
inline constexpr double crackle_pixel = 0.05;  ///< mm

/// Frame 1 to 13: 1200 x 800, 8-bit grey. From frame 8 on a crack opens; a patch of the tile has no speckle.
class Crackle {
 public:
  explicit Crackle(const Job& job);
  Image frame(int number, const Job& job) const;

 private:
  Image tile_;  // its light at every half pixel of frame 1, and around
};

/// Where a place of frame 1 is in another frame, less where it was, px: the function that truth.json names.
Point crackle_moved(Point place, int number);
/// The crack in frame 1: its x at a height; and by how much it is open there, px.
double crack_at(double y);
double crack_opening(double y, int number);
nlohmann::ordered_json crackle_truth();
/// Calibration, time step and the movement's settings, without sources.
Chain crackle_chain();

}  // namespace fexel::scene
