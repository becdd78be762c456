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
  int orientation = 1;               ///< 1 to 8
  std::optional<PixelSize> density;  ///< as the resolution says
  std::string software;              ///< that wrote it
  bool photo = false;                ///< a camera took it: it says a maker, an exposure or a focal length
  bool scan = false;                 ///< a scanner says that it made it
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

/// IPTC in the resources ("8BIM" blocks) that JPEG and PNG keep it in, and such a resource of it.
std::vector<unsigned char> iptc_in(const std::vector<unsigned char>& resources);
std::vector<unsigned char> resource_of(const std::vector<unsigned char>& iptc);

}  // namespace fexel::codec
