#pragma once
/// Pictures and films of many frames, written with what they were made of.
#include "files/film.h"
#include "stacks/provenance.h"

namespace fexel {

/// What was made of a stack.
struct StackPicture {
  std::vector<Image> pages;
  Json operation;                       ///< its name and numbers
  std::vector<std::string> notes = {};  ///< frames that were left out of it
  std::optional<PixelSize> pixel = {};
};

/// Where it goes.
struct StackTarget {
  std::filesystem::path path;
  bool replace = false;
  std::shared_ptr<const ProtectedPaths> keep = {};  ///< what must not be replaced
  std::optional<Depth> depth = {};                  ///< the picture's without it; clamps
};

struct WrittenStack {
  Size size;
  int bands = 1;
  Depth depth = Depth::u8;
  int frames = 0;  ///< of a film
  double rate = 0;
  std::int64_t clamped = 0;
  std::vector<std::string> notes;  ///< of the frames, and of what was made of them
  std::size_t missing = 0;         ///< notes that tell of a frame which is not in it
};

/// Writes a picture: empty pixels are NaN in floats, else told by an alpha band where any page has some. Raises what
/// write_made() raises, and a call error for a name without the ending of a picture.
WrittenStack write_stack(const FrameStack& frames, StackPicture picture, const StackTarget& target,
                         const std::optional<Chain>& chain, const Job& job);

/// The frames as a film (.mkv, or .webm for showing). A film tells no empty pixels: they have the chain's fill value. A
/// frame that cannot be read is left out, and noted. Without a rate each frame has its own time, where it has one; else
/// the time step of the chain gives it, or 25. Raises a call error for another name, and what FilmWriter raises.
WrittenStack write_film(const FrameStack& frames, FilmUse use, std::optional<double> rate, const StackTarget& target,
                        const std::optional<Chain>& chain, const Job& job);

}  // namespace fexel
