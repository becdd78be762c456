#pragma once
/// All frames of a sequence brought to one of them.
#include <functional>
#include <map>
#include <string>
#include <vector>

#include "align/match.h"

namespace fexel {

/// Frames that are read when they are needed; several threads may read. An Error that reading raises is that frame's.
struct FrameReader {
  int count = 0;
  std::function<Image(int index, const Job&)> read;  ///< counted from 0
  std::vector<int> places = {};  ///< of the frames in their sequence, from 0, where they are only some of it
};

/// What frames are matched against. first: the first that can be used. neighbour: the one before, transforms then
/// multiplied up. average: the mean of all (or, with a number, of so many from the first) after they were matched
/// against the first. frame: the one with that number, from 1. picture: one from elsewhere. network: all pairs up to 16
/// frames apart, adjusted together.
enum class ReferenceMode { first, neighbour, average, frame, picture, network };

struct AlignOptions {
  MatchOptions match;
  ReferenceMode against = ReferenceMode::first;
  int number = 0;                  ///< of average and frame
  const Image* picture = nullptr;  ///< what `picture` matches against
  int band = 0;                    ///< from 1; 0 is the mean of all
  SimilarityMetric likeness = SimilarityMetric::brightness;
  const Image* use = nullptr;          ///< pixels of the reference that count: where it is not zero
  std::map<int, Matrix3> starts = {};  ///< where the search begins, of frames whose place is known about
  /// CellAccuracy of each frame as it is matched, one call at a time, from any thread; not where pairs are adjusted
  /// together.
  std::function<void(int index, const Match&)> found = {};
  std::int64_t memory = 1 << 30;  ///< bytes that prepared frames may take
};

struct Alignment {
  Size size;          ///< of the reference
  int reference = 0;  ///< frame that is the reference, from 0; −1 for a picture from elsewhere
  std::vector<Match> frames;
};

/// Raises a call error for a frame number that is not there, an input error when the reference cannot be used, and the
/// cancelled error. A frame that cannot be read or used has failed, with the reason.
Alignment align_frames(const FrameReader& frames, const AlignOptions& options, const Job& job);

}  // namespace fexel
