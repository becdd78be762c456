#pragma once
/// Where every station of a chain lies, known without computing a pixel.
#include <optional>
#include <vector>

#include "base/error.h"
#include "chain/chain.h"
#include "geometry/plane_coordinates.h"
#include "image/image.h"

namespace fexel {

struct SourceShape {
  Size size;
  int bands = 1;
  Depth depth = Depth::u8;
  std::optional<PixelSize> pixel;  ///< from the file; a chain's calibration comes before it
  std::optional<Clip> clip = {};   ///< where there are pixels; everywhere without it
  int frame = 0;                   ///< of the sequence, from 0
};

/// The picture between two steps. Station 0 is the source, the last one the result; steps that are off still count.
struct Station {
  Size size;
  std::optional<PixelSize> pixel;
  Map from_source;
  Map from_previous;  ///< identity for the source and behind steps that are off
  Clip clip;          ///< where pixels come from the source
  bool exact = true;  ///< the step before moves pixels bit for bit
  int bands = 1;
  Depth depth = Depth::u8;
  int run_start = 0;                  ///< the station whose pixels this one is resampled from, once
  bool own_fill = false;              ///< the samples of its empty pixels are the step's own, not the chain's fill
  std::optional<AxesHere> axes = {};  ///< the chain's, here
  std::optional<PlaneCoordinates> plane = {};  ///< that control points in real units gave
  Stride stride = {};                          ///< of samples that are taken on purpose since then
  std::optional<Error> problem;  ///< why the step before could not be carried out; the station then repeats its input
};

struct Layout {
  std::vector<Station> stations;
  int frame = 0;  ///< of the sequence, from 0: what steps that align do differs from frame to frame
  const Station& result() const { return stations.back(); }
  int last() const { return static_cast<int>(stations.size()) - 1; }
  /// Raises the first step's problem, with its path ("/steps/1/corners").
  void require_sound() const;
};

/// Lays out all stations. Problems of steps are kept with their stations; require_sound() raises them.
Layout lay_out(const Chain& chain, const SourceShape& source);

/// What the step at `index` (from 0) gets, in this layout.
StepInput input_of_step(const Layout& layout, int index);

enum class CarryStatus { ok, empty, beyond_horizon };
struct Carried {
  Point point;  ///< meaningless beyond the horizon
  CarryStatus status = CarryStatus::ok;
};
/// A point of station `from` in the coordinates of station `to`, step by step. `empty` when it lies outside a station
/// on its way back to the source.
Carried carry(const Layout& layout, Point p, int from, int to);

/// The map from station `from` to station `to`.
Map map_between(const Layout& layout, int from, int to);

}  // namespace fexel
