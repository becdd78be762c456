#pragma once
/// What the tests of safety share.
#include <fmt/format.h>
#include <sys/resource.h>
#include <sys/stat.h>
#include <zlib.h>
#include <catch2/catch.hpp>
#include <csignal>
#include <map>
#include <set>
#include <thread>
#include "files/protected.h"
#include "tests/cli/program.h"
#include "tests/scene.h"

namespace fs = std::filesystem;
using Catch::Contains;

namespace fexel::test::safety {

/// A folder with pictures, chains and results, and the checksums of what must not change.
struct Folder {
  test::Scratch scratch;
  std::string out = (scratch / "results").string();
  std::string put(const std::string& name, const std::string& text) const {
    write_text(scratch / name, text, true);
    return (scratch / name).string();
  }
  std::string chain(const std::string& steps, const std::string& name = "c.fexel.json") const {
    return put(name, R"({"fexel":1,"steps":[)" + steps + "]}");
  }
  std::string picture(const std::string& name, const Image& image) const {
    return stack(name, one_page(image.clone()));
  }
  std::string stack(const std::string& name, const std::vector<Image>& pages) const {
    WriteOptions how;
    how.format = *format_of_name(name);
    how.replace = true;
    fs::create_directories((scratch / name).parent_path());
    write_pictures(scratch / name, pages, how);
    return (scratch / name).string();
  }
  /// Frames that show one scene, moved by whole pixels.
  std::vector<std::string> frames(int count, const std::string& folder = "frames") const {
    std::vector<std::string> names;
    for (int i = 0; i < count; ++i) names.push_back(picture(folder + "/f-" + std::to_string(i + 1) + ".pgm", frame(i)));
    return names;
  }
  static Image frame(int i, Size size = {160, 120}) {
    static const Scene scene = textured(60, 0.01, 0.2, 40, 5);
    return frame_of(scene, translation(2 * i, -i), size, Depth::u8, 2, static_cast<unsigned>(i));
  }
  std::string at(const std::string& name) const { return (scratch / name).string(); }
};

inline Image level(int width, int height, int bands, Depth depth, double value) {
  Image image(width, height, bands, depth);
  visit_depth(depth, [&](auto sample) {
    using T = decltype(sample);
    for (int b = 0; b < bands; ++b)
      for (int y = 0; y < height; ++y) std::fill_n(image.row<T>(b, y), width, static_cast<T>(value));
  });
  return image;
}

/// As the PNG format packs text.
inline std::string deflated(const std::string& text) {
  std::string out(::compressBound(text.size()), '\0');
  auto size = static_cast<uLongf>(out.size());
  REQUIRE(::compress(reinterpret_cast<Bytef*>(out.data()), &size, reinterpret_cast<const Bytef*>(text.data()),
                     text.size()) == Z_OK);
  out.resize(size);
  return out;
}

/// CRC-32 of ISO 3309, bit by bit.
inline std::uint32_t crc(const std::string& bytes) {
  std::uint32_t value = 0xffffffff;
  for (const char c : bytes) {
    value ^= static_cast<unsigned char>(c);
    for (int i = 0; i < 8; ++i) value = (value & 1) != 0 ? value >> 1 ^ 0xedb88320 : value >> 1;
  }
  return ~value;
}

/// Every file below a folder with its checksum.
inline std::map<std::string, std::string> sums(const fs::path& folder) {
  std::map<std::string, std::string> out;
  for (const auto& entry : fs::recursive_directory_iterator(folder))
    if (entry.is_regular_file()) out[entry.path().string()] = checksum(entry.path());
  return out;
}

}  // namespace fexel::test::safety
