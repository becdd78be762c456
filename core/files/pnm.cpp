#include <bit>
#include <fstream>

#include "files/codec.h"

namespace fexel::codec {
namespace {

struct Header {
  FileInfo info;
  std::streamoff data = 0;
  bool big_endian = true;
};

std::string token(std::istream& in, const fs::path& path) {
  std::string text;
  for (int c = in.get(); c != EOF; c = in.get()) {
    if (c == '#') {
      while (c != '\n' && c != EOF) c = in.get();
    } else if (std::isspace(c) != 0) {
      if (!text.empty()) return text;
    } else {
      text += static_cast<char>(c);
      if (text.size() > 32) break;
    }
  }
  throw broken(path, "The header of the file is not whole.");
}

int whole_number(const std::string& text, const fs::path& path) {
  if (text.empty() || text.size() > 9 || text.find_first_not_of("0123456789") != std::string::npos)
    throw broken(path, fmt::format("The header says \"{}\" where a whole number belongs.", text));
  return std::stoi(text);
}

Header read_header(std::ifstream& in, const fs::path& path) {
  Header header;
  const std::string magic = token(in, path);
  const bool floating = magic == "Pf" || magic == "PF";
  header.info.format = floating ? "pfm" : "pnm";
  header.info.bands = magic == "P6" || magic == "PF" ? 3 : 1;
  header.info.width = whole_number(token(in, path), path);
  header.info.height = whole_number(token(in, path), path);
  const std::string last = token(in, path);
  if (floating) {
    header.info.depth = Depth::f32;
    header.big_endian = !last.starts_with('-');
  } else {
    const int top = whole_number(last, path);
    if (top < 1 || top > 65535)
      throw broken(path, fmt::format("The header says a largest value of {}; 1 to 65535 are possible.", top));
    header.info.depth = top < 256 ? Depth::u8 : Depth::u16;
  }
  header.data = in.tellg();
  return header;
}

void swap_bytes(std::byte* data, std::size_t count, std::size_t size) {
  for (std::size_t i = 0; i < count; ++i) std::reverse(data + i * size, data + (i + 1) * size);
}

bool needs_swap(bool big_endian, Depth depth) {
  return depth != Depth::u8 && big_endian != (std::endian::native == std::endian::big);
}

}  // namespace

FileInfo pnm_info(const fs::path& path) {
  std::ifstream in(path, std::ios::binary);
  return read_header(in, path).info;
}

Image pnm_read(const fs::path& path, const Limits& limits, const Job& job) {
  std::ifstream in(path, std::ios::binary);
  const Header header = read_header(in, path);
  const FileInfo& info = header.info;
  check_size(path, info, limits);
  const std::size_t size = bytes_of(info.depth);
  const std::size_t line = static_cast<std::size_t>(info.width) * static_cast<std::size_t>(info.bands) * size;
  std::error_code code;
  const auto there = fs::file_size(path, code);
  if (!code && there < static_cast<std::uintmax_t>(header.data) + line * static_cast<std::size_t>(info.height))
    throw broken(path, "The file is shorter than its header says.");
  Image image(info.width, info.height, info.bands, info.depth);
  std::vector<std::byte> buffer(line);
  for (int y = 0; y < info.height; ++y) {
    job.check();
    in.read(reinterpret_cast<char*>(buffer.data()), static_cast<std::streamsize>(line));
    if (!in) throw broken(path, "The file is shorter than its header says.");
    if (needs_swap(header.big_endian, info.depth)) swap_bytes(buffer.data(), line / size, size);
    const int row = info.depth == Depth::f32 ? info.height - 1 - y : y;
    unweave(buffer.data(), info.bands, 0, 0, row, info.width, image);
  }
  return image;
}

void pnm_write(SafeFile& file, const Image& image, const Job& job) {
  const bool floating = image.depth() == Depth::f32;
  const std::string magic = floating ? (image.bands() == 1 ? "Pf" : "PF") : (image.bands() == 1 ? "P5" : "P6");
  const std::string top = floating ? (std::endian::native == std::endian::big ? "1.0" : "-1.0")
                                   : (image.depth() == Depth::u8 ? "255" : "65535");
  const std::string header = fmt::format("{}\n{} {}\n{}\n", magic, image.width(), image.height(), top);
  file.write(header.data(), header.size());
  const std::size_t size = bytes_of(image.depth());
  std::vector<std::byte> buffer(image.row_bytes() * static_cast<std::size_t>(image.bands()));
  for (int y = 0; y < image.height(); ++y) {
    job.check();
    const int row = floating ? image.height() - 1 - y : y;
    weave(image, row, buffer.data());
    if (!floating && needs_swap(true, image.depth())) swap_bytes(buffer.data(), buffer.size() / size, size);
    file.write(buffer.data(), buffer.size());
  }
}

}  // namespace fexel::codec
