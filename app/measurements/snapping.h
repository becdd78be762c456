#pragma once
/// Points of measurements, moved to the edges and corners that the picture has near them.
#include "app/document/document.h"

namespace fexel {

/// The pixels of all stations of a document as it is now; may be read on another thread.
struct StationPixels {
  explicit StationPixels(const Document& document);
  /// The picture that a station's pixels come from.
  std::shared_ptr<const Pyramid> start_of(int station, const Job& job) const;
  Layout layout;
  Resampling resampling;
  std::shared_ptr<const Pyramid> source;
  std::shared_ptr<const RunPictures> pictures;
};

/// A whole station as one f32 band, the mean of all, with the mask of its pixels.
Image station_plane(const StationPixels& pixels, int station, const Job& job);

struct Snapping {
  Measurement measurement;
  int moved = 0;                    ///< points that were moved
  std::vector<int> stayed;          ///< numbers, from 1, of those without an edge near
  std::optional<std::string> ring;  ///< of a circle: why its rim was not found
};

/// The measurement with its points on edges or corners within `reach` pixels of its station, each with the uncertainty
/// that the fit gives; a circle with points on the rim that its edge says. Reads pixels about the points only.
Snapping with_points_snapped(const StationPixels& pixels, const Measurement& measurement, double reach, const Job& job);
/// A place of a station, and its standard uncertainty in pixels of the source; nothing without an edge near.
std::optional<std::pair<Point, double>> snapped_place(const StationPixels& pixels, int station, Point near,
                                                      double reach, const Job& job);

}  // namespace fexel
