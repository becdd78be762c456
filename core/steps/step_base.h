#pragma once
/// What every step gets and gives, and helpers that several share.
#include <array>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <vector>

#include "base/job.h"
#include "base/units.h"
#include "geometry/clip.h"
#include "image/image.h"
#include "resample/kernels/kernel.h"
#include "resample/paths/copy.h"

namespace fexel {

class JsonReader;

/// The station that a step gets.
struct StepInput {
  Size size;
  std::optional<PixelSize> pixel;
  Map from_source;
  Clip clip;
  Size source;  ///< of station 0
  int bands = 1;
  Depth depth = Depth::u8;
  int frame = 0;  ///< of the sequence, from 0
};

/// What a step makes of it.
struct StepGeometry {
  Size size;
  std::optional<PixelSize> pixel;
  Map map;                          ///< from the station that the step gets to the one it makes
  bool ends_run = false;            ///< its pixels are made by pixels_of(), from all pixels of the station that it gets
  bool all_valid = false;           ///< no pixel of it is empty, wherever the map says that it comes from
  Stride stride = {};               ///< source pixels from sample to sample, where samples are taken and not averaged
  bool own_fill = false;            ///< its empty pixels have samples of the step's own, not the chain's fill
  bool computed = false;            ///< samples are changed, wherever the map puts them
  std::optional<int> bands = {};    ///< that come out; without it, as many as come in
  std::optional<Depth> depth = {};  ///< that comes out
  bool in_plane = false;            ///< its pixels, times their size, are coordinates of a plane
};

/// Three rows of three numbers, and back.
Matrix3 read_matrix(const JsonReader& in, const std::string& key);
nlohmann::ordered_json rows_of(const Matrix3& matrix);

/// To what standard uncertainty the two ends of a line were placed, in pixels; half a pixel where nothing is said.
std::array<double, 2> read_ends_picking(const JsonReader& in);
/// Writes it where it is another.
void write_ends_picking(nlohmann::ordered_json& out, const std::array<double, 2>& picking);

/// How large a frame a moved picture gets.
enum class Extent { grow, keep, inside };
/// "grow", "keep", "inside".
const std::vector<std::string>& extent_words();

/// floor(v + 0.5), at least 1. Raises a call error at `where` when it is more than the largest side of a picture.
int whole_size(double v, const std::string& where);
/// The smallest whole number of pixels that holds v, give or take what rounding adds. Raises as whole_size() does.
int holding_size(double v, const std::string& where);
inline constexpr double largest_side = 1e6;
inline constexpr double max_pixels = 4e9;
inline constexpr double max_degrees = 1e6;
/// Gives a new step values that suit the station that it gets. Steps whose defaults suit any station have no overload.
template <class Kind>
void begin_step(Kind&, const StepInput&) {}
/// The step changed as little as lets it be made at this station; nothing where that needs a person.
template <class Kind>
std::optional<Kind> fitted_step(const Kind&, const StepInput&) {
  return std::nullopt;
}
/// The geometry of a step that changes samples and not where they are; it ends a run.
StepGeometry computed_in_place(const StepInput& input);

}  // namespace fexel
