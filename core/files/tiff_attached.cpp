/// What a TIFF file holds beside its pixels: colour profile, camera data, XMP and IPTC.
#include <fstream>

#include "files/directories.h"
#include "files/metadata.h"
#include "files/ome.h"
#include "files/tiff.h"

namespace fexel::codec {

Stored tiff_attached(const fs::path& path) {
  constexpr std::size_t most = 8 << 20;
  constexpr std::uint16_t make = 271, xmp = 700, iptc = 33723;
  Stored out;
  const TiffPointer opened = open_tiff_page(path, 1);
  out.profile = tiff_profile(opened.get());
  std::ifstream in(path, std::ios::binary);
  CameraTags tags = camera_tags(reader_of(in), most);
  for (const TagEntry& entry : tags.picture) {
    if (entry.tag == xmp) out.xmp = entry.value;
    if (entry.tag == iptc) out.iptc = entry.value;
  }
  // Blocks begin with the byte 1C; some programs store them as numbers of four bytes, the highest first.
  constexpr unsigned char marker = 0x1c;
  if (out.iptc.size() >= 4 && out.iptc[0] != marker && out.iptc[3] == marker)
    for (std::size_t i = 0; i + 4 <= out.iptc.size(); i += 4)
      std::reverse(out.iptc.begin() + static_cast<std::ptrdiff_t>(i),
                   out.iptc.begin() + static_cast<std::ptrdiff_t>(i) + 4);
  // Of the picture's own directory only what a camera says; the rest tells how the samples are stored.
  constexpr std::uint16_t description = 270;
  constexpr std::uint16_t of_picture[] = {description, make, 272, 306, 315, 316, 33432};
  std::erase_if(tags.picture, [&](const TagEntry& entry) {
    return std::ranges::find(of_picture, entry.tag) == std::end(of_picture) || entry.value.size() > 4096 ||
           (entry.tag == description && describes_file({entry.value.begin(), entry.value.end()}));
  });
  out.exif = exif_block(tags);
  return out;
}

}  // namespace fexel::codec
