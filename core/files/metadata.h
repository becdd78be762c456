#pragma once
/// What cameras and programs write beside the pixels (Exif 2.32). The only place that knows its library.
#include <filesystem>
#include <optional>
#include <span>
#include <vector>

#include "base/units.h"
#include "files/picture.h"

namespace fexel::codec {

struct CameraData {
  int orientation = 1;                  ///< 1 to 8
  std::optional<PixelSize> pixel_size;  ///< from the resolution, when it is not the usual 72 or 96 dots an inch
};

/// What an Exif block says; the defaults when it says nothing, or nothing that can be read.
CameraData camera_data(const std::vector<unsigned char>& exif);

/// The same JPEG with its resolution as exact fractions, where there is one, and with what is attached.
std::vector<unsigned char> with_metadata(std::span<const unsigned char> jpeg, const std::optional<PixelSize>& size,
                                         const Attached& attached);

/// What of stored metadata goes on to a picture of so many bands; what cannot be read, or has no place in it, is not
/// there.
struct Stored;
Attached attached_of(const Stored& stored, int bands);

/// One line of Exif as other formats store it.
struct CameraLine {
  std::uint16_t tag;
  bool of_picture;  ///< else of the Exif part
  std::string text;
  double number;
};
/// The lines that every format can hold.
std::vector<CameraLine> camera_lines(const Attached& attached);
/// An Exif block of lines; nothing for none.
std::vector<unsigned char> exif_of(const std::vector<CameraLine>& lines);

}  // namespace fexel::codec
