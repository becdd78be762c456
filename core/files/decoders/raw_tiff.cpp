#include <fstream>

#include "files/decoders/decoders.h"

namespace fexel::codec {

/// The first directory alone tells (TIFF 6.0; Adobe, 2021, "Digital Negative (DNG) Specification 1.6").
bool is_raw_tiff(const fs::path& path) {
  std::ifstream in(path, std::ios::binary);
  unsigned char head[16] = {};
  if (!in.read(reinterpret_cast<char*>(head), sizeof head)) return false;
  const bool big = head[0] == 'M';
  const auto number = [big](const unsigned char* at, int count) {
    std::uint32_t out = 0;
    for (int i = 0; i < count; ++i) out |= std::uint32_t{at[i]} << (8 * (big ? count - 1 - i : i));
    return out;
  };
  if (number(head + 2, 2) != 42) return false;
  if (head[8] == 'C' && head[9] == 'R') return true;
  in.seekg(number(head + 4, 4));
  unsigned char count[2] = {}, entry[12] = {};
  if (!in.read(reinterpret_cast<char*>(count), 2)) return false;
  bool reduced = false, below = false, maker = false;
  for (std::uint32_t i = 0; i < number(count, 2) && in.read(reinterpret_cast<char*>(entry), 12); ++i) {
    constexpr std::uint32_t kind = 254, make = 271, directories = 330, dng = 50706;
    const std::uint32_t tag = number(entry, 2);
    if (tag == dng) return true;
    reduced = reduced || (tag == kind && (number(entry + 8, 4) & 1) != 0);
    maker = maker || tag == make;
    below = below || tag == directories;
  }
  return reduced && below && maker;
}

}  // namespace fexel::codec
