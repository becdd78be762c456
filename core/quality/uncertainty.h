#pragma once
/// What measurements read at a station, and how uncertain that is.
#include <array>
#include <optional>

#include "chain/layout.h"
#include "measure/scale.h"

namespace fexel {

/// Where the uncertainty of a reading comes from.
enum class UncertaintySource {
  points,       ///< placing the measurement's own points
  corners,      ///< placing the corners of rectify steps
  ratio,        ///< the camera's centre, where the ratio of a rectangle's sides was estimated
  known,        ///< placing the ends of known lengths that give the scale
  calibration,  ///< the pixel size of the calibration
  fit           ///< the pairs of control points
};
inline constexpr int uncertainty_sources = 6;

/// What a measurement reads at a station.
struct Reading {
  std::optional<Quantity> value;       ///< nothing where a point lies beyond the horizon there, or with a problem
  std::vector<Detail> details;         ///< what its geometry says beside the value
  std::optional<std::string> problem;  ///< why it has no value, in a sentence
  std::optional<double> uncertainty;   ///< standard uncertainty, in the value's unit
  /// What of it comes from each source, in the same unit; the uncertainty is the root of the sum of their squares.
  std::array<double, uncertainty_sources> parts{};
  double part(UncertaintySource source) const { return parts[static_cast<std::size_t>(source)]; }
  std::optional<double> error;  ///< value minus expected, in the expected value's unit, where both are known
};

/// Reads a measurement at `station`. The uncertainty is propagated to first order (numerically differentiated) from its
/// points, placed as the measurement says, from every rectify step between its station and this one: the corners, the
/// ends of the lengths that give the scale, placed as the step says, and the camera's centre where the ratio of the
/// sides is estimated; from the calibration's pixel size; and from the pairs of every fit step between, placed as the
/// step says or scattered as they are, whichever is more.
Reading read_at(const Chain& chain, const SourceShape& source, const Layout& layout, const Measurement& measurement,
                int station);

/// The value as it stands beside a measurement, with its unit and as many digits as its uncertainty supports; "–" where
/// it has none.
std::string value_text(const Reading& reading);
/// The same for this measurement: both coordinates of a point.
std::string value_text(const Measurement& measurement, const Reading& reading);

/// What a measurement looks like at a station; nothing where a part of it is not seen there.
std::vector<OutlinePart> drawn_at(const Layout& layout, const Measurement& measurement, int station);

/// What the pixels of a station say of a measurement; nothing where it cannot be carried there.
std::vector<Detail> sampled_at(const Layout& layout, const Measurement& measurement, int station, const Image& image);

/// By how much the scale differs over a station, as (largest − smallest) / mean of the pixels that a unit of length of
/// the rectified plane takes there, over the reference rectangle. Nothing when no rectify step comes behind it.
std::optional<double> scale_variation(const Chain& chain, const Layout& layout, int station);

/// What the known lengths say together at a station.
struct LengthSummary {
  int count = 0;           ///< lengths with an expected value that can be read
  double largest = 0;      ///< the largest |error| of those that agree within three times their uncertainty, in `unit`
  double uncertainty = 0;  ///< the largest standard uncertainty of one, in `unit`
  int agree = 0;           ///< how many those are
  double worst = 0;        ///< the error of the one that is furthest off, in `unit`
  std::string worst_name;  ///< its name; empty when all agree
  double spread = 0;       ///< (longest − shortest) / mean of reading / expected
  std::string unit = "mm";
};
LengthSummary summarise_lengths(const Chain& chain, const SourceShape& source, const Layout& layout, int station);

/// The size of a source pixel by the known lengths together, where the source is seen straight on, in the unit of the
/// first of them. The ratio of a pixel's width and height stays.
struct ScaleFromLengths {
  PixelSize pixel;
  PixelScale scale;  ///< of the pixel's width
  int count = 0;     ///< lengths that were used
};
/// Nothing where no length has an expected value and both ends in the source.
std::optional<ScaleFromLengths> scale_from_lengths(const Chain& chain, const Layout& layout);

}  // namespace fexel
