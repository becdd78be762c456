#pragma once
/// Samples of a TIFF that are stored otherwise than as Fexel has them, and how a row of them becomes such samples (TIFF
/// 6.0, 1992, sections 4 to 6 and 19; TIFF Technical Note 3, 2005).
#include <array>

#include "files/tiff.h"

namespace fexel::codec {

struct SampleForm {
  enum class Kind { whole, signed_whole, floating };
  Kind kind = Kind::whole;
  int bits = 8;
  bool inverted = false;                              ///< white is zero
  std::vector<std::array<std::uint16_t, 3>> palette;  ///< colours of the indices; 0 to 255 where the depth is u8
  Depth depth = Depth::u8;                            ///< of the samples that are given
  int largest = 0;                                    ///< see Image::stated_largest()
  int given = 1;                                      ///< samples for one that is stored: 3 of a palette with colours
  bool by_library = false;  ///< YCbCr that is not JPEG: the library makes red, green and blue of whole strips
  std::vector<std::string> said = {};  ///< what becomes of the samples, in sentences

  /// Whether they can be taken as they lie.
  bool native() const;
  /// The number that stands for all of what an alpha sample can say.
  double full() const;
  std::size_t line_bytes(std::size_t samples) const { return (samples * static_cast<std::size_t>(bits) + 7) / 8; }
};

/// How the samples of this page are stored. Raises an input error for what cannot be read.
SampleForm sample_form(const fs::path& path, TIFF* tiff);

/// A row of so many stored samples; `to` takes `given` times as many of the form's depth.
void unpack(const SampleForm& form, const std::byte* row, std::size_t samples, std::byte* to);

}  // namespace fexel::codec
