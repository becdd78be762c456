// TIFF files whose samples are stored otherwise than Fexel writes them, made by the library itself, against the numbers
// that were put in.
#include <tiffio.h>

#include <bit>
#include <catch2/catch.hpp>
#include <cstring>

#include "base/error.h"
#include "files/parts.h"
#include "files/picture.h"
#include "tests/support.h"

using namespace fexel;

namespace {

struct Way {
  int bits = 8, kind = SAMPLEFORMAT_UINT, bands = 1;
  int photometric = PHOTOMETRIC_MINISBLACK, compression = COMPRESSION_NONE, planes = PLANARCONFIG_CONTIG;
  const char* mode = "wl";
  bool tiled = false;
  int alpha = -1;  // EXTRASAMPLE_... of the last band
  std::vector<std::uint16_t> palette = {};
};

constexpr int width = 53, height = 37;

/// Bits of samples, the highest first; whole bytes in the order of this machine, as the library takes them.
void put(std::vector<std::uint8_t>& row, std::size_t index, int bits, std::uint64_t value) {
  if (bits % 8 == 0 && bits > 8) {
    std::memcpy(row.data() + index * static_cast<std::size_t>(bits / 8), &value, static_cast<std::size_t>(bits / 8));
    return;
  }
  for (int b = 0; b < bits; ++b) {
    const std::size_t at = index * static_cast<std::size_t>(bits) + static_cast<std::size_t>(b);
    if ((value >> (bits - 1 - b) & 1) != 0) row[at / 8] |= static_cast<std::uint8_t>(0x80 >> (at % 8));
  }
}

void write(const std::filesystem::path& path, const Way& way,
           const std::function<std::uint64_t(int x, int y, int band)>& value) {
  TIFF* tiff = TIFFOpen(path.c_str(), way.mode);
  REQUIRE(tiff);
  const bool apart = way.planes == PLANARCONFIG_SEPARATE;
  TIFFSetField(tiff, TIFFTAG_IMAGEWIDTH, width);
  TIFFSetField(tiff, TIFFTAG_IMAGELENGTH, height);
  TIFFSetField(tiff, TIFFTAG_SAMPLESPERPIXEL, way.bands);
  TIFFSetField(tiff, TIFFTAG_BITSPERSAMPLE, way.bits);
  TIFFSetField(tiff, TIFFTAG_SAMPLEFORMAT, way.kind);
  TIFFSetField(tiff, TIFFTAG_PHOTOMETRIC, way.photometric);
  TIFFSetField(tiff, TIFFTAG_COMPRESSION, way.compression);
  TIFFSetField(tiff, TIFFTAG_PLANARCONFIG, way.planes);
  if (way.alpha >= 0) {
    const std::uint16_t kinds[] = {static_cast<std::uint16_t>(way.alpha)};
    TIFFSetField(tiff, TIFFTAG_EXTRASAMPLES, 1, kinds);
  }
  if (!way.palette.empty()) {
    const std::size_t count = way.palette.size() / 3;
    TIFFSetField(tiff, TIFFTAG_COLORMAP, way.palette.data(), way.palette.data() + count,
                 way.palette.data() + 2 * count);
  }
  constexpr int side = 16, strip = 7;
  const int across = way.tiled ? side : width, down = way.tiled ? side : strip;
  if (way.tiled) {
    TIFFSetField(tiff, TIFFTAG_TILEWIDTH, side);
    TIFFSetField(tiff, TIFFTAG_TILELENGTH, side);
  } else {
    TIFFSetField(tiff, TIFFTAG_ROWSPERSTRIP, strip);
  }
  const int each = apart ? 1 : way.bands;
  const std::size_t line = (static_cast<std::size_t>(across * each * way.bits) + 7) / 8;
  std::uint32_t number = 0;
  for (int plane = 0; plane < (apart ? way.bands : 1); ++plane)
    for (int top = 0; top < height; top += down)
      for (int left = 0; left < width; left += across) {
        const int rows = way.tiled ? down : std::min(down, height - top);
        std::vector<std::uint8_t> bytes;
        for (int y = top; y < top + rows; ++y) {
          std::vector<std::uint8_t> row(line);
          for (int x = left; x < left + across; ++x)
            for (int band = 0; band < each; ++band)
              if (x < width && y < height)
                put(row, static_cast<std::size_t>((x - left) * each + band), way.bits,
                    value(x, y, apart ? plane : band));
          bytes.insert(bytes.end(), row.begin(), row.end());
        }
        const auto size = static_cast<tmsize_t>(bytes.size());
        REQUIRE((way.tiled ? TIFFWriteEncodedTile(tiff, number, bytes.data(), size)
                           : TIFFWriteEncodedStrip(tiff, number, bytes.data(), size)) == size);
        ++number;
      }
  TIFFClose(tiff);
}

/// How many samples differ from `expected`, in the whole picture and in a part of it.
int wrong(const std::filesystem::path& path, const std::function<double(int x, int y, int band)>& expected) {
  const Image whole = read_picture(path);
  const FileInfo info = read_info(path);
  CHECK(whole.bands() == info.bands);
  CHECK(whole.depth() == info.depth);
  int out = 0;
  for (int band = 0; band < whole.bands(); ++band)
    for (int y = 0; y < height; ++y)
      for (int x = 0; x < width; ++x) out += test::value(whole, band, x, y) != expected(x, y, band);
  const Region region{11, 9, 31, 20};
  const auto parts = open_parts(path, 1);
  REQUIRE(parts);
  const Image part = parts->read(region, {});
  for (int band = 0; band < part.bands(); ++band)
    for (int y = 0; y < region.height; ++y)
      for (int x = 0; x < region.width; ++x)
        out += test::value(part, band, x, y) != expected(x + region.x, y + region.y, band);
  return out;
}

std::uint64_t scrambled(int x, int y, int band, int bits) {
  const std::uint64_t n =
      static_cast<std::uint64_t>(x * 7919 + y * 104729 + band * 1299709 + 1) * 0x9e3779b97f4a7c15ULL;
  return bits == 64 ? n : n >> (64 - bits);
}

std::string said(const FileInfo& info) {
  std::string out;
  for (const std::string& one : info.readings) out += one + " ";
  return out;
}

}  // namespace

TEST_CASE("whole numbers of any count of bits are read to the last one, in every layout", "[files][samples]") {
  const test::Scratch scratch;
  const auto path = scratch / "a.tif";
  for (const int bits : {1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16})
    for (const int bands : {1, 3})
      for (const int compression : {COMPRESSION_NONE, COMPRESSION_LZW, COMPRESSION_ADOBE_DEFLATE, COMPRESSION_PACKBITS})
        for (const int layout : {0, 1, 2, 3}) {
          Way way;
          way.bits = bits;
          way.bands = bands;
          way.compression = compression;
          way.photometric = bands == 3 ? PHOTOMETRIC_RGB : PHOTOMETRIC_MINISBLACK;
          way.planes = layout == 2 ? PLANARCONFIG_SEPARATE : PLANARCONFIG_CONTIG;
          way.tiled = layout == 1;
          way.mode = layout == 3 ? "wb" : "wl";
          INFO(bits << " " << bands << " " << compression << " " << layout);
          write(path, way, [&](int x, int y, int band) { return scrambled(x, y, band, bits); });
          const int factor = bits == 1 ? 255 : bits == 2 ? 85 : bits == 4 ? 17 : 1;
          CHECK(wrong(path, [&](int x, int y, int band) {
                  return static_cast<double>(scrambled(x, y, band, bits)) * factor;
                }) == 0);
          const FileInfo info = read_info(path);
          const bool full = bits == 8 || bits == 16 || factor > 1;
          CHECK(info.largest == (full ? 0 : (1 << bits) - 1));
          CHECK(info.readings.empty() == (bits == 8 || bits == 16));
        }
}

TEST_CASE("white as zero is turned round", "[files][samples]") {
  const test::Scratch scratch;
  for (const int bits : {1, 4, 8, 12, 16})
    for (const bool tiled : {false, true}) {
      INFO(bits << tiled);
      Way way;
      way.bits = bits;
      way.photometric = PHOTOMETRIC_MINISWHITE;
      way.tiled = tiled;
      write(scratch / "w.tif", way, [&](int x, int y, int band) { return scrambled(x, y, band, bits); });
      const int top = (1 << bits) - 1, factor = bits == 1 ? 255 : bits == 4 ? 17 : 1;
      CHECK(wrong(scratch / "w.tif", [&](int x, int y, int band) {
              return (top - static_cast<double>(scrambled(x, y, band, bits))) * factor;
            }) == 0);
      CHECK(said(read_info(scratch / "w.tif")).find("white as 0") != std::string::npos);
    }
}

TEST_CASE("numbers with a sign, of 24 bits and more, and floating-point ones become 32-bit floats, and it is said",
          "[files][samples]") {
  const test::Scratch scratch;
  const auto path = scratch / "s.tif";
  for (const int bits : {8, 16, 24, 32, 64})
    for (const int kind : {SAMPLEFORMAT_INT, SAMPLEFORMAT_UINT})
      for (const char* mode : {"wl", "wb"}) {
        if (kind == SAMPLEFORMAT_UINT && bits < 24) continue;
        INFO(bits << " " << kind << " " << mode);
        Way way;
        way.bits = bits;
        way.kind = kind;
        way.mode = mode;
        write(path, way, [&](int x, int y, int band) { return scrambled(x, y, band, bits); });
        CHECK(wrong(path, [&](int x, int y, int band) {
                const std::uint64_t raw = scrambled(x, y, band, bits);
                if (kind == SAMPLEFORMAT_UINT) return static_cast<double>(static_cast<float>(raw));
                const auto value = static_cast<std::int64_t>(raw << (64 - bits)) >> (64 - bits);
                return static_cast<double>(static_cast<float>(value));
              }) == 0);
        CHECK(read_info(path).depth == Depth::f32);
        CHECK((said(read_info(path)).find("rounded") != std::string::npos) == (bits > 24));
      }
  // Halves: a table of numbers and their bits (IEEE 754, binary16).
  const std::pair<std::uint64_t, double> halves[] = {
      {0x0000, 0.0},        {0x3c00, 1.0},     {0xc000, -2.0},           {0x7bff, 65504.0},
      {0x0400, 0x1p-14},    {0x0001, 0x1p-24}, {0x03ff, 1023 * 0x1p-24}, {0x3555, 0x1.554p-2},
      {0xb555, -0x1.554p-2}};
  Way half;
  half.bits = 16;
  half.kind = SAMPLEFORMAT_IEEEFP;
  for (const char* mode : {"wl", "wb"}) {
    half.mode = mode;
    write(path, half, [&](int x, int y, int) { return halves[(x + y) % 9].first; });
    CHECK(wrong(path, [&](int x, int y, int) { return halves[(x + y) % 9].second; }) == 0);
  }
  Way twice;
  twice.bits = 64;
  twice.kind = SAMPLEFORMAT_IEEEFP;
  write(path, twice, [](int x, int y, int) { return std::bit_cast<std::uint64_t>(x / 3.0 - y * 1e10); });
  CHECK(wrong(path, [](int x, int y, int) { return static_cast<double>(static_cast<float>(x / 3.0 - y * 1e10)); }) ==
        0);
  CHECK(said(read_info(path)).find("7 digits") != std::string::npos);
}

TEST_CASE("a palette gives its colours, bytes or 16 bits, and grey where it is grey", "[files][samples]") {
  const test::Scratch scratch;
  const auto path = scratch / "p.tif";
  for (const int bits : {1, 2, 4, 8, 16})
    for (const int what : {0, 1, 2}) {  // bytes times 257; 16 bits; grey
      INFO(bits << " " << what);
      Way way;
      way.bits = bits;
      way.photometric = PHOTOMETRIC_PALETTE;
      const std::size_t count = std::size_t{1} << bits;
      for (int band = 0; band < 3; ++band)
        for (std::size_t i = 0; i < count; ++i)
          way.palette.push_back(static_cast<std::uint16_t>(
              what == 2 ? (i * 37 % 256) * 257
                        : ((i * 37 + static_cast<std::size_t>(band) * 91 + 5) % 256) * 257 + (what == 1 ? 1 : 0)));
      write(path, way, [&](int x, int y, int band) { return scrambled(x, y, band, bits); });
      CHECK(read_info(path).bands == (what == 2 ? 1 : 3));
      CHECK(read_info(path).depth == (what == 1 ? Depth::u16 : Depth::u8));
      CHECK(wrong(path, [&](int x, int y, int band) {
              const std::size_t index = scrambled(x, y, 0, bits);
              return static_cast<double>(way.palette[static_cast<std::size_t>(band) * count + index] /
                                         (what == 1 ? 1 : 257));
            }) == 0);
    }
}

TEST_CASE("YCbCr is read as red, green and blue, in JPEG and otherwise", "[files][samples]") {
  const test::Scratch scratch;
  const auto path = scratch / "y.tif";
  for (const int compression : {COMPRESSION_JPEG, COMPRESSION_NONE, COMPRESSION_LZW})
    for (const bool tiled : {false, true}) {
      INFO(compression << tiled);
      TIFF* tiff = TIFFOpen(path.c_str(), "w");
      TIFFSetField(tiff, TIFFTAG_IMAGEWIDTH, 64);
      TIFFSetField(tiff, TIFFTAG_IMAGELENGTH, 48);
      TIFFSetField(tiff, TIFFTAG_SAMPLESPERPIXEL, 3);
      TIFFSetField(tiff, TIFFTAG_BITSPERSAMPLE, 8);
      TIFFSetField(tiff, TIFFTAG_COMPRESSION, compression);
      TIFFSetField(tiff, TIFFTAG_PHOTOMETRIC, PHOTOMETRIC_YCBCR);
      TIFFSetField(tiff, TIFFTAG_PLANARCONFIG, PLANARCONFIG_CONTIG);
      TIFFSetField(tiff, TIFFTAG_YCBCRSUBSAMPLING, 1, 1);
      const float reference[] = {0, 255, 128, 255, 128, 255};
      TIFFSetField(tiff, TIFFTAG_REFERENCEBLACKWHITE, reference);
      if (tiled) {
        TIFFSetField(tiff, TIFFTAG_TILEWIDTH, 32);
        TIFFSetField(tiff, TIFFTAG_TILELENGTH, 16);
      } else {
        TIFFSetField(tiff, TIFFTAG_ROWSPERSTRIP, 16);
      }
      if (compression == COMPRESSION_JPEG) TIFFSetField(tiff, TIFFTAG_JPEGQUALITY, 100);
      // Left half (Y, Cb, Cr) = (120, 90, 170), right half (60, 128, 128).
      const int across = tiled ? 32 : 64;
      for (std::uint32_t k = 0; k < (tiled ? 6U : 3U); ++k) {
        std::vector<std::uint8_t> bytes;
        for (int i = 0; i < across * 16; ++i) {
          const int x = i % across + (tiled && k % 2 == 1 ? 32 : 0);
          for (const int v : x < 32 ? std::vector<int>{120, 90, 170} : std::vector<int>{60, 128, 128})
            bytes.push_back(static_cast<std::uint8_t>(v));
        }
        const auto size = static_cast<tmsize_t>(bytes.size());
        REQUIRE((tiled ? TIFFWriteEncodedTile(tiff, k, bytes.data(), size)
                       : TIFFWriteEncodedStrip(tiff, k, bytes.data(), size)) == size);
      }
      TIFFClose(tiff);
      if (tiled && compression == COMPRESSION_NONE) {
        CHECK_THROWS_WITH(read_picture(path), Catch::Contains("not compressed"));
        continue;
      }
      const Image image = read_picture(path);
      REQUIRE(image.bands() == 3);
      // ITU-R BT.601, full range.
      const double left[] = {120 + 1.402 * 42, 120 - 0.344136 * -38 - 0.714136 * 42, 120 + 1.772 * -38};
      for (int band = 0; band < 3; ++band)
        for (const int y : {0, 15, 16, 30, 47}) {
          CHECK(std::abs(test::value(image, band, 7, y) - left[band]) <= 1.5);
          CHECK(std::abs(test::value(image, band, 60, y) - 60) <= 1);
        }
      CHECK(said(read_info(path)).find("YCbCr") != std::string::npos);
      const Image part = open_parts(path, 1)->read({40, 10, 20, 30}, {});
      CHECK(std::abs(test::value(part, 1, 5, 20) - 60) <= 1);
    }
}

TEST_CASE("alpha is the mask, or a band; associated colours are divided by it", "[files][samples]") {
  const test::Scratch scratch;
  const auto path = scratch / "al.tif";
  const int alphas[] = {0, 64, 128, 200, 255};
  for (const int kind : {EXTRASAMPLE_ASSOCALPHA, EXTRASAMPLE_UNASSALPHA})
    for (const int bits : {8, 16}) {
      INFO(kind << " " << bits);
      const int scale = bits == 8 ? 1 : 257;
      Way way;
      way.bits = bits;
      way.bands = 4;
      way.photometric = PHOTOMETRIC_RGB;
      way.alpha = kind;
      const auto alpha = [&](int x) { return alphas[x % 5]; };
      const auto colour = [](int band) { return 40 + 60 * band; };
      write(path, way, [&](int x, int, int band) -> std::uint64_t {
        if (band == 3) return static_cast<std::uint64_t>(alpha(x) * scale);
        const double value = kind == EXTRASAMPLE_ASSOCALPHA ? colour(band) * alpha(x) / 255.0 : colour(band);
        return static_cast<std::uint64_t>(std::lround(value * scale));
      });
      const FileInfo info = read_info(path);
      CHECK(info.alpha);
      CHECK(info.bands == 3);
      CHECK(info.associated == (kind == EXTRASAMPLE_ASSOCALPHA));
      const Image image = read_picture(path);
      std::int64_t partly = 0;
      for (int x = 0; x < width; ++x) {
        CHECK(image.valid(x, 5) == (alpha(x) >= 128));
        partly += height * (alpha(x) > 0 && alpha(x) < 255);
        if (image.valid(x, 5))
          for (int band = 0; band < 3; ++band)
            CHECK(std::abs(test::value(image, band, x, 5) / scale - colour(band)) <= (bits == 8 ? 1.01 : 0.01));
      }
      CHECK(image.partly_there() == partly);
      Limits limits;
      limits.alpha_band = true;
      CHECK(read_info(path, limits).bands == 4);
      CHECK_FALSE(read_info(path, limits).alpha);
      const Image bands = read_picture(path, 1, limits);
      REQUIRE(bands.bands() == 4);
      for (int x = 0; x < width; ++x) CHECK(test::value(bands, 3, x, 8) == alpha(x) * scale);
      CHECK(empty_share(bands) == 0);
      CHECK(open_parts(path, 1, limits)->read({3, 3, 9, 9}, {}).bands() == 4);
    }
}

TEST_CASE("thumbnails and overviews are no pages", "[files][samples]") {
  const test::Scratch scratch;
  const auto path = scratch / "o.tif";
  const auto page = [&](TIFF* tiff, int side, int level, std::uint32_t kind) {
    TIFFSetField(tiff, TIFFTAG_IMAGEWIDTH, side);
    TIFFSetField(tiff, TIFFTAG_IMAGELENGTH, side);
    TIFFSetField(tiff, TIFFTAG_SAMPLESPERPIXEL, 1);
    TIFFSetField(tiff, TIFFTAG_BITSPERSAMPLE, 8);
    TIFFSetField(tiff, TIFFTAG_PHOTOMETRIC, PHOTOMETRIC_MINISBLACK);
    TIFFSetField(tiff, TIFFTAG_PLANARCONFIG, PLANARCONFIG_CONTIG);
    TIFFSetField(tiff, TIFFTAG_SUBFILETYPE, kind);
    std::vector<std::uint8_t> row(static_cast<std::size_t>(side), static_cast<std::uint8_t>(level));
    for (int y = 0; y < side; ++y) TIFFWriteScanline(tiff, row.data(), static_cast<std::uint32_t>(y), 0);
    TIFFWriteDirectory(tiff);
  };
  for (const bool thumbnail_first : {false, true}) {
    TIFF* tiff = TIFFOpen(path.c_str(), "w");
    if (thumbnail_first) page(tiff, 8, 1, FILETYPE_REDUCEDIMAGE);
    page(tiff, 64, 100, 0);
    page(tiff, 32, 2, FILETYPE_REDUCEDIMAGE);
    page(tiff, 64, 3, FILETYPE_MASK);
    page(tiff, 64, 200, FILETYPE_PAGE);
    TIFFClose(tiff);
    const FileInfo info = read_info(path);
    CHECK(info.frames == 2);
    CHECK(info.width == 64);
    CHECK(test::value(read_picture(path, 1), 0, 5, 5) == 100);
    CHECK(test::value(read_picture(path, 2), 0, 5, 5) == 200);
    CHECK(said(info).find("left out") != std::string::npos);
  }
  // Where there is nothing else, they are.
  TIFF* tiff = TIFFOpen(path.c_str(), "w");
  page(tiff, 8, 7, FILETYPE_REDUCEDIMAGE);
  TIFFClose(tiff);
  CHECK(test::value(read_picture(path), 0, 5, 5) == 7);
}

TEST_CASE("a stack under one directory has the pages that its description counts", "[files][samples]") {
  const test::Scratch scratch;
  const auto path = scratch / "long.tif";
  for (const bool high_first : {false, true}) {
    TIFF* tiff = TIFFOpen(path.c_str(), high_first ? "wb" : "wl");
    TIFFSetField(tiff, TIFFTAG_IMAGEWIDTH, 20);
    TIFFSetField(tiff, TIFFTAG_IMAGELENGTH, 10);
    TIFFSetField(tiff, TIFFTAG_SAMPLESPERPIXEL, 1);
    TIFFSetField(tiff, TIFFTAG_BITSPERSAMPLE, 16);
    TIFFSetField(tiff, TIFFTAG_PHOTOMETRIC, PHOTOMETRIC_MINISBLACK);
    TIFFSetField(tiff, TIFFTAG_PLANARCONFIG, PLANARCONFIG_CONTIG);
    TIFFSetField(tiff, TIFFTAG_ROWSPERSTRIP, 10);
    TIFFSetField(tiff, TIFFTAG_IMAGEDESCRIPTION, "made here\nimages=6\nslices=6\n");
    std::vector<std::uint16_t> first(200, 1000);
    TIFFWriteEncodedStrip(tiff, 0, first.data(), 400);
    TIFFClose(tiff);
    // The directory may stand before the samples or behind them: pictures follow the first one's samples.
    std::string bytes;
    {
      std::ifstream in(path, std::ios::binary);
      bytes.assign(std::istreambuf_iterator<char>(in), {});
    }
    TIFF* again = TIFFOpen(path.c_str(), "r");
    const auto at = static_cast<std::size_t>(TIFFGetStrileOffset(again, 0));
    TIFFClose(again);
    // Samples at the end: what is behind them moves before.
    CHECK(at == 8);
    std::string followers;
    for (int k = 0; k < 6; ++k)
      for (int i = 0; i < 200; ++i) {
        const int v = 1000 + 100 * k + i;
        followers += static_cast<char>(high_first ? v >> 8 : v);
        followers += static_cast<char>(high_first ? v : v >> 8);
      }
    // The one strip is said to begin behind all else.
    const auto set = [&](std::size_t place, std::uint32_t value) {
      for (int i = 0; i < 4; ++i)
        bytes[place + static_cast<std::size_t>(i)] = static_cast<char>(value >> (8 * (high_first ? 3 - i : i)));
    };
    const auto get = [&](std::size_t place, int count) {
      std::uint32_t v = 0;
      for (int i = 0; i < count; ++i)
        v |= static_cast<std::uint32_t>(static_cast<unsigned char>(bytes[place + static_cast<std::size_t>(i)]))
             << (8 * (high_first ? count - 1 - i : i));
      return v;
    };
    const std::size_t directory = get(4, 4);
    for (std::uint32_t i = 0; i < get(directory, 2); ++i)
      if (get(directory + 2 + 12 * i, 2) == 273)
        set(directory + 2 + 12 * i + 8, static_cast<std::uint32_t>(bytes.size()));
    bytes += followers;
    std::ofstream(path, std::ios::binary) << bytes;
    CHECK(read_info(path).frames == 6);
    for (const int k : {0, 3, 5}) {
      const Image page = read_picture(path, k + 1);
      for (const int i : {0, 7, 199}) CHECK(test::value(page, 0, i % 20, i / 20) == 1000 + 100 * k + i);
    }
    std::ofstream(path, std::ios::binary) << bytes.substr(0, bytes.size() - 900);
    CHECK_THROWS_AS(read_info(path), Error);
    CHECK(read_info(path, {.salvage = true}).frames == 3);
  }
}

TEST_CASE("what is not read of a TIFF is refused in plain words", "[files][samples]") {
  const test::Scratch scratch;
  const auto path = scratch / "no.tif";
  const auto sentence = [&](const Way& way) {
    write(path, way, [&](int x, int y, int band) { return scrambled(x, y, band, way.bits); });
    try {
      read_info(path);
    } catch (const Error& error) {
      CHECK_FALSE(error.remedy().empty());
      return error.message();
    }
    return std::string("nothing");
  };
  Way complex;
  complex.bits = 64;
  complex.kind = SAMPLEFORMAT_COMPLEXIEEEFP;
  CHECK(sentence(complex).find("complex") != std::string::npos);
  Way white;
  white.bits = 32;
  white.kind = SAMPLEFORMAT_IEEEFP;
  white.photometric = PHOTOMETRIC_MINISWHITE;
  CHECK(sentence(white).find("white as zero") != std::string::npos);
  Way odd;
  odd.bits = 18;
  CHECK(sentence(odd).find("18-bit samples") != std::string::npos);
  Way with_sign;
  with_sign.bits = 12;
  with_sign.kind = SAMPLEFORMAT_INT;
  CHECK(sentence(with_sign).find("12-bit samples with a sign") != std::string::npos);
}
