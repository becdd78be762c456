// TIFF files whose samples are stored otherwise than Fexel writes them, made by the library itself, against the numbers
// that were put in.
#include <bit>
#include <catch2/catch.hpp>
#include <cstring>

#include "base/error.h"
#include "files/parts.h"
#include "files/picture.h"
#include "tests/support.h"
#include "tests/tiff_maker.h"

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
  TIFF* tiff = test::new_tiff(path, {width, height, way.bands, way.bits, way.photometric, way.mode, way.planes});
  const bool apart = way.planes == PLANARCONFIG_SEPARATE;
  TIFFSetField(tiff, TIFFTAG_SAMPLEFORMAT, way.kind);
  TIFFSetField(tiff, TIFFTAG_COMPRESSION, way.compression);
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

TEST_CASE("YCbCr is read as red, green and blue, in JPEG and otherwise, whole colours and halved ones",
          "[files][samples]") {
  const test::Scratch scratch;
  const auto path = scratch / "y.tif";
  constexpr int across = 50, down = 41, rows_of_strip = 16, side = 32;
  // On the left one colour; on the right a grey that grows downwards.
  const auto luma = [](int x, int y) { return x < 24 ? 120 : 60 + 2 * y; };
  const auto blue = [](int x) { return x < 24 ? 90 : 128; };
  const auto red = [](int x) { return x < 24 ? 170 : 128; };
  // ITU-R BT.601, full range.
  const auto shown = [&](int x, int y, int band) {
    const double l = luma(x, y), b = blue(x) - 128, r = red(x) - 128;
    return band == 0 ? l + 1.402 * r : band == 1 ? l - 0.344136 * b - 0.714136 * r : l + 1.772 * b;
  };
  for (const int compression : {COMPRESSION_JPEG, COMPRESSION_NONE, COMPRESSION_LZW})
    for (const bool tiled : {false, true})
      for (const int halved : {1, 2}) {
        INFO(compression << tiled << halved);
        TIFF* tiff =
            test::new_tiff(path, {.width = across, .height = down, .bands = 3, .photometric = PHOTOMETRIC_YCBCR});
        TIFFSetField(tiff, TIFFTAG_COMPRESSION, compression);
        TIFFSetField(tiff, TIFFTAG_YCBCRSUBSAMPLING, halved, halved);
        const float reference[] = {0, 255, 128, 255, 128, 255};
        TIFFSetField(tiff, TIFFTAG_REFERENCEBLACKWHITE, reference);
        if (tiled) {
          TIFFSetField(tiff, TIFFTAG_TILEWIDTH, side);
          TIFFSetField(tiff, TIFFTAG_TILELENGTH, rows_of_strip);
        } else {
          TIFFSetField(tiff, TIFFTAG_ROWSPERSTRIP, rows_of_strip);
        }
        const bool jpeg = compression == COMPRESSION_JPEG;
        if (jpeg) {
          TIFFSetField(tiff, TIFFTAG_JPEGQUALITY, 100);
          TIFFSetField(tiff, TIFFTAG_JPEGCOLORMODE, JPEGCOLORMODE_RGB);
        }
        std::uint32_t number = 0;
        for (int top = 0; top < down; top += rows_of_strip)
          for (int left = 0; left < across; left += tiled ? side : across, ++number) {
            const int wide = tiled ? side : across, high = tiled ? rows_of_strip : std::min(rows_of_strip, down - top);
            std::vector<std::uint8_t> bytes;
            const auto put_one = [&](double v) { bytes.push_back(static_cast<std::uint8_t>(std::lround(v))); };
            if (jpeg) {
              for (int y = top; y < top + high; ++y)
                for (int x = left; x < left + wide; ++x)
                  for (int band = 0; band < 3; ++band) put_one(shown(x, y, band));
            } else {
              // Each block: its lumas row by row, then its blue and red.
              for (int y = top; y < top + high; y += halved)
                for (int x = left; x < left + wide; x += halved) {
                  for (int v = 0; v < halved; ++v)
                    for (int u = 0; u < halved; ++u) put_one(luma(x + u, y + v));
                  put_one(blue(x));
                  put_one(red(x));
                }
            }
            const auto size = static_cast<tmsize_t>(bytes.size());
            REQUIRE((tiled ? TIFFWriteEncodedTile(tiff, number, bytes.data(), size)
                           : TIFFWriteEncodedStrip(tiff, number, bytes.data(), size)) == size);
          }
        TIFFClose(tiff);
        if (tiled && compression == COMPRESSION_NONE) {
          CHECK_THROWS_WITH(read_picture(path), Catch::Contains("not compressed"));
          continue;
        }
        const Image image = read_picture(path), part = open_parts(path, 1)->read({10, 7, 35, 30}, {});
        REQUIRE(image.bands() == 3);
        double worst = 0;
        for (int band = 0; band < 3; ++band)
          for (int y = 0; y < down; ++y)
            for (int x = 0; x < across; ++x) {
              // Where colours meet, halved ones are mixed.
              if (jpeg && std::abs(x - 24) < 10) continue;
              worst = std::max(worst, std::abs(test::value(image, band, x, y) - shown(x, y, band)));
              if (x >= 10 && x < 45 && y >= 7 && y < 37)
                worst = std::max(worst, std::abs(test::value(part, band, x - 10, y - 7) - shown(x, y, band)));
            }
        CHECK(worst <= (jpeg ? 3 : 1.5));
        CHECK(said(read_info(path)).find("YCbCr") != std::string::npos);
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
