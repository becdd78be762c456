#pragma once
/// Fields of movement in a file: a TIFF stack of 32-bit maps, which any reader opens, and which is opened again without
/// a new search.
#include "files/parts.h"
#include "motion_run/motion_run.h"

namespace fexel {

/// The bands of a page, in their order: a page for each field, a pixel for each point of the grid; NaN where there is
/// nothing. The description of the first page says, as JSON, what it is of: grid, settings, units, frames.
const std::vector<std::string>& motion_bands();

/// What the description says.
struct MotionResultHead {
  MotionProbe probe;
  MotionGrid grid;
  MotionUnits units;
  Size size;                             ///< of the pictures
  std::vector<int> frames;               ///< numbers, from 1, of the pages that are there; read from them
  std::vector<SourceReference> sources;  ///< by their names, with checksums
  int wanted = 0;                        ///< fields that were asked for
  bool complete = true;                  ///< all fields that were asked for
};

/// The description, from its text. Raises an input or a call error for what is none.
MotionResultHead parse_motion_head(const std::string& text);

/// Writes fields as they come; the file appears under its name when it is finished.
class MotionResultWriter {
 public:
  /// `fields` is how many may come.
  MotionResultWriter(std::filesystem::path path, MotionResultHead head, int fields, bool replace,
                     const ProtectedPaths* keep);
  ~MotionResultWriter();
  void append(const MotionResultFrame& result);
  /// Ends the file after as many fields as have come, and gives it its name.
  void finish();

 private:
  struct State;
  std::unique_ptr<State> state_;
};

/// A result that is opened: its head, and any field of it.
class MotionResult {
 public:
  /// Raises an input error for what is no such file, is cut short, or does not hold together.
  explicit MotionResult(std::filesystem::path path);
  ~MotionResult();
  const MotionResultHead& head() const { return head_; }
  int fields() const { return static_cast<int>(head_.frames.size()); }
  /// As it was matched, with its number.
  MotionResultFrame field(int index) const;
  /// One point in all fields, for curves over time.
  std::vector<MotionPoint> over_time(std::size_t point, const Job& job) const;

 private:
  std::filesystem::path path_;
  MotionResultHead head_;
};

}  // namespace fexel
