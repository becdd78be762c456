#pragma once
/// Where marks stand and what they are made of.
#include <functional>
#include <span>

#include "marks/drawing.h"
#include "marks/marks.h"

namespace fexel {

/// A measurement of the result, as it is drawn.
struct MarkedMeasurement {
  std::string name;
  struct Part {
    std::vector<Point> points;  ///< in pixels of the result; a single one is a place
    bool closed = false;
  };
  std::vector<Part> parts;
  std::string text;  ///< its value
};

/// What marks are laid on.
struct MarkInput {
  Size size;                       ///< of the result, in pixels
  double scale = 1;                ///< pixels of the copy for one of the result
  std::optional<PixelSize> pixel;  ///< of the result
  int frame = 1;                   ///< of the sequence, from 1
  std::optional<double> time_step = {};
  std::string time_unit = "s";
  /// A point of a station in the result; nothing where it is not seen there.
  std::function<std::optional<Point>(Point, int station)> carried = {};
  std::vector<MarkedMeasurement> measurements = {};
  const RgbPicture* under = nullptr;  ///< the whole result, reduced: colours go by it
  /// A part of the result, in so many pixels.
  std::function<RgbPicture(const Rect&, int width, int height)> part = {};
};

MarkDrawing lay_out_marks(std::span<const Mark> marks, const MarkStyle& common, const MarkInput& input);

/// The length of 1, 2 or 5 x 10^n that is nearest to `wanted`, by ratio, in a unit in which it is written short.
struct RoundLength {
  double value = 1;
  std::string unit;
};
RoundLength round_length(double wanted, const std::string& unit);

}  // namespace fexel
