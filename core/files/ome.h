#pragma once
/// The description that OME-TIFF files carry: which page is which band (the Open Microscopy Environment's public
/// schema, 2016-06).
#include <string>
#include <vector>

#include "files/picture.h"
#include "geometry/point.h"

namespace fexel {

/// The names of a file's pages, from its description; none where it is no OME-XML, says something else than one channel
/// a page in order, or is broken.
std::vector<std::string> ome_page_names(const std::string& description);

/// The description of a file with one page for each of these channels.
std::string ome_description(const std::vector<std::string>& names, Size size, Depth depth,
                            const std::optional<PixelSize>& pixel);

}  // namespace fexel
