#include "files/decoders/decoders.h"

#include <fstream>

namespace fexel::codec {

std::vector<std::uint8_t> all_bytes(const fs::path& path, const Limits& limits) {
  std::error_code code;
  const auto size = fs::file_size(path, code);
  if (code) throw input_error("The file cannot be opened.", path.string(), "Check that it exists and may be read.");
  if (static_cast<double>(size) > std::min<double>(static_cast<double>(limits.memory), 4e9))
    throw input_error(fmt::format("The file has {:.0f} MB, which have to be in memory at once; that is not allowed.",
                                  static_cast<double>(size) / (1024 * 1024)),
                      path.string(), "Allow more memory (--max-memory), or save it as TIFF.");
  std::vector<std::uint8_t> bytes(size);
  std::ifstream in(path, std::ios::binary);
  if (!in.read(reinterpret_cast<char*>(bytes.data()), static_cast<std::streamsize>(size)))
    throw broken(path, "The file could not be read to its end.");
  return bytes;
}

void settle_alpha(FileInfo& info, const Limits& limits) {
  if (!info.alpha || !limits.alpha_band) return;
  info.alpha = false;
  ++info.bands;
  info.readings.emplace_back(info.associated ? "Its last band is alpha, by which the colours are multiplied."
                                             : "Its last band is alpha.");
}

void settle_alpha(Image& image, const FileInfo& stored, const Limits& limits, double full) {
  if (stored.alpha && !limits.alpha_band) image.take_alpha(full, stored.associated);
}

void settle_bits(FileInfo& info, int bits) {
  info.depth = bits <= 8 ? Depth::u8 : Depth::u16;
  const int top = (1 << bits) - 1;
  info.largest = top == static_cast<int>(top_of(info.depth)) ? 0 : top;
  if (info.largest > 0)
    info.readings.push_back(
        fmt::format("Its {}-bit samples are read as {}-bit ones from 0 to {}.", bits, bits <= 8 ? 8 : 16, top));
}

void check_page(const fs::path& path, int page, int count) {
  if (page >= 1 && page <= count) return;
  throw call_error(fmt::format("The file has no page {}.", page), path.string(),
                   count == 1 ? "It has one page." : fmt::format("Give a page from 1 to {}.", count));
}

}  // namespace fexel::codec
