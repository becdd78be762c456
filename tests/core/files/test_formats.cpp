#include <png.h>
#include <tiffio.h>

#include <catch2/catch.hpp>
#include <csetjmp>
#include <cstring>

#include "base/error.h"
#include "files/ome.h"
#include "files/parts.h"
#include "files/picture.h"
#include "tests/support.h"

using namespace fexel;

namespace {

/// How a TIFF is to be stored by the library itself.
struct Stored {
  const char* mode = "w";
  std::uint16_t compression = COMPRESSION_NONE, photometric = PHOTOMETRIC_MINISBLACK, bits = 8,
                kind = SAMPLEFORMAT_UINT;
  std::uint32_t rows_per_strip = 0;  // 0: all in one
};

/// One band, written a row at a time from its bytes as they are in memory.
void write_tiff(const std::filesystem::path& path, int width, int height, const Stored& how,
                const std::function<void(int, std::vector<std::byte>&)>& row) {
  TIFF* tiff = TIFFOpen(path.c_str(), how.mode);
  REQUIRE(tiff);
  TIFFSetField(tiff, TIFFTAG_IMAGEWIDTH, width);
  TIFFSetField(tiff, TIFFTAG_IMAGELENGTH, height);
  TIFFSetField(tiff, TIFFTAG_SAMPLESPERPIXEL, 1);
  TIFFSetField(tiff, TIFFTAG_BITSPERSAMPLE, how.bits);
  TIFFSetField(tiff, TIFFTAG_SAMPLEFORMAT, how.kind);
  TIFFSetField(tiff, TIFFTAG_PHOTOMETRIC, how.photometric);
  TIFFSetField(tiff, TIFFTAG_COMPRESSION, how.compression);
  TIFFSetField(tiff, TIFFTAG_PLANARCONFIG, PLANARCONFIG_CONTIG);
  TIFFSetField(tiff, TIFFTAG_ROWSPERSTRIP, how.rows_per_strip > 0 ? how.rows_per_strip : static_cast<unsigned>(height));
  std::vector<std::byte> bytes(static_cast<std::size_t>(TIFFScanlineSize(tiff)));
  for (int y = 0; y < height; ++y) {
    row(y, bytes);
    REQUIRE(TIFFWriteScanline(tiff, bytes.data(), static_cast<std::uint32_t>(y), 0) == 1);
  }
  TIFFClose(tiff);
}

void write_tiff(const std::filesystem::path& path, const Image& image, Stored how) {
  how.bits = static_cast<std::uint16_t>(8 * bytes_of(image.depth()));
  how.kind = image.depth() == Depth::f32 ? SAMPLEFORMAT_IEEEFP : SAMPLEFORMAT_UINT;
  write_tiff(path, image.width(), image.height(), how, [&](int y, std::vector<std::byte>& bytes) {
    std::memcpy(bytes.data(), image.bytes(0, y), image.row_bytes());
  });
}

/// One band or, with `colours` of a palette, indices into it; as many bits as samples of the rows need.
void write_png(const std::filesystem::path& path, int width, int height, int bits, int type, int interlace,
               const std::vector<std::vector<png_byte>>& rows, int colours = 0) {
  std::FILE* file = std::fopen(path.c_str(), "wb");
  REQUIRE(file);
  png_structp png = png_create_write_struct(PNG_LIBPNG_VER_STRING, nullptr, nullptr, nullptr);
  png_infop info = png_create_info_struct(png);
  png_init_io(png, file);
  png_set_IHDR(png, info, static_cast<png_uint_32>(width), static_cast<png_uint_32>(height), bits, type, interlace,
               PNG_COMPRESSION_TYPE_DEFAULT, PNG_FILTER_TYPE_DEFAULT);
  std::vector<png_color> palette;
  for (int i = 0; i < colours; ++i)
    palette.push_back({static_cast<png_byte>(i * 3), static_cast<png_byte>(255 - i), static_cast<png_byte>(i)});
  if (colours > 0) png_set_PLTE(png, info, palette.data(), colours);
  png_write_info(png, info);
  std::vector<png_bytep> pointers;
  for (const auto& row : rows) pointers.push_back(const_cast<png_bytep>(row.data()));
  png_write_image(png, pointers.data());
  png_write_end(png, nullptr);
  png_destroy_write_struct(&png, &info);
  std::fclose(file);
}

}  // namespace

TEST_CASE("the bands of an OME-TIFF are named by its description, whatever the names", "[files]") {
  const std::vector<std::string> names = {"650 nm", "a < b & \"c\"", "", "Grün"};
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32);
  const std::string description = ome_description(names, {31, 17}, depth, PixelSize{0.05, 0.04, "cm"});
  CHECK(ome_page_names(description) == names);
  // In millimetres, whatever the unit was.
  CHECK(description.find("PhysicalSizeX=\"0.5\"") != std::string::npos);
  CHECK(description.find("PhysicalSizeY=\"0.4\"") != std::string::npos);
  CHECK(description.find(depth == Depth::f32   ? "Type=\"float\""
                         : depth == Depth::u16 ? "Type=\"uint16\""
                                               : "Type=\"uint8\"") != std::string::npos);
  CHECK(ome_description(names, {31, 17}, depth, {}).find("PhysicalSize") == std::string::npos);

  const test::Scratch scratch;
  std::vector<Image> pages;
  for (std::size_t i = 0; i < names.size(); ++i) pages.push_back(test::noise(31, 17, 1, depth));
  WriteOptions how;
  how.description = description;
  write_pictures(scratch / "bands.tif", pages, how);
  CHECK(read_info(scratch / "bands.tif").page_names == names);
  CHECK(read_info(scratch / "bands.tif").frames == 4);
  // A file that was cut off has fewer pages than its description says: their names are not believed.
  pages.pop_back();
  write_pictures(scratch / "cut.tif", pages, how);
  CHECK(read_info(scratch / "cut.tif").page_names.empty());
}

TEST_CASE("a description that is none, or says something else, names no bands", "[files]") {
  const std::string sound = ome_description({"a", "b"}, {5, 5}, Depth::u8, {});
  REQUIRE(ome_page_names(sound).size() == 2);
  const auto changed = [&](const std::string& from, const std::string& to) {
    std::string out = sound;
    const auto at = out.find(from);
    REQUIRE(at != std::string::npos);
    return out.replace(at, from.size(), to);
  };
  const std::string odd = GENERATE_COPY(
      std::string(), std::string("a scan of my own"), std::string("<OME"), changed("SizeZ=\"1\"", "SizeZ=\"7\""),
      changed("SizeT=\"1\"", "SizeT=\"2\""), changed("SizeC=\"2\"", "SizeC=\"3\""),
      changed("SamplesPerPixel=\"1\"", "SamplesPerPixel=\"3\""), changed("</Pixels>", ""),
      changed("<Pixels", "<Points"), sound.substr(0, sound.size() / 2), sound + std::string(1 << 20, ' '));
  CHECK(ome_page_names(odd).empty());
}

TEST_CASE("a TIFF of the other byte order is read in every depth and compression", "[files]") {
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32);
  const auto compression =
      static_cast<std::uint16_t>(GENERATE(COMPRESSION_NONE, COMPRESSION_LZW, COMPRESSION_ADOBE_DEFLATE));
  const char* mode = GENERATE("wb", "wl", "wb8");
  const test::Scratch scratch;
  const Image image = test::noise(53, 29, 1, depth);
  write_tiff(scratch / "theirs.tif", image, {.mode = mode, .compression = compression, .rows_per_strip = 7});
  CHECK(test::same_samples(read_picture(scratch / "theirs.tif"), image));
}

TEST_CASE("a strip too large to be decoded at once is read line by line, in whole and in part", "[files][long]") {
  const test::Scratch scratch;
  constexpr int width = 9000, height = 8000;
  const auto sample = [](int x, int y) { return static_cast<std::uint8_t>((x * 7 + y * 13 + x * y / 101) & 255); };
  write_tiff(scratch / "strip.tif", width, height, {.compression = COMPRESSION_ADOBE_DEFLATE},
             [&](int y, std::vector<std::byte>& bytes) {
               for (int x = 0; x < width; ++x) bytes[static_cast<std::size_t>(x)] = std::byte{sample(x, y)};
             });
  int steps = 0;
  double last = 0;
  const Job job{{}, [&](double done) {
                  ++steps;
                  CHECK(done >= last);
                  last = done;
                }};
  const Image image = read_picture(scratch / "strip.tif", 1, {}, job);
  CHECK(steps > 20);
  int wrong = 0;
  for (int y = 0; y < height; y += 37)
    for (int x = 0; x < width; ++x) wrong += image.row<std::uint8_t>(0, y)[x] != sample(x, y);
  CHECK(wrong == 0);
  std::stop_source stop;
  stop.request_stop();
  CHECK_THROWS_AS(read_picture(scratch / "strip.tif", 1, {}, {stop.get_token(), {}}), Error);
}

TEST_CASE("a PNG with fewer bits, a palette or in passes is read as what it shows", "[files]") {
  const test::Scratch scratch;
  constexpr int width = 37, height = 21;
  const auto path = scratch / "theirs.png";
  const int interlace = GENERATE(PNG_INTERLACE_NONE, PNG_INTERLACE_ADAM7);
  const int bits = GENERATE(1, 2, 4, 8);
  const int top = (1 << bits) - 1;
  const auto index = [&](int x, int y) { return (x * 5 + y * 3 + x * y) & top; };
  std::vector<std::vector<png_byte>> rows(height, std::vector<png_byte>(width * bits / 8 + 1));
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x)
      rows[static_cast<std::size_t>(y)][static_cast<std::size_t>(x * bits / 8)] |=
          static_cast<png_byte>(index(x, y) << (8 - bits - x * bits % 8));

  write_png(path, width, height, bits, PNG_COLOR_TYPE_GRAY, interlace, rows);
  const Image grey = read_picture(path);
  REQUIRE(grey.bands() == 1);
  REQUIRE(grey.depth() == Depth::u8);
  int wrong = 0;
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) wrong += grey.row<std::uint8_t>(0, y)[x] != index(x, y) * 255 / top;
  CHECK(wrong == 0);

  write_png(path, width, height, bits, PNG_COLOR_TYPE_PALETTE, interlace, rows, top + 1);
  const Image colours = read_picture(path);
  REQUIRE(colours.bands() == 3);
  CHECK(read_info(path).bands == 3);
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) {
      const int i = index(x, y);
      wrong += colours.row<std::uint8_t>(0, y)[x] != static_cast<std::uint8_t>(i * 3);
      wrong += colours.row<std::uint8_t>(1, y)[x] != static_cast<std::uint8_t>(255 - i);
      wrong += colours.row<std::uint8_t>(2, y)[x] != static_cast<std::uint8_t>(i);
    }
  CHECK(wrong == 0);
}

TEST_CASE("a file over the limits is refused with both numbers, before its samples are read", "[files]") {
  const test::Scratch scratch;
  const Format format = GENERATE(Format::tiff, Format::png, Format::pnm, Format::jpeg);
  const auto path = scratch / "picture";
  write_pictures(path, test::one_page(test::noise(60, 50, 1, Depth::u8)), {format, {}, false, {}});
  Limits limits;
  limits.pixels = 2999;
  try {
    read_picture(path, 1, limits);
    FAIL("it was read");
  } catch (const Error& error) {
    const std::string said = error.what();
    INFO(said);
    CHECK(said.find("60") != std::string::npos);
    CHECK(said.find("50") != std::string::npos);
    CHECK_FALSE(error.remedy().empty());
  }
  limits.pixels = 3000;
  CHECK(read_picture(path, 1, limits).width() == 60);
  limits.bytes = 2999;
  CHECK_THROWS_AS(read_picture(path, 1, limits), Error);
}
