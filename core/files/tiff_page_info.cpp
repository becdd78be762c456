/// What a page of a TIFF says of itself.
#include <bit>

#include "files/decoders/decoders.h"
#include "files/tiff.h"
#include "files/tiff_samples.h"

namespace fexel::codec {
namespace {

std::optional<PixelSize> density(TIFF* tiff) {
  float x = 0, y = 0;
  std::uint16_t unit = RESUNIT_INCH;
  if (TIFFGetField(tiff, TIFFTAG_XRESOLUTION, &x) == 0 || TIFFGetField(tiff, TIFFTAG_YRESOLUTION, &y) == 0)
    return std::nullopt;
  TIFFGetFieldDefaulted(tiff, TIFFTAG_RESOLUTIONUNIT, &unit);
  if (unit != RESUNIT_INCH && unit != RESUNIT_CENTIMETER) return std::nullopt;
  const double per_metre = unit == RESUNIT_INCH ? 1 / 0.0254 : 100;
  return pixel_size_from_density(x * per_metre, y * per_metre);
}

/// Whether the last sample of a pixel tells how much of it is there, and how: EXTRASAMPLE_ASSOCALPHA or
/// EXTRASAMPLE_UNASSALPHA, else 0.
std::uint16_t alpha_kind(TIFF* tiff, int bands) {
  std::uint16_t count = 0;
  std::uint16_t* kinds = nullptr;
  if (bands < 2 || TIFFGetField(tiff, TIFFTAG_EXTRASAMPLES, &count, &kinds) == 0 || count == 0 || count >= bands)
    return 0;
  const std::uint16_t last = kinds[count - 1];
  return last == EXTRASAMPLE_ASSOCALPHA || last == EXTRASAMPLE_UNASSALPHA ? last : std::uint16_t{0};
}

}  // namespace

std::vector<unsigned char> tiff_profile(TIFF* tiff) {
  std::uint32_t length = 0;
  void* profile = nullptr;
  if (TIFFGetField(tiff, TIFFTAG_ICCPROFILE, &length, &profile) == 0) return {};
  const auto* bytes = static_cast<const unsigned char*>(profile);
  return {bytes, bytes + length};
}

Colours colours_of(TIFF* tiff) {
  std::uint16_t photometric = PHOTOMETRIC_MINISBLACK;
  TIFFGetField(tiff, TIFFTAG_PHOTOMETRIC, &photometric);
  switch (photometric) {
    case PHOTOMETRIC_SEPARATED:
      return Colours::cmyk;
    case PHOTOMETRIC_CIELAB:
      return Colours::cie_lab;
    case PHOTOMETRIC_ICCLAB:
      return Colours::icc_lab;
    default:
      return Colours::plain;
  }
}

/// What a page gives once its colours are red, green and blue, and alpha is what was asked for.
FileInfo as_shown(FileInfo info, const Limits& limits) {
  if (info.converted.empty()) {
    settle_alpha(info, limits);
    return info;
  }
  info.bands = 3;
  info.profile.clear();
  info.largest = 0;
  return info;
}

FileInfo page_info(const fs::path& path, TIFF* tiff) {
  FileInfo info;
  info.format = "tiff";
  std::uint32_t width = 0, height = 0;
  std::uint16_t bands = 1, photometric = PHOTOMETRIC_MINISBLACK, orientation = 1;
  if (TIFFGetField(tiff, TIFFTAG_IMAGEWIDTH, &width) == 0 || TIFFGetField(tiff, TIFFTAG_IMAGELENGTH, &height) == 0 ||
      width > 0x7fffffff || height > 0x7fffffff)
    throw broken(path, "The TIFF does not say how large its picture is.");
  TIFFGetFieldDefaulted(tiff, TIFFTAG_SAMPLESPERPIXEL, &bands);
  TIFFGetField(tiff, TIFFTAG_PHOTOMETRIC, &photometric);
  TIFFGetFieldDefaulted(tiff, TIFFTAG_ORIENTATION, &orientation);
  info.width = static_cast<int>(width);
  info.height = static_cast<int>(height);
  const std::uint16_t alpha = alpha_kind(tiff, bands);
  info.alpha = alpha != 0;
  info.associated = alpha == EXTRASAMPLE_ASSOCALPHA;
  info.orientation = orientation >= 1 && orientation <= 8 ? orientation : 1;
  const SampleForm form = sample_form(path, tiff);
  info.bands = bands * form.given - (info.alpha ? 1 : 0);
  info.depth = form.depth;
  info.largest = form.largest;
  info.readings = form.said;
  if (photometric == PHOTOMETRIC_ITULAB || photometric == PHOTOMETRIC_LOGL || photometric == PHOTOMETRIC_LOGLUV ||
      photometric == PHOTOMETRIC_CFA)
    throw unsupported(path, fmt::format("The TIFF stores its colours as {}, which Fexel does not read.",
                                        photometric == PHOTOMETRIC_CFA      ? "a colour filter's pattern"
                                        : photometric == PHOTOMETRIC_ITULAB ? "Lab of fax"
                                                                            : "logarithms of light"));
  const Colours colours = colours_of(tiff);
  if (colours != Colours::plain) {
    if (!form.native() || info.depth == Depth::f32 || info.bands != (photometric == PHOTOMETRIC_SEPARATED ? 4 : 3))
      throw unsupported(path,
                        fmt::format("The TIFF stores its colours as {} in {} bands of {}, which Fexel does not read.",
                                    name_of(colours), info.bands, name_of(info.depth)));
    if (!convertible(colours, tiff_profile(tiff)))
      throw unsupported(path, "The TIFF stores its colours as inks (CMYK), without a profile that says how they look.");
    info.converted = name_of(colours);
  }
  const char *software = nullptr, *maker = nullptr;
  std::uint64_t exif = 0;
  const bool own = TIFFGetField(tiff, TIFFTAG_SOFTWARE, &software) != 0 && software && own_name == software;
  const bool photo = TIFFGetField(tiff, TIFFTAG_EXIFIFD, &exif) != 0 ||
                     (TIFFGetField(tiff, TIFFTAG_MAKE, &maker) != 0 && maker && *maker != 0);
  take_density(info, density(tiff), photo, own);
  // Other programs put what is brightest in the picture here: only whole numbers of bits tell a sensor's range.
  if (std::uint16_t most = 0; form.native() && info.depth != Depth::f32 &&
                              TIFFGetField(tiff, TIFFTAG_MAXSAMPLEVALUE, &most) != 0 && most > 0 &&
                              most < top_of(info.depth) && (own || std::has_single_bit(most + 1U)))
    info.largest = most;
  std::uint32_t length = 0;
  void* profile = nullptr;
  if (TIFFGetField(tiff, TIFFTAG_ICCPROFILE, &length, &profile) != 0) info.profile = "embedded";
  return info;
}

}  // namespace fexel::codec
