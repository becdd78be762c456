/// What reading costs against the codec library alone, which decodes the same file into memory of its own: the medians
/// of runs that take turns.
#include <fmt/format.h>
#include <jpeglib.h>
#include <png.h>
#include <tiffio.h>
#include <webp/decode.h>
#include <webp/encode.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <functional>
#include <random>
#include <stdexcept>

#include "files/picture.h"

using namespace fexel;
namespace fs = std::filesystem;

namespace {

constexpr int width = 4000, height = 3000;

double timed(const std::function<void()>& body) {
  const auto begin = std::chrono::steady_clock::now();
  body();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
}

double median(std::vector<double> values) {
  std::ranges::sort(values);
  return values[values.size() / 2];
}

void must(bool done) {
  if (!done) throw std::runtime_error("a codec failed");
}

void tiff_alone(const fs::path& path) {
  TIFF* tiff = TIFFOpen(path.c_str(), "r");
  std::vector<unsigned char> strip(static_cast<std::size_t>(TIFFStripSize(tiff)));
  for (std::uint32_t k = 0; k < TIFFNumberOfStrips(tiff); ++k)
    must(TIFFReadEncodedStrip(tiff, k, strip.data(), static_cast<tmsize_t>(strip.size())) > 0);
  TIFFClose(tiff);
}

void png_alone(const fs::path& path) {
  std::FILE* file = std::fopen(path.c_str(), "rb");
  png_structp png = png_create_read_struct(PNG_LIBPNG_VER_STRING, nullptr, nullptr, nullptr);
  png_infop info = png_create_info_struct(png);
  png_init_io(png, file);
  png_read_info(png, info);
  std::vector<png_byte> row(png_get_rowbytes(png, info));
  for (int y = 0; y < height; ++y) png_read_row(png, row.data(), nullptr);
  png_destroy_read_struct(&png, &info, nullptr);
  std::fclose(file);
}

void jpeg_alone(const fs::path& path) {
  std::FILE* file = std::fopen(path.c_str(), "rb");
  jpeg_decompress_struct codec{};
  jpeg_error_mgr errors{};
  codec.err = jpeg_std_error(&errors);
  jpeg_create_decompress(&codec);
  jpeg_stdio_src(&codec, file);
  jpeg_read_header(&codec, TRUE);
  codec.dct_method = JDCT_ISLOW;
  jpeg_start_decompress(&codec);
  std::vector<JSAMPLE> row(3 * width);
  for (int y = 0; y < height; ++y) {
    JSAMPROW at = row.data();
    jpeg_read_scanlines(&codec, &at, 1);
  }
  jpeg_finish_decompress(&codec);
  jpeg_destroy_decompress(&codec);
  std::fclose(file);
}

void webp_alone(const fs::path& path) {
  std::ifstream in(path, std::ios::binary);
  const std::string bytes{std::istreambuf_iterator<char>(in), {}};
  std::vector<std::uint8_t> pixels(std::size_t{3} * width * height);
  must(WebPDecodeRGBInto(reinterpret_cast<const std::uint8_t*>(bytes.data()), bytes.size(), pixels.data(),
                         pixels.size(), 3 * width) != nullptr);
}

/// 12 bits a sample, packed, not compressed.
void write_packed(const fs::path& path) {
  TIFF* tiff = TIFFOpen(path.c_str(), "w");
  TIFFSetField(tiff, TIFFTAG_IMAGEWIDTH, width);
  TIFFSetField(tiff, TIFFTAG_IMAGELENGTH, height);
  TIFFSetField(tiff, TIFFTAG_SAMPLESPERPIXEL, 1);
  TIFFSetField(tiff, TIFFTAG_BITSPERSAMPLE, 12);
  TIFFSetField(tiff, TIFFTAG_PHOTOMETRIC, PHOTOMETRIC_MINISBLACK);
  TIFFSetField(tiff, TIFFTAG_PLANARCONFIG, PLANARCONFIG_CONTIG);
  TIFFSetField(tiff, TIFFTAG_ROWSPERSTRIP, 64);
  std::vector<unsigned char> row(static_cast<std::size_t>(width) * 3 / 2);
  for (std::uint32_t y = 0; y < height; ++y) {
    for (std::size_t i = 0; i < row.size(); ++i) row[i] = static_cast<unsigned char>(i * 7 + y * 13);
    must(TIFFWriteScanline(tiff, row.data(), y, 0) == 1);
  }
  TIFFClose(tiff);
}

}  // namespace

int main() {
  const fs::path folder = fs::temp_directory_path() / "fexel-bench-formats";
  fs::remove_all(folder);
  fs::create_directories(folder);
  std::mt19937 random(1);
  std::vector<Image> page;
  page.emplace_back(width, height, 3, Depth::u8);
  std::vector<std::uint8_t> woven;
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x)
      for (int b = 0; b < 3; ++b) {
        const auto v = static_cast<std::uint8_t>(100 + 60 * std::sin(0.02 * x + b) + static_cast<double>(random() % 8));
        page[0].row<std::uint8_t>(b, y)[x] = v;
        woven.push_back(v);
      }
  for (const char* ending : {"tif", "png", "jpg"}) {
    const fs::path path = folder / (std::string("a.") + ending);
    write_pictures(path, page, {*format_of_name(path), {}, true, {}});
  }
  write_packed(folder / "packed.tif");
  std::uint8_t* coded = nullptr;
  const std::size_t size = WebPEncodeRGB(woven.data(), width, height, 3 * width, 90, &coded);
  std::ofstream(folder / "a.webp", std::ios::binary)
      .write(reinterpret_cast<const char*>(coded), static_cast<std::streamsize>(size));
  WebPFree(coded);
  const struct {
    const char* name;
    const char* file;
    void (*alone)(const fs::path&);
  } kinds[] = {{"TIFF, deflate", "a.tif", tiff_alone},
               {"TIFF, 12 bits packed", "packed.tif", tiff_alone},
               {"PNG", "a.png", png_alone},
               {"JPEG", "a.jpg", jpeg_alone},
               {"WebP", "a.webp", webp_alone}};
  fmt::print("| file | codec alone | Fexel | ratio |\n|---|---|---|---|\n");
  for (const auto& kind : kinds) {
    const fs::path path = folder / kind.file;
    std::vector<double> alone, ours;
    for (int round = 0; round < 7; ++round) {
      alone.push_back(timed([&] { kind.alone(path); }));
      ours.push_back(timed([&] { read_picture(path); }));
    }
    fmt::print("| {} | {:.0f} ms | {:.0f} ms | {:.2f} |\n", kind.name, 1000 * median(alone), 1000 * median(ours),
               median(ours) / median(alone));
  }
  fs::remove_all(folder);
}
