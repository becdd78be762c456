#include "files/colour.h"

#include <lcms2.h>

#include <cmath>
#include <memory>

#include "base/error.h"

namespace fexel::codec {
namespace {

using Profile = std::unique_ptr<void, int (*)(void*)>;

Profile opened(const std::vector<unsigned char>& bytes) {
  cmsSetLogErrorHandler([](cmsContext, cmsUInt32Number, const char*) {});
  return {cmsOpenProfileFromMem(bytes.data(), static_cast<cmsUInt32Number>(bytes.size())), cmsCloseProfile};
}

bool is_lab(Colours colours) {
  return colours == Colours::cie_lab || colours == Colours::icc_lab;
}

/// The layout of stored pixels, as the library names it. Lab of 16 bits comes in the encoding of version 2, where a and
/// b count in 256ths.
cmsUInt32Number layout_of(Colours colours, Depth depth) {
  if (is_lab(colours)) return depth == Depth::u8 ? TYPE_Lab_8 : TYPE_LabV2_16;
  if (colours == Colours::cmyk_inverted) return depth == Depth::u8 ? TYPE_CMYK_8_REV : TYPE_CMYK_16_REV;
  return depth == Depth::u8 ? TYPE_CMYK_8 : TYPE_CMYK_16;
}

/// A sample of CIE Lab as ICC profiles store it: a and b from signed to offset, and L of 16 bits from 65535 to 65280
/// for white.
template <class T>
T as_icc(T sample, int band) {
  if (band > 0) return static_cast<T>(sample ^ (T{1} << (8 * sizeof(T) - 1)));
  if constexpr (sizeof(T) == 2) return static_cast<T>(std::lround(sample * 65280.0 / 65535.0));
  return sample;
}

using Transform = std::unique_ptr<void, void (*)(void*)>;

/// To sRGB; nothing where the profile is no such thing. Not cached, so that all threads may use it; not through a
/// table, which is a few levels off.
Transform transform_of(Colours colours, Depth depth, const std::vector<unsigned char>& profile) {
  const Profile from = is_lab(colours) ? Profile{cmsCreateLab2Profile(nullptr), cmsCloseProfile} : opened(profile);
  const Profile to{cmsCreate_sRGBProfile(), cmsCloseProfile};
  if (!from || !to) return {nullptr, cmsDeleteTransform};
  return {
      cmsCreateTransform(from.get(), layout_of(colours, depth), to.get(), depth == Depth::u8 ? TYPE_RGB_8 : TYPE_RGB_16,
                         INTENT_RELATIVE_COLORIMETRIC, cmsFLAGS_NOCACHE | cmsFLAGS_NOOPTIMIZE),
      cmsDeleteTransform};
}

}  // namespace

std::string name_of(Colours colours) {
  return colours == Colours::plain ? std::string() : is_lab(colours) ? "Lab" : "CMYK";
}

bool convertible(Colours colours, const std::vector<unsigned char>& profile) {
  if (is_lab(colours)) return true;
  if (colours == Colours::plain || profile.empty()) return false;
  const Profile inks = opened(profile);
  return inks && cmsGetColorSpace(inks.get()) == cmsSigCmykData &&
         cmsIsIntentSupported(inks.get(), INTENT_RELATIVE_COLORIMETRIC, LCMS_USED_AS_INPUT) != 0 &&
         transform_of(colours, Depth::u8, profile) != nullptr;
}

Image to_srgb(const Image& stored, Colours colours, const std::vector<unsigned char>& profile, const Job& job) {
  const Depth depth = stored.depth();
  const Transform transform = transform_of(colours, depth, profile);
  if (!transform)
    throw input_error("The colour profile of the file cannot be used.", {}, "Save it as RGB with another program.");
  Image out(stored.width(), stored.height(), 3, depth, Image::Start::unset);
  const auto bands = static_cast<std::size_t>(is_lab(colours) ? 3 : 4);
  parallel_for(stored.height(), job, [&](int y) {
    const auto row = [&]<class T>(T) {
      const auto width = static_cast<std::size_t>(stored.width());
      std::vector<T> pixels(width * bands), rgb(width * 3);
      for (std::size_t band = 0; band < bands; ++band) {
        const T* in = stored.row<T>(static_cast<int>(band), y);
        for (std::size_t x = 0; x < width; ++x)
          pixels[x * bands + band] = colours == Colours::cie_lab ? as_icc(in[x], static_cast<int>(band)) : in[x];
      }
      cmsDoTransform(transform.get(), pixels.data(), rgb.data(), static_cast<cmsUInt32Number>(width));
      for (std::size_t band = 0; band < 3; ++band) {
        T* to_row = out.row<T>(static_cast<int>(band), y);
        for (std::size_t x = 0; x < width; ++x) to_row[x] = rgb[x * 3 + band];
      }
    };
    if (depth == Depth::u8)
      row(std::uint8_t{});
    else
      row(std::uint16_t{});
  });
  copy_mask(stored, out);
  return out;
}

std::vector<unsigned char> srgb_profile() {
  const Profile made{cmsCreate_sRGBProfile(), cmsCloseProfile};
  cmsUInt32Number size = 0;
  if (!made || cmsSaveProfileToMem(made.get(), nullptr, &size) == 0) return {};
  std::vector<unsigned char> bytes(size);
  return cmsSaveProfileToMem(made.get(), bytes.data(), &size) != 0 ? bytes : std::vector<unsigned char>{};
}

}  // namespace fexel::codec
