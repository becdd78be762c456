#include <bit>
#include <fstream>

#include "files/decoders/decoders.h"
#include "files/page_index.h"

namespace fexel::codec {
namespace {

struct Header {
  FileInfo info;
  std::streamoff data = 0;
  bool big_endian = true;
  bool plain = false;  ///< numbers are written out
  bool bits = false;   ///< eight pixels a byte, 1 is black
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
  // The last number of a plain file may end with it.
  if (!text.empty() && text.size() <= 32) return text;
  throw broken(path, "The header of the file is not whole.");
}

int whole_number(const std::string& text, const fs::path& path) {
  if (text.empty() || text.size() > 9 || text.find_first_not_of("0123456789") != std::string::npos)
    throw broken(path, fmt::format("The header says \"{}\" where a whole number belongs.", text));
  return std::stoi(text);
}

/// The lines of a PAM file (Netpbm, "PAM: portable arbitrary map").
Header read_arbitrary(std::istream& in, const fs::path& path) {
  Header header;
  FileInfo& info = header.info;
  info.format = "pnm";
  int top = 0;
  std::string kind;
  for (std::string line; std::getline(in, line) && line.size() < 400;) {
    const auto blank = line.find(' ');
    const std::string name = line.substr(0, blank), value = blank == std::string::npos ? "" : line.substr(blank + 1);
    if (name == "ENDHDR") {
      if (info.width < 1 || info.height < 1 || info.bands < 1 || top < 1 || top > 65535) break;
      info.depth = top < 256 ? Depth::u8 : Depth::u16;
      if (top != top_of(info.depth)) info.largest = top;
      info.alpha = kind.ends_with("_ALPHA") && info.bands > 1;
      if (info.alpha) --info.bands;
      header.data = in.tellg();
      return header;
    }
    if (name == "WIDTH") info.width = whole_number(value, path);
    if (name == "HEIGHT") info.height = whole_number(value, path);
    if (name == "DEPTH") info.bands = whole_number(value, path);
    if (name == "MAXVAL") top = whole_number(value, path);
    if (name == "TUPLTYPE") kind += value;
  }
  throw broken(path, "The header of the PAM file is not whole.");
}

Header read_header(std::istream& in, const fs::path& path) {
  Header header;
  const std::string magic = token(in, path);
  if (magic == "P7") return read_arbitrary(in, path);
  header.plain = magic == "P1" || magic == "P2" || magic == "P3";
  header.bits = magic == "P1" || magic == "P4";
  const bool floating = magic == "Pf" || magic == "PF";
  header.info.format = floating ? "pfm" : "pnm";
  header.info.bands = magic == "P6" || magic == "PF" || magic == "P3" ? 3 : 1;
  header.info.width = whole_number(token(in, path), path);
  header.info.height = whole_number(token(in, path), path);
  if (header.bits) {
    header.info.readings.emplace_back("Its 1-bit samples are read as 0 and 255.");
    header.data = in.tellg();
    return header;
  }
  const std::string last = token(in, path);
  if (floating) {
    header.info.depth = Depth::f32;
    header.big_endian = !last.starts_with('-');
  } else {
    const int top = whole_number(last, path);
    if (top < 1 || top > 65535)
      throw broken(path, fmt::format("The header says a largest value of {}; 1 to 65535 are possible.", top));
    header.info.depth = top < 256 ? Depth::u8 : Depth::u16;
    if (top != top_of(header.info.depth)) header.info.largest = top;
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

namespace {

int stored_in(const FileInfo& info) {
  return info.bands + (info.alpha ? 1 : 0);
}
std::uint64_t line_of(const Header& header) {
  const auto width = static_cast<std::uint64_t>(header.info.width);
  return header.bits ? (width + 7) / 8
                     : width * static_cast<std::uint64_t>(stored_in(header.info)) * bytes_of(header.info.depth);
}
std::uint64_t bytes_in(const Header& header) {
  return line_of(header) * static_cast<std::uint64_t>(header.info.height);
}

/// A PNM file may hold several pictures, one behind the other (P4 to P7 of the Netpbm formats); plain ones hold one.
PageIndex pictures_in(const fs::path& path, std::uint64_t size) {
  PageIndex out;
  std::ifstream in(path, std::ios::binary);
  for (std::uint64_t at = 0; out.offsets.size() < max_pages;) {
    in.clear();
    in.seekg(static_cast<std::streamoff>(at));
    // Between pictures there may be white space.
    while (at > 0 && std::isspace(in.peek()) != 0) in.get(), ++at;
    if (at > 0 && (in.get() != 'P' || in.peek() < '4' || in.peek() > '7')) break;
    in.clear();
    in.seekg(static_cast<std::streamoff>(at));
    std::uint64_t end = 0;
    try {
      const Header header = read_header(in, path);
      end = static_cast<std::uint64_t>(header.data) + bytes_in(header);
      if ((header.info.format == "pfm" || header.plain) && at == 0) {
        out.offsets.push_back(at);
        break;
      }
    } catch (const Error&) {
      if (at == 0) throw;
    }
    if (at > 0 && (end == 0 || end > size)) {
      out.cut = fmt::format("The file is cut short: picture {} is not whole.", out.offsets.size() + 1);
      break;
    }
    out.offsets.push_back(at);
    if (end <= at || end >= size) break;
    at = end;
  }
  return out;
}

std::shared_ptr<const PageIndex> index_of(const fs::path& path) {
  return page_index(path, [&](int, std::uint64_t size) { return pictures_in(path, size); });
}

Header header_of(std::ifstream& in, const fs::path& path, int page) {
  const auto index = index_of(path);
  if (page < 1 || static_cast<std::size_t>(page) > index->offsets.size())
    throw call_error(fmt::format("The file has no page {}.", page), path.string(),
                     fmt::format("Give a page from 1 to {}.", index->offsets.size()));
  in.seekg(static_cast<std::streamoff>(index->offsets[static_cast<std::size_t>(page) - 1]));
  Header header = read_header(in, path);
  header.info.frames = static_cast<int>(index->offsets.size());
  return header;
}

}  // namespace

FileInfo pnm_info(const fs::path& path, const Limits& limits, int page) {
  if (const auto index = index_of(path); !index->cut.empty() && !limits.salvage)
    throw input_error(
        index->cut, path.string(),
        fmt::format("Read it from its origin again, or use the {} before (--salvage).", index->offsets.size()));
  std::ifstream in(path, std::ios::binary);
  FileInfo info = header_of(in, path, page).info;
  settle_alpha(info, limits);
  return info;
}

namespace {

/// Numbers that are written out, apart by white space; those of one bit need none.
Image read_plain(std::istream& in, const fs::path& path, const Header& header, const Job& job) {
  const FileInfo& info = header.info;
  Image image(info.width, info.height, info.bands, info.depth);
  image.set_largest(info.largest);
  const auto top = static_cast<int>(image.largest());
  const auto next = [&] {
    if (!header.bits) return whole_number(token(in, path), path);
    int c = in.get();
    while (c != EOF && c != '0' && c != '1') {
      if (std::isspace(c) == 0) throw broken(path, "The file says something else than 0 or 1 of a pixel.");
      c = in.get();
    }
    if (c == EOF) throw broken(path, "The file is shorter than its header says.");
    return c == '0' ? 255 : 0;
  };
  for (int y = 0; y < info.height; ++y) {
    job.check();
    for (int x = 0; x < info.width; ++x)
      for (int band = 0; band < info.bands; ++band) {
        const int value = next();
        if (value > top) throw broken(path, fmt::format("The file holds the sample {}, more than its largest.", value));
        visit_depth(info.depth,
                    [&](auto kind) { image.row<decltype(kind)>(band, y)[x] = static_cast<decltype(kind)>(value); });
      }
  }
  return image;
}

}  // namespace

Image pnm_read(const fs::path& path, int page, const Limits& limits, const Job& job) {
  std::ifstream in(path, std::ios::binary);
  const Header header = header_of(in, path, page);
  const FileInfo& info = header.info;
  check_size(path, info, limits);
  const std::size_t size = bytes_of(info.depth);
  const std::size_t line = line_of(header);
  std::error_code code;
  const auto there = fs::file_size(path, code);
  // Each number that is written out takes a character, and all but bits a blank.
  if (header.plain) {
    if (!code && static_cast<double>(there) < static_cast<double>(info.width) * info.height * info.bands)
      throw broken(path, "The file is shorter than its header says.");
    return read_plain(in, path, header, job);
  }
  if (!code && there < static_cast<std::uintmax_t>(header.data) + line * static_cast<std::size_t>(info.height))
    throw broken(path, "The file is shorter than its header says.");
  Image image(info.width, info.height, stored_in(info), info.depth);
  image.set_largest(info.largest);
  std::vector<std::byte> buffer(line);
  for (int y = 0; y < info.height; ++y) {
    job.check();
    in.read(reinterpret_cast<char*>(buffer.data()), static_cast<std::streamsize>(line));
    if (!in) throw broken(path, "The file is shorter than its header says.");
    if (header.bits) {
      auto* to = image.row<std::uint8_t>(0, y);
      for (int x = 0; x < info.width; ++x)
        to[x] = (static_cast<unsigned>(buffer[static_cast<std::size_t>(x / 8)]) >> (7 - x % 8) & 1) != 0 ? 0 : 255;
      continue;
    }
    if (needs_swap(header.big_endian, info.depth)) swap_bytes(buffer.data(), line / size, size);
    const int row = info.depth == Depth::f32 ? info.height - 1 - y : y;
    unweave(buffer.data(), image.bands(), 0, 0, row, info.width, image);
  }
  settle_alpha(image, info, limits, image.largest());
  return image;
}

namespace {

/// Samples have two bytes from 256 on.
double largest_in(const Image& image) {
  return image.depth() == Depth::u16 ? std::max(image.largest(), 256.0) : image.largest();
}

}  // namespace

void pnm_write(SafeFile& file, const Image& image, const Job& job) {
  const bool floating = image.depth() == Depth::f32;
  const std::string magic = floating ? (image.bands() == 1 ? "Pf" : "PF") : (image.bands() == 1 ? "P5" : "P6");
  const std::string top =
      floating ? (std::endian::native == std::endian::big ? "1.0" : "-1.0") : fmt::format("{:.0f}", largest_in(image));
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
