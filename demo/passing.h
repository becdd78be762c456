#pragma once
/// The wall, passed by with a camera in the hand: a film.
#include <nlohmann/json_fwd.hpp>

#include "base/job.h"
#include "chain/chain.h"
#include "image/image.h"

namespace fexel::scene {

inline constexpr int passing_frames = 24;
inline constexpr double passing_rate = 12.5;  ///< frames a second

class Passing {
 public:
  explicit Passing(const Job& job);
  /// Frame 1 to 24: 640 x 480, 8-bit grey.
  Image frame(int number, const Job& job) const;

 private:
  Image wall_;
};

/// A frame's places to those of frame 1.
Matrix3 passing_to_first(int number);
/// Where the corners of one tile are in frame 1: top left, then clockwise.
std::array<Point, 4> passing_tile();
nlohmann::ordered_json passing_truth();
/// All frames laid on the first, and that tile made square; without sources.
Chain passing_chain();

}  // namespace fexel::scene
