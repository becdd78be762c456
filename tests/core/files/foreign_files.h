#pragma once
/// Small files of formats that Fexel only reads, made by their own encoders or by hand from the format's description.
#include <gif_lib.h>
#include <libheif/heif.h>
#include <openjpeg.h>
#include <webp/encode.h>
#include <webp/mux.h>

#include <catch2/catch.hpp>
#include <filesystem>
#include <fstream>
#include <string>
#include <vector>

#include "tests/support.h"
#include "tests/tiff_maker.h"

namespace fexel::test::foreign {
namespace fs = std::filesystem;

inline void save(const fs::path& path, const std::string& bytes) {
  std::ofstream(path, std::ios::binary) << bytes;
}
inline std::string load(const fs::path& path) {
  std::ifstream in(path, std::ios::binary);
  return {std::istreambuf_iterator<char>(in), {}};
}

inline int sample(int x, int y, int band, int top = 255) {
  return static_cast<int>((static_cast<unsigned>(x * 31 + y * 57 + band * 101 + x * y) * 2654435761U) >> 8) % (top + 1);
}

/// Samples that differ from sample().
inline int wrong(const Image& image, int top = 255) {
  int out = 0;
  for (int band = 0; band < image.bands(); ++band)
    for (int y = 0; y < image.height(); ++y)
      for (int x = 0; x < image.width(); ++x) out += test::value(image, band, x, y) != sample(x, y, band, top);
  return out;
}

inline void put(std::string& out, std::uint32_t value, int bytes) {
  for (int i = 0; i < bytes; ++i) out += static_cast<char>(value >> (8 * i));
}

/// A bitmap with a header of 40 bytes.
inline std::string bitmap(int width, int height, int bits, bool top_down, const std::string& palette,
                          const std::string& rows, std::uint32_t compression = 0) {
  std::string out = "BM";
  const auto start = static_cast<std::uint32_t>(54 + palette.size());
  put(out, start + static_cast<std::uint32_t>(rows.size()), 4);
  put(out, 0, 4);
  put(out, start, 4);
  put(out, 40, 4);
  put(out, static_cast<std::uint32_t>(width), 4);
  put(out, static_cast<std::uint32_t>(top_down ? -height : height), 4);
  put(out, 1, 2);
  put(out, static_cast<std::uint32_t>(bits), 2);
  put(out, compression, 4);
  put(out, static_cast<std::uint32_t>(rows.size()), 4);
  put(out, 11811, 4);  // 300 dpi
  put(out, 11811, 4);
  put(out, static_cast<std::uint32_t>(palette.size() / 4), 4);
  put(out, 0, 4);
  return out + palette + rows;
}

inline std::string gif(const fs::path& path, bool grey, int pictures) {
  int error = 0;
  GifFileType* file = ::EGifOpenFileName(path.c_str(), false, &error);
  REQUIRE(file);
  ::EGifSetGifVersion(file, true);
  GifColorType colours[256];
  for (int i = 0; i < 256; ++i) {
    const auto v = static_cast<GifByteType>(i);
    colours[i] = grey ? GifColorType{v, v, v}
                      : GifColorType{v, static_cast<GifByteType>(255 - i), static_cast<GifByteType>(i * 7)};
  }
  ColorMapObject* map = ::GifMakeMapObject(256, colours);
  REQUIRE(::EGifPutScreenDesc(file, 40, 30, 8, 0, map) == GIF_OK);
  for (int k = 0; k < pictures; ++k) {
    // The first fills the screen; later ones lie over a part, and what is 200 in them lets the one below through.
    GraphicsControlBlock control{DISPOSE_DO_NOT, false, 10, k > 0 ? 200 : NO_TRANSPARENT_COLOR};
    GifByteType bytes[4];
    ::EGifGCBToExtension(&control, bytes);
    ::EGifPutExtension(file, GRAPHICS_EXT_FUNC_CODE, 4, bytes);
    const int left = k > 0 ? 5 : 0, top = k > 0 ? 6 : 0, width = k > 0 ? 20 : 40, height = k > 0 ? 10 : 30;
    REQUIRE(::EGifPutImageDesc(file, left, top, width, height, false, nullptr) == GIF_OK);
    for (int y = 0; y < height; ++y) {
      std::vector<GifByteType> row(static_cast<std::size_t>(width));
      for (int x = 0; x < width; ++x)
        row[static_cast<std::size_t>(x)] = static_cast<GifByteType>(k == 0       ? sample(x, y, 0)
                                                                    : x % 2 == 0 ? 200
                                                                                 : 100 + k);
      REQUIRE(::EGifPutLine(file, row.data(), width) == GIF_OK);
    }
  }
  ::EGifCloseFile(file, nullptr);
  ::GifFreeMapObject(map);
  return load(path);
}

inline std::string webp(bool alpha) {
  std::vector<std::uint8_t> pixels;
  for (int y = 0; y < 30; ++y)
    for (int x = 0; x < 40; ++x)
      for (int band = 0; band < (alpha ? 4 : 3); ++band)
        pixels.push_back(static_cast<std::uint8_t>(band == 3 ? (x < 20 ? 255 : x < 30 ? 90 : 0) : sample(x, y, band)));
  WebPConfig how;
  ::WebPConfigInit(&how);
  ::WebPConfigLosslessPreset(&how, 2);
  how.exact = 1;
  WebPPicture picture;
  ::WebPPictureInit(&picture);
  picture.use_argb = 1;
  picture.width = 40;
  picture.height = 30;
  if (alpha)
    ::WebPPictureImportRGBA(&picture, pixels.data(), 160);
  else
    ::WebPPictureImportRGB(&picture, pixels.data(), 120);
  WebPMemoryWriter writer;
  ::WebPMemoryWriterInit(&writer);
  picture.writer = ::WebPMemoryWrite;
  picture.custom_ptr = &writer;
  REQUIRE(::WebPEncode(&how, &picture) != 0);
  std::string out(reinterpret_cast<char*>(writer.mem), writer.size);
  ::WebPPictureFree(&picture);
  ::WebPMemoryWriterClear(&writer);
  return out;
}

inline std::string jpeg2000(const fs::path& path, int bits, int bands, bool with_sign, bool boxes) {
  opj_cparameters_t how;
  ::opj_set_default_encoder_parameters(&how);
  how.tcp_numlayers = 1;
  how.cp_disto_alloc = 1;
  how.tcp_rates[0] = 0;  // without loss
  how.numresolution = 4;
  std::vector<opj_image_cmptparm_t> kinds(static_cast<std::size_t>(bands));
  for (auto& kind : kinds) {
    kind = {};
    kind.dx = kind.dy = 1;
    kind.w = 40;
    kind.h = 30;
    kind.prec = static_cast<OPJ_UINT32>(bits);
    kind.sgnd = with_sign ? 1 : 0;
  }
  opj_image_t* image =
      ::opj_image_create(static_cast<OPJ_UINT32>(bands), kinds.data(), bands >= 3 ? OPJ_CLRSPC_SRGB : OPJ_CLRSPC_GRAY);
  image->x1 = 40;
  image->y1 = 30;
  if (bands == 4) image->comps[3].alpha = 1;
  const int top = (1 << std::min(bits, 20)) - 1;
  for (int band = 0; band < bands; ++band)
    for (int y = 0; y < 30; ++y)
      for (int x = 0; x < 40; ++x)
        image->comps[band].data[y * 40 + x] =
            band == 3 ? top : sample(x, y, band, top) - (with_sign ? (top + 1) / 2 : 0);
  opj_codec_t* codec = ::opj_create_compress(boxes ? OPJ_CODEC_JP2 : OPJ_CODEC_J2K);
  REQUIRE(::opj_setup_encoder(codec, &how, image));
  opj_stream_t* stream = ::opj_stream_create_default_file_stream(path.c_str(), OPJ_FALSE);
  REQUIRE(::opj_start_compress(codec, image, stream));
  REQUIRE(::opj_encode(codec, stream));
  REQUIRE(::opj_end_compress(codec, stream));
  ::opj_stream_destroy(stream);
  ::opj_destroy_codec(codec);
  ::opj_image_destroy(image);
  return load(path);
}

/// Without loss and without a change of colours, so that samples come back as they were.
inline std::string heif(const fs::path& path, heif_compression_format format, int bits, bool alpha, int pictures) {
  heif_context* context = ::heif_context_alloc();
  for (int k = 0; k < pictures; ++k) {
    heif_image* image = nullptr;
    REQUIRE(::heif_image_create(64, 48, heif_colorspace_RGB, heif_chroma_444, &image).code == heif_error_Ok);
    constexpr heif_channel channels[] = {heif_channel_R, heif_channel_G, heif_channel_B, heif_channel_Alpha};
    for (int band = 0; band < (alpha ? 4 : 3); ++band) {
      REQUIRE(::heif_image_add_plane(image, channels[band], 64, 48, bits).code == heif_error_Ok);
      int stride = 0;
      std::uint8_t* plane = ::heif_image_get_plane(image, channels[band], &stride);
      for (int y = 0; y < 48; ++y)
        for (int x = 0; x < 64; ++x) {
          const int top = (1 << bits) - 1, value = band == 3 ? (x < 32 ? top : 0) : sample(x + k, y, band, top);
          if (bits > 8)
            reinterpret_cast<std::uint16_t*>(plane + y * stride)[x] = static_cast<std::uint16_t>(value);
          else
            plane[y * stride + x] = static_cast<std::uint8_t>(value);
        }
    }
    heif_encoder* encoder = nullptr;
    if (::heif_context_get_encoder_for_format(context, format, &encoder).code != heif_error_Ok) {
      ::heif_image_release(image);
      ::heif_context_free(context);
      return {};
    }
    ::heif_encoder_set_lossless(encoder, 1);
    ::heif_encoder_set_parameter_string(encoder, "chroma", "444");
    heif_color_profile_nclx* colours = ::heif_nclx_color_profile_alloc();
    colours->matrix_coefficients = heif_matrix_coefficients_RGB_GBR;
    colours->full_range_flag = 1;
    ::heif_image_set_nclx_color_profile(image, colours);
    heif_encoding_options* options = ::heif_encoding_options_alloc();
    options->output_nclx_profile = colours;
    REQUIRE(::heif_context_encode_image(context, image, encoder, options, nullptr).code == heif_error_Ok);
    ::heif_encoding_options_free(options);
    ::heif_nclx_color_profile_free(colours);
    ::heif_encoder_release(encoder);
    ::heif_image_release(image);
  }
  REQUIRE(::heif_context_write_to_file(context, path.c_str()).code == heif_error_Ok);
  ::heif_context_free(context);
  return load(path);
}

/// A DNG whose mosaic (red, green; green, blue) shows one grey light of a neutral that is not equal in the bands.
inline std::string negative(const fs::path& path, int level, int orientation) {
  constexpr std::uint16_t of_cfa_dimensions = 33421, of_cfa = 33422;
  TIFF* tiff = new_tiff(path, {.width = 96, .height = 64, .bits = 16, .photometric = PHOTOMETRIC_CFA});
  TIFFSetField(tiff, TIFFTAG_SUBFILETYPE, 0);
  TIFFSetField(tiff, TIFFTAG_ORIENTATION, orientation);
  TIFFSetField(tiff, TIFFTAG_ROWSPERSTRIP, 64);
  TIFFSetField(tiff, TIFFTAG_MAKE, "Fexel");
  TIFFSetField(tiff, TIFFTAG_MODEL, "Made up");
  const std::uint16_t two[] = {2, 2};
  const std::uint8_t pattern[] = {0, 1, 1, 2};
  TIFFSetField(tiff, of_cfa_dimensions, two);
  TIFFSetField(tiff, of_cfa, 4, pattern);
  const std::uint8_t version[] = {1, 4, 0, 0};
  TIFFSetField(tiff, TIFFTAG_DNGVERSION, version);
  TIFFSetField(tiff, TIFFTAG_UNIQUECAMERAMODEL, "Fexel Made up");
  const float matrix[] = {3.2406F, -1.5372F, -0.4986F, -0.9689F, 1.8758F, 0.0415F, 0.0557F, -0.2040F, 1.0570F};
  TIFFSetField(tiff, TIFFTAG_COLORMATRIX1, 9, matrix);
  const float neutral[] = {0.5F, 1, 0.8F};
  TIFFSetField(tiff, TIFFTAG_ASSHOTNEUTRAL, 3, neutral);
  const std::uint32_t white = 16000;
  TIFFSetField(tiff, TIFFTAG_WHITELEVEL, 1, &white);
  for (std::uint32_t y = 0; y < 64; ++y) {
    std::vector<std::uint16_t> row;
    for (std::uint32_t x = 0; x < 96; ++x) {
      const double of_band = neutral[y % 2 == 0 ? (x % 2 == 0 ? 0 : 1) : (x % 2 == 0 ? 1 : 2)];
      row.push_back(static_cast<std::uint16_t>(std::lround(level * of_band)));
    }
    TIFFWriteScanline(tiff, row.data(), y, 0);
  }
  TIFFClose(tiff);
  return load(path);
}

}  // namespace fexel::test::foreign
