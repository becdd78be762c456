#pragma once
/// A chain: sources, steps, measurements and how to resample. Editing makes a new one.
#include <optional>
#include <string>
#include <vector>

#include "chain/motion_probe.h"
#include "geometry/axes.h"
#include "marks/marks.h"
#include "measurements/measurements.h"
#include "resample/kernels/kernel.h"
#include "steps/steps.h"

namespace fexel {

struct SourceReference {
  std::string path;            ///< as written: relative paths start at the chain's own folder
  std::string sha256;          ///< lower-case hexadecimal; may be empty
  std::vector<int> skip = {};  ///< pages, from 1, that are left out of the sequence
  bool alpha_band = false;     ///< alpha is read as one more band, and not as the mask
  bool operator==(const SourceReference&) const = default;
};

struct Calibration {
  std::string name;
  PixelSize pixel;
  double uncertainty = 0;  ///< standard uncertainty of the pixel size, in its unit
  std::string lens, made;
  std::optional<Size> size = {};  ///< of the pictures that it was made for
  std::string method = {};        ///< how it was made
  bool operator==(const Calibration&) const = default;
};

/// A part of the source that is not used, or the only one that is, in matching and measuring.
struct Mask {
  enum class Shape { rectangle, circle, ring, polygon };
  enum class Use { leave_out, only };
  std::string name;
  Shape shape = Shape::rectangle;
  std::vector<Point> points;  ///< a rectangle's top-left and bottom-right corner, a circle's or ring's centre, corners
  double inner = 0, radius = 0;  ///< of a circle or ring, in pixels
  Use use = Use::leave_out;
  std::vector<int> frames = {};  ///< from 1; empty for all
  bool operator==(const Mask&) const = default;
};

/// The time from one frame of a sequence to the next.
struct TimeStep {
  double value = 1;
  std::string unit = "s";
  bool operator==(const TimeStep&) const = default;
};
/// The units of time that chains know.
const std::vector<std::string>& time_units();

/// Which frames of a sequence belong together, two by two, as a and b: those that their names say, those that follow
/// each other (1 and 2, 3 and 4), or none.
enum class Pairing { names, order, none };

struct Chain {
  std::vector<SourceReference> sources;
  std::optional<Calibration> calibration;
  std::optional<Axes> axes = {};
  std::optional<TimeStep> time_step = {};
  Pairing pairing = Pairing::names;
  std::vector<Mask> masks;
  Resampling resampling;
  std::vector<Step> steps;
  std::vector<Measurement> measurements;
  std::vector<MotionProbe> motions = {};
  MarkStyle mark_style = {};
  std::vector<Mark> marks = {};
  bool operator==(const Chain&) const = default;
};

/// Reads the text of a chain. Raises a call error that names the path in the text, the value, and what would be
/// accepted.
Chain parse_chain(const std::string& text);
/// The text form: what parse_chain reads gives back the same chain.
std::string write_chain(const Chain& chain);
/// The text of one step, and back.
std::string write_one_step(const Step& step);

/// The names of the pictures that steps read or refer to, to be changed.
std::vector<std::string*> files_of_steps(Chain& chain);
/// The chain with its references by their names alone: what is handed on says nothing of the folders here.
Chain without_folders(Chain chain);

/// Reads a chain file, or standard input for "-"; references of fit steps are then absolute. Errors name the file
/// before the path. A file that cannot be read is a call error, too.
Chain load_chain(const std::string& path);

}  // namespace fexel
