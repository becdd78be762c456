#pragma once
/// Films as sequences of pictures: what a film says of its frames, any frame by an exact seek, and writing.
#include <functional>
#include <memory>

#include "files/picture.h"
#include "geometry/point.h"

namespace fexel {

/// One film that is open for reading. Only packets are looked at when it is opened; frames are decoded when they are
/// asked for, and none is kept but the last few: a film of hours takes no more memory than its list of frames. Several
/// threads may read; they take turns.
class Film {
 public:
  /// Raises an input error for what is no film, has no picture stream, or a codec that is not there.
  explicit Film(const std::filesystem::path& path, const Limits& limits = {}, const Job& job = {});
  ~Film();
  int count() const;
  /// Of a frame, from 0: seconds from the first one, as the film has them; frame rates may vary.
  double time(int index) const;
  /// Upright, as the film's rotation says. Depth is u8, or u16 with `largest` for more bits.
  const FileInfo& info() const;
  /// What may be wrong with it, in sentences: it is cut short, interlaced, or does not say its colours.
  const std::vector<std::string>& notes() const;
  /// The pixels of a frame, laid upright. YUV becomes RGB by the matrix and range that the film states. Raises an input
  /// error for a frame that is damaged.
  Image read(int index, const Job& job);

 private:
  class State;
  std::unique_ptr<State> state_;
};

/// The film of this path, kept open while it is one of the few that were used last.
std::shared_ptr<Film> open_film(const std::filesystem::path& path, const Limits& limits = {}, const Job& job = {});

/// lossless: FFV1 in Matroska, bit for bit the frames. showing: VP9 in WebM or Matroska, 8 bits.
enum class FilmUse { lossless, showing };
inline constexpr double least_film_rate = 0.001, most_film_rate = 1000;  ///< frames a second

struct FilmLook {
  Size size;
  int bands = 1;  ///< 1 or 3
  Depth depth = Depth::u8;
  int largest = 0;   ///< see Image::stated_largest()
  double rate = 25;  ///< frames a second
  FilmUse use = FilmUse::lossless;
};

/// A film that appears whole under its name, or not at all.
class FilmWriter {
 public:
  /// Raises a call error for a look that no film can have (floating-point samples, two bands), and what
  /// check_target() raises.
  FilmWriter(const std::filesystem::path& path, const FilmLook& look, const WriteOptions& options);
  ~FilmWriter();
  /// The next frame, in the film's size, bands and depth. `time` in seconds from the first; by the rate without it.
  /// Raises an input error for a frame unlike the others, or less than a millisecond behind the last.
  void add(const Image& frame, std::optional<double> time = {});
  /// Writes the rest, and gives the film its name. `before_placing` gets the whole file before that; what it raises
  /// leaves none.
  void finish(const std::function<void(int descriptor)>& before_placing = {});

 private:
  class State;
  std::unique_ptr<State> state_;
};

}  // namespace fexel
