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

/// Whether a text tells how a file is made up, and would be wrong of another one: OME-XML, or a count of pictures.
bool describes_file(const std::string& description);
/// What a description says of the pages of a file.
struct OmeStack {
  StackAxes axes;
  std::vector<std::optional<StackPlace>> places;  ///< of each page, from the first
  std::optional<PixelSize> pixel;
};
/// Nothing where it is no OME-XML, says of another number of pages than there are, or is broken. Planes that it places
/// in other files than `name` are not there.
std::optional<OmeStack> ome_stack(const std::string& description, int pages, const std::string& name);
/// Puts what it says of a page, from 1, into what the file says.
void put_ome(const OmeStack& stack, int page, FileInfo& info);
/// The description of a file with a page for each of these places, in their order.
std::string ome_description(const StackAxes& axes, const std::vector<StackPlace>& places, Size size, Depth depth,
                            const std::optional<PixelSize>& pixel);

/// The description of a file with one page for each of these channels.
std::string ome_description(const std::vector<std::string>& names, Size size, Depth depth,
                            const std::optional<PixelSize>& pixel);

}  // namespace fexel
