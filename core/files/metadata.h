#pragma once
/// What cameras and programs write beside the pixels (Exif 2.32). The only place that knows its library.
#include <filesystem>
#include <optional>
#include <span>
#include <vector>

#include "base/units.h"

namespace fexel::codec {

struct CameraData {
  int orientation = 1;                  ///< 1 to 8
  std::optional<PixelSize> pixel_size;  ///< from the resolution, when it is not the usual 72 or 96 dots an inch
};

/// What a file says; the defaults when it says nothing, or nothing that can be read.
CameraData camera_data(const std::filesystem::path& path);

/// The same JPEG with its resolution as exact fractions.
std::vector<unsigned char> with_pixel_size(std::span<const unsigned char> jpeg, const PixelSize& size);

}  // namespace fexel::codec
