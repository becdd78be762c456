/// What a TIFF file holds beside its pixels: colour profile and camera data.
#include "files/metadata.h"
#include "files/tiff.h"

namespace fexel::codec {
namespace {

std::optional<CameraLine> camera_line(TIFF* tiff, std::uint32_t tag, bool of_picture) {
  const TIFFField* field = TIFFFindField(tiff, tag, TIFF_ANY);
  if (!field || TIFFFieldPassCount(field) != 0) return std::nullopt;
  CameraLine line{static_cast<std::uint16_t>(tag), of_picture, {}, 0};
  switch (TIFFFieldDataType(field)) {
    case TIFF_ASCII: {
      const char* text = nullptr;
      if (TIFFGetField(tiff, tag, &text) == 0 || !text) return std::nullopt;
      line.text = std::string(text).substr(0, 4000);
      return line;
    }
    case TIFF_SHORT: {
      std::uint16_t value = 0;
      if (TIFFGetField(tiff, tag, &value) == 0) return std::nullopt;
      line.number = value;
      return line;
    }
    case TIFF_RATIONAL:
    case TIFF_SRATIONAL: {
      if (TIFFFieldSetGetSize(field) == 8) {
        double value = 0;
        if (TIFFGetField(tiff, tag, &value) == 0) return std::nullopt;
        line.number = value;
      } else {
        float value = 0;
        if (TIFFGetField(tiff, tag, &value) == 0) return std::nullopt;
        line.number = static_cast<double>(value);
      }
      return line;
    }
    default:
      return std::nullopt;
  }
}

}  // namespace

Stored tiff_attached(const fs::path& path) {
  Stored out;
  const TiffPointer opened = open_tiff_page(path, 1);
  TIFF* tiff = opened.get();
  out.profile = tiff_profile(tiff);
  std::vector<CameraLine> lines;
  for (const std::uint32_t tag : {TIFFTAG_MAKE, TIFFTAG_MODEL, TIFFTAG_DATETIME, TIFFTAG_ARTIST, TIFFTAG_COPYRIGHT,
                                  TIFFTAG_IMAGEDESCRIPTION, TIFFTAG_HOSTCOMPUTER})
    if (const auto line = camera_line(tiff, tag, true)) lines.push_back(*line);
  std::uint64_t exif = 0;
  if (TIFFGetField(tiff, TIFFTAG_EXIFIFD, &exif) != 0 && TIFFReadEXIFDirectory(tiff, exif) != 0) {
    for (const std::uint32_t tag :
         {EXIFTAG_EXPOSURETIME, EXIFTAG_FNUMBER, EXIFTAG_FOCALLENGTH, EXIFTAG_EXPOSUREBIASVALUE,
          EXIFTAG_FOCALLENGTHIN35MMFILM, EXIFTAG_FLASH, EXIFTAG_METERINGMODE, EXIFTAG_DATETIMEORIGINAL,
          EXIFTAG_DATETIMEDIGITIZED, EXIFTAG_BODYSERIALNUMBER, EXIFTAG_LENSMAKE, EXIFTAG_LENSMODEL,
          EXIFTAG_LENSSERIALNUMBER})
      if (const auto line = camera_line(tiff, tag, false)) lines.push_back(*line);
    std::uint16_t count = 0;
    std::uint16_t* speeds = nullptr;
    if (TIFFGetField(tiff, EXIFTAG_ISOSPEEDRATINGS, &count, &speeds) != 0 && count > 0)
      lines.push_back({EXIFTAG_ISOSPEEDRATINGS, false, {}, static_cast<double>(speeds[0])});
  }
  out.exif = exif_of(lines);
  return out;
}

}  // namespace fexel::codec
