#include <fstream>

#include "files/decoders/decoders.h"
#include "files/directories.h"

namespace fexel::codec {

/// The first directory alone tells (TIFF 6.0; Adobe, 2021, "Digital Negative (DNG) Specification 1.6").
bool is_raw_tiff(const fs::path& path) {
  constexpr std::uint16_t kind = 254, make = 271, below = 330, dng = 50706;
  std::ifstream in(path, std::ios::binary);
  const ReadAt read = reader_of(in);
  char mark[2] = {};
  if (read(8, mark, 2) && mark[0] == 'C' && mark[1] == 'R') return true;
  const auto head = tiff_head(read);
  if (!head || head->big) return false;
  constexpr std::size_t longest = 256;  // bytes of a value: names, and where what is below stands
  const auto entries = directory_at(read, *head, head->first, longest);
  const auto has = [&](std::uint16_t tag) { return std::ranges::find(entries, tag, &TagEntry::tag) != entries.end(); };
  return has(dng) || (has(below) && has(make) && (number_of(entries, kind).value_or(0) & 1) != 0);
}

}  // namespace fexel::codec
