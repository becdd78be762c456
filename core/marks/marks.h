#pragma once
/// What is drawn on a copy of a result for a report or a paper, never on the data. A new kind is a value here, its text
/// form in marks.cpp, and how it is drawn in lay_out_marks.cpp.
#include <array>
#include <variant>

#include "base/units.h"
#include "geometry/point.h"
#include "marks/style.h"

namespace fexel {

/// Letters that a text may have.
inline constexpr std::size_t longest_mark_text = 2000;

/// Where a block stands: at one of nine places, or with its middle at a point, in pixels of the result.
struct MarkPlace {
  int column = 2, row = 2;  ///< 0 left and top, 1 the middle, 2 right and bottom
  std::optional<Point> at = {};
  bool operator==(const MarkPlace& other) const {
    return at == other.at && (at || (column == other.column && row == other.row));
  }
};
/// "top-left", "top", … "bottom-right".
const std::vector<std::string>& place_words();
MarkPlace place_named(const std::string& word);

struct ScaleBarMark {
  static constexpr const char* word = "scale-bar";
  static constexpr std::array keys{"length", "unit", "place", "direction", "label"};
  enum class Direction { across, down, both };
  std::optional<double> length;  ///< in `unit`; the nearest round one to a fifth of the side without it
  std::string unit;              ///< the pixel size's without a length
  MarkPlace place;
  Direction direction = Direction::across;
  bool label = true;  ///< says its length
  bool operator==(const ScaleBarMark&) const = default;
};

/// A caption or any other text, of one line or several.
struct TextMark {
  static constexpr const char* word = "text";
  static constexpr std::array keys{"text", "place"};
  std::string text;
  MarkPlace place{0, 0};
  bool operator==(const TextMark&) const = default;
};

/// From its tail to its head, with a text at the tail.
struct ArrowMark {
  static constexpr const char* word = "arrow";
  static constexpr std::array keys{"points", "station", "text"};
  std::array<Point, 2> points{};
  int station = -1;  ///< that the points are of; -1 for the result
  std::string text;
  bool operator==(const ArrowMark&) const = default;
};

struct OutlineMark {
  static constexpr const char* word = "outline";
  static constexpr std::array keys{"shape", "points", "station", "text"};
  enum class Shape { rectangle, ellipse, polygon };
  Shape shape = Shape::rectangle;
  std::vector<Point> points;  ///< opposite corners of a rectangle, or of the one around an ellipse; corners
  int station = -1;
  std::string text;
  bool operator==(const OutlineMark&) const = default;
};

/// A part of the result, enlarged, in a frame, with the part outlined.
struct InsetMark {
  static constexpr const char* word = "inset";
  static constexpr std::array keys{"x", "y", "width", "height", "zoom", "place"};
  double x = 0, y = 0, width = 100, height = 100;  ///< in pixels of the result
  double zoom = 3;
  MarkPlace place{2, 0};
  bool operator==(const InsetMark&) const = default;
};

/// The number of a frame, or its time since the first one.
struct TimeMark {
  static constexpr const char* word = "time";
  static constexpr std::array keys{"show", "place", "decimals"};
  enum class Show { frame, time, both };
  Show show = Show::both;
  MarkPlace place{0, 2};
  int decimals = 1;
  bool operator==(const TimeMark&) const = default;
};

/// The chain's measurements, with their values.
struct MeasurementsMark {
  static constexpr const char* word = "measurements";
  static constexpr std::array keys{"names", "values"};
  std::vector<std::string> names;  ///< empty for all
  bool values = true;
  bool operator==(const MeasurementsMark&) const = default;
};

using MarkKind = std::variant<ScaleBarMark, TextMark, ArrowMark, OutlineMark, InsetMark, TimeMark, MeasurementsMark>;

struct Mark {
  MarkKind kind;
  MarkStyle style = {};  ///< what is unlike the chain's style
  bool operator==(const Mark&) const = default;
};

const char* word_of(const MarkKind& kind);
std::vector<std::string> mark_words();
/// Where its block stands; nothing for kinds that lie on the picture.
MarkPlace* place_of(MarkKind& kind);
/// The points that it lies at, and their station; none for kinds that stand at a place.
std::vector<Point*> points_of(MarkKind& kind);
int* station_of(MarkKind& kind);

/// Reads a mark strictly. Raises a call error that names the path in the text.
Mark read_mark(const Json& value, const std::string& path);
Json mark_json(const Mark& mark);

}  // namespace fexel
