/// Colours that are stored as inks or Lab: what they become, against the formulas of the standards.
#include <cstdio>

#include <jpeglib.h>
#include <lcms2.h>
#include <tiffio.h>

#include <catch2/catch.hpp>

#include "base/error.h"
#include "files/parts.h"
#include "files/picture.h"
#include "tests/support.h"

using namespace fexel;

namespace {

struct Lab {
  double l, a, b;
};

/// CIE Lab under D50 to sRGB, 0 to 1: CIE 15:2004, Bradford's adaptation to D65, IEC 61966-2-1.
std::array<double, 3> srgb_of(Lab lab) {
  const double fy = (lab.l + 16) / 116, fx = fy + lab.a / 500, fz = fy - lab.b / 200;
  const auto back = [](double f) { return f > 6.0 / 29 ? f * f * f : 3 * 36.0 / 841 * (f - 4.0 / 29); };
  const double x = 0.9642 * back(fx), y = back(fy), z = 0.8249 * back(fz);
  const double x65 = 0.9555766 * x - 0.0230393 * y + 0.0631636 * z,
               y65 = -0.0282895 * x + 1.0099416 * y + 0.0210077 * z,
               z65 = 0.0122982 * x - 0.0204830 * y + 1.3299098 * z;
  const double linear[] = {3.2404542 * x65 - 1.5371385 * y65 - 0.4985314 * z65,
                           -0.9692660 * x65 + 1.8760108 * y65 + 0.0415560 * z65,
                           0.0556434 * x65 - 0.2040259 * y65 + 1.0572252 * z65};
  std::array<double, 3> out;
  for (std::size_t i = 0; i < 3; ++i) {
    const double v = std::clamp(linear[i], 0.0, 1.0);
    out[i] = v <= 0.0031308 ? 12.92 * v : 1.055 * std::pow(v, 1 / 2.4) - 0.055;
  }
  return out;
}

/// Inks of the test: what four shares of ink look like.
Lab look_of(const double* ink) {
  const double dark = 1 - 0.9 * ink[3];
  return {100 * dark * (1 - 0.35 * ink[0]) * (1 - 0.4 * ink[1]) * (1 - 0.1 * ink[2]),
          dark * (45 * ink[1] - 25 * ink[0]), dark * (55 * ink[2] - 30 * ink[0])};
}

/// A profile of these inks: their look at nine shares each, exact there.
std::vector<unsigned char> profile_of_inks() {
  cmsHPROFILE profile = cmsCreateProfilePlaceholder(nullptr);
  cmsSetProfileVersion(profile, 2.1);
  cmsSetDeviceClass(profile, cmsSigOutputClass);
  cmsSetColorSpace(profile, cmsSigCmykData);
  cmsSetPCS(profile, cmsSigLabData);
  cmsWriteTag(profile, cmsSigMediaWhitePointTag, cmsD50_XYZ());
  cmsStage* table = cmsStageAllocCLut16bit(nullptr, 9, 4, 3, nullptr);
  cmsStageSampleCLut16bit(
      table,
      [](const cmsUInt16Number in[], cmsUInt16Number out[], void*) -> cmsInt32Number {
        double ink[4];
        for (int i = 0; i < 4; ++i) ink[i] = in[i] / 65535.0;
        const Lab look = look_of(ink);
        const cmsCIELab lab{look.l, look.a, look.b};
        cmsFloat2LabEncodedV2(out, &lab);
        return TRUE;
      },
      nullptr, 0);
  cmsPipeline* pipeline = cmsPipelineAlloc(nullptr, 4, 3);
  cmsPipelineInsertStage(pipeline, cmsAT_END, table);
  for (const cmsTagSignature tag : {cmsSigAToB0Tag, cmsSigAToB1Tag}) REQUIRE(cmsWriteTag(profile, tag, pipeline));
  cmsPipelineFree(pipeline);
  cmsUInt32Number size = 0;
  REQUIRE(cmsSaveProfileToMem(profile, nullptr, &size));
  std::vector<unsigned char> bytes(size);
  REQUIRE(cmsSaveProfileToMem(profile, bytes.data(), &size));
  cmsCloseProfile(profile);
  return bytes;
}

/// Rows of interleaved samples in a TIFF.
template <class T>
void write_tiff(const std::filesystem::path& path, int width, int height, int bands, int photometric,
                const std::vector<T>& samples, const std::vector<unsigned char>& profile = {}) {
  TIFF* tiff = TIFFOpen(path.c_str(), "w");
  REQUIRE(tiff);
  TIFFSetField(tiff, TIFFTAG_IMAGEWIDTH, width);
  TIFFSetField(tiff, TIFFTAG_IMAGELENGTH, height);
  TIFFSetField(tiff, TIFFTAG_SAMPLESPERPIXEL, bands);
  TIFFSetField(tiff, TIFFTAG_BITSPERSAMPLE, static_cast<int>(8 * sizeof(T)));
  TIFFSetField(tiff, TIFFTAG_PHOTOMETRIC, photometric);
  TIFFSetField(tiff, TIFFTAG_PLANARCONFIG, PLANARCONFIG_CONTIG);
  TIFFSetField(tiff, TIFFTAG_ROWSPERSTRIP, height);
  if (!profile.empty()) TIFFSetField(tiff, TIFFTAG_ICCPROFILE, static_cast<unsigned>(profile.size()), profile.data());
  std::vector<T> row(static_cast<std::size_t>(width * bands));
  for (int y = 0; y < height; ++y) {
    std::copy_n(samples.begin() + y * width * bands, width * bands, row.begin());
    REQUIRE(TIFFWriteScanline(tiff, row.data(), static_cast<unsigned>(y), 0) == 1);
  }
  TIFFClose(tiff);
}

/// Shares of the four inks that the profile's table holds, 9 x 9 pixels of them.
std::vector<std::array<double, 4>> shares() {
  std::vector<std::array<double, 4>> out;
  for (int y = 0; y < 9; ++y)
    for (int x = 0; x < 9; ++x) out.push_back({x / 8.0, y / 8.0, (x + y) % 9 / 8.0, (x * y) % 5 / 8.0});
  return out;
}

double worst_against(const Image& image, const std::function<Lab(int, int)>& look) {
  const double top = top_of(image.depth());
  double worst = 0;
  for (int y = 0; y < image.height(); ++y)
    for (int x = 0; x < image.width(); ++x) {
      const auto rgb = srgb_of(look(x, y));
      for (int band = 0; band < 3; ++band)
        worst = std::max(worst, std::abs(test::value(image, band, x, y) / top - rgb[static_cast<std::size_t>(band)]));
    }
  return worst;
}

}  // namespace

TEMPLATE_TEST_CASE("inks of a TIFF become what their profile says", "[colour]", std::uint8_t, std::uint16_t) {
  using T = TestType;
  const test::Scratch scratch;
  const auto inks = shares();
  std::vector<T> samples;
  for (const auto& ink : inks)
    for (const double share : ink)
      samples.push_back(static_cast<T>(std::lround(share * std::numeric_limits<T>::max())));
  write_tiff(scratch / "a.tif", 9, 9, 4, PHOTOMETRIC_SEPARATED, samples, profile_of_inks());
  const FileInfo info = read_info(scratch / "a.tif");
  CHECK(info.bands == 3);
  CHECK(info.converted == "CMYK");
  const Image image = read_picture(scratch / "a.tif");
  REQUIRE(image.bands() == 3);
  const auto look = [&](int x, int y) { return look_of(inks[static_cast<std::size_t>(9 * y + x)].data()); };
  // Two of 255 levels: bytes of ink lie beside the nodes of the table, and sRGB is steep in the dark.
  CHECK(worst_against(image, look) < 2.0 / 255);
  // A part is as the whole, and the result carries the profile of what it holds now.
  const auto parts = open_parts(scratch / "a.tif", 1);
  REQUIRE(parts);
  const Image part = parts->read({2, 3, 4, 5}, {});
  for (int band = 0; band < 3; ++band)
    for (int y = 0; y < 5; ++y)
      for (int x = 0; x < 4; ++x) CHECK(test::value(part, band, x, y) == test::value(image, band, x + 2, y + 3));
  CHECK_THAT(profile_name(read_attached(scratch / "a.tif", 3).profile), Catch::Contains("sRGB"));
  // Without the profile, or with half of it, nobody knows what inks look like.
  std::vector<unsigned char> half = profile_of_inks();
  half.resize(half.size() / 2);
  write_tiff(scratch / "c.tif", 9, 9, 4, PHOTOMETRIC_SEPARATED, samples, half);
  CHECK_THROWS_WITH(read_info(scratch / "c.tif"), Catch::Contains("without a profile"));
  write_tiff(scratch / "b.tif", 9, 9, 4, PHOTOMETRIC_SEPARATED, samples);
  CHECK_THROWS_WITH(read_info(scratch / "b.tif"), Catch::Contains("without a profile"));
}

TEST_CASE("Lab of a TIFF becomes sRGB, in every encoding", "[colour]") {
  const test::Scratch scratch;
  std::vector<Lab> labs;
  for (const double l : {0 / 2.55, 51 / 2.55, 127 / 2.55, 204 / 2.55, 100.0})  // whole bytes
    for (const double a : {-30.0, 0.0, 25.0})
      for (const double b : {-25.0, 0.0, 30.0}) labs.push_back({l, a, b});
  const auto look = [&](int x, int) { return labs[static_cast<std::size_t>(x)]; };
  const auto width = static_cast<int>(labs.size());
  SECTION("CIE Lab of 8 bits: a and b signed") {
    std::vector<std::uint8_t> samples;
    for (const Lab& c : labs) {
      samples.push_back(static_cast<std::uint8_t>(std::lround(c.l * 2.55)));
      samples.push_back(static_cast<std::uint8_t>(static_cast<std::int8_t>(c.a)));
      samples.push_back(static_cast<std::uint8_t>(static_cast<std::int8_t>(c.b)));
    }
    write_tiff(scratch / "a.tif", width, 1, 3, PHOTOMETRIC_CIELAB, samples);
    CHECK(worst_against(read_picture(scratch / "a.tif"), look) < 2.0 / 255);
  }
  SECTION("CIE Lab of 16 bits: a and b signed, in 256ths") {
    std::vector<std::uint16_t> samples;
    for (const Lab& c : labs) {
      samples.push_back(static_cast<std::uint16_t>(std::lround(c.l * 655.35)));
      samples.push_back(static_cast<std::uint16_t>(static_cast<std::int16_t>(c.a * 256)));
      samples.push_back(static_cast<std::uint16_t>(static_cast<std::int16_t>(c.b * 256)));
    }
    write_tiff(scratch / "a.tif", width, 1, 3, PHOTOMETRIC_CIELAB, samples);
    CHECK(worst_against(read_picture(scratch / "a.tif"), look) < 1.0 / 255);
  }
  SECTION("ICC Lab of 8 bits: a and b from 0") {
    std::vector<std::uint8_t> samples;
    for (const Lab& c : labs) {
      samples.push_back(static_cast<std::uint8_t>(std::lround(c.l * 2.55)));
      samples.push_back(static_cast<std::uint8_t>(c.a + 128));
      samples.push_back(static_cast<std::uint8_t>(c.b + 128));
    }
    write_tiff(scratch / "a.tif", width, 1, 3, PHOTOMETRIC_ICCLAB, samples);
    CHECK(worst_against(read_picture(scratch / "a.tif"), look) < 2.0 / 255);
  }
  CHECK(read_info(scratch / "a.tif").converted == "Lab");
}

TEST_CASE("inks of a JPEG become what their profile says, stored as they are or as what is missing", "[colour]") {
  const test::Scratch scratch;
  const auto inks = shares();
  const bool inverted = GENERATE(false, true);
  const std::vector<unsigned char> profile = profile_of_inks();
  const auto write = [&](const char* name, bool with_profile) {
    std::FILE* file = std::fopen((scratch / name).c_str(), "wb");
    REQUIRE(file);
    jpeg_compress_struct codec{};
    jpeg_error_mgr errors{};
    codec.err = jpeg_std_error(&errors);
    jpeg_create_compress(&codec);
    jpeg_stdio_dest(&codec, file);
    constexpr int block = 16;  // a pixel of the test is one block, so that nothing is lost
    codec.image_width = codec.image_height = 9 * block;
    codec.input_components = 4;
    codec.in_color_space = JCS_CMYK;
    jpeg_set_defaults(&codec);
    jpeg_set_quality(&codec, 100, TRUE);
    codec.write_Adobe_marker = inverted ? TRUE : FALSE;
    jpeg_start_compress(&codec, TRUE);
    if (with_profile) {
      std::vector<unsigned char> part{'I', 'C', 'C', '_', 'P', 'R', 'O', 'F', 'I', 'L', 'E', 0, 1, 0};
      constexpr std::size_t most = 65000;
      const std::size_t count = (profile.size() + most - 1) / most;
      for (std::size_t i = 0; i < count; ++i) {
        part.resize(14);
        part[12] = static_cast<unsigned char>(i + 1);
        part[13] = static_cast<unsigned char>(count);
        const auto begin = profile.begin() + static_cast<std::ptrdiff_t>(i * most);
        part.insert(part.end(), begin, begin + static_cast<std::ptrdiff_t>(std::min(most, profile.size() - i * most)));
        jpeg_write_marker(&codec, JPEG_APP0 + 2, part.data(), static_cast<unsigned>(part.size()));
      }
    }
    std::vector<JSAMPLE> line(9 * block * 4);
    for (int y = 0; y < 9 * block; ++y) {
      for (int x = 0; x < 9 * block; ++x)
        for (int i = 0; i < 4; ++i) {
          const double share = inks[static_cast<std::size_t>(9 * (y / block) + x / block)][static_cast<std::size_t>(i)];
          line[static_cast<std::size_t>(4 * x + i)] =
              static_cast<JSAMPLE>(std::lround(255 * (inverted ? 1 - share : share)));
        }
      JSAMPROW row = line.data();
      jpeg_write_scanlines(&codec, &row, 1);
    }
    jpeg_finish_compress(&codec);
    jpeg_destroy_compress(&codec);
    std::fclose(file);
  };
  write("a.jpg", true);
  CHECK(read_info(scratch / "a.jpg").converted == "CMYK");
  const Image image = read_picture(scratch / "a.jpg");
  REQUIRE(image.bands() == 3);
  CHECK(worst_against(image, [&](int x, int y) {
          return look_of(inks[static_cast<std::size_t>(9 * (y / 16) + x / 16)].data());
        }) < 4.0 / 255);
  write("b.jpg", false);
  CHECK_THROWS_WITH(read_info(scratch / "b.jpg"), Catch::Contains("without a profile"));
}
