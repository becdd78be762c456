#pragma once
/// TIFF files for tests, begun with the library itself.
#include <tiffio.h>

#include <filesystem>
#include <stdexcept>

namespace fexel::test {

struct TiffKind {
  int width = 1, height = 1, bands = 1, bits = 8, photometric = PHOTOMETRIC_MINISBLACK;
  const char* mode = "w";
  int planes = PLANARCONFIG_CONTIG;
};

/// What every picture has to say; the rest, its samples and TIFFClose() are the test's.
inline void say_kind(TIFF* tiff, const TiffKind& kind) {
  TIFFSetField(tiff, TIFFTAG_IMAGEWIDTH, kind.width);
  TIFFSetField(tiff, TIFFTAG_IMAGELENGTH, kind.height);
  TIFFSetField(tiff, TIFFTAG_SAMPLESPERPIXEL, kind.bands);
  TIFFSetField(tiff, TIFFTAG_BITSPERSAMPLE, kind.bits);
  TIFFSetField(tiff, TIFFTAG_PHOTOMETRIC, kind.photometric);
  TIFFSetField(tiff, TIFFTAG_PLANARCONFIG, kind.planes);
}

inline TIFF* new_tiff(const std::filesystem::path& path, const TiffKind& kind) {
  TIFF* tiff = TIFFOpen(path.c_str(), kind.mode);
  if (!tiff) throw std::runtime_error("the TIFF cannot be begun");
  say_kind(tiff, kind);
  return tiff;
}

}  // namespace fexel::test
