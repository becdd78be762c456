#pragma once
/// How far a length at a station can be trusted.
#include <optional>

#include "chain/layout.h"

namespace fexel {

/// A gauge's length at a station.
struct GaugeReading {
  std::optional<Length> length;       ///< nothing when an end lies beyond the horizon there
  std::optional<double> uncertainty;  ///< standard uncertainty, in the length's unit
  double by_ends = 0;                 ///< what of it comes from placing the gauge's own ends
  std::optional<double> error;        ///< length minus expected, in the gauge's unit, where both are known
};

/// Reads a gauge at `station`. The uncertainty is propagated to first order (numerically differentiated) from its ends,
/// placed as the gauge says, and from every rectify step between the gauge and the station: its corners and the ends of
/// the lengths that give its scale, placed as the step says.
GaugeReading read_gauge(const Chain& chain, const SourceShape& source, const Layout& layout, const Gauge& gauge,
                        int station);

/// By how much the scale differs over a station, as (largest − smallest) / mean of the pixels that a unit of length of
/// the rectified plane takes there, over the reference rectangle. Nothing when no rectify step comes behind it.
std::optional<double> scale_variation(const Chain& chain, const Layout& layout, int station);

/// What the gauges of known length say together at a station.
struct GaugeSummary {
  int count = 0;           ///< gauges with an expected length that can be read
  double largest = 0;      ///< the largest |error| of those that agree within three times their uncertainty, in `unit`
  double uncertainty = 0;  ///< the largest standard uncertainty of one, in `unit`
  int agree = 0;           ///< how many those are
  double worst = 0;        ///< the error of the one that is furthest off, in `unit`
  std::string worst_name;  ///< its name; empty when all agree
  double spread = 0;       ///< (longest − shortest) / mean of reading / expected
  std::string unit = "mm";
};
GaugeSummary summarise_gauges(const Chain& chain, const SourceShape& source, const Layout& layout, int station);

/// The size of a source pixel that the gauges of known length give together, where the source is seen straight on; in
/// the unit of the first of them. A pixel stays as long for its width as it is.
struct GaugedScale {
  PixelSize pixel;
  PixelScale scale;  ///< of the pixel's width
  int count = 0;     ///< gauges that had a say
};
/// Nothing where no gauge has an expected length and both ends in the source.
std::optional<GaugedScale> scale_from_gauges(const Chain& chain, const Layout& layout);

}  // namespace fexel
