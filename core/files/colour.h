#pragma once
/// Colours that files store otherwise than as grey or RGB, and how they become sRGB. The only place beside `metadata`
/// that knows the library of profiles.
#include <string>
#include <vector>

#include "base/job.h"
#include "image/image.h"

namespace fexel::codec {

/// How colours are stored. Lab is that of CIE with the white of D50: with signed a and b (cie_lab), or as ICC profiles
/// do (icc_lab).
enum class Colours { plain, cmyk, cmyk_inverted, cie_lab, icc_lab };

/// "CMYK", "Lab", or empty for plain ones.
std::string name_of(Colours colours);
/// Whether they have a meaning: Lab always has, inks by a profile of theirs alone.
bool convertible(Colours colours, const std::vector<unsigned char>& profile);
/// Bands of such colours become red, green and blue of sRGB, of the same depth, relative to the white of the medium
/// (relative colorimetric, IEC 61966-2-1). The mask goes along. Needs what convertible() accepts.
Image to_srgb(const Image& stored, Colours colours, const std::vector<unsigned char>& profile, const Job& job);
/// The ICC profile of sRGB.
std::vector<unsigned char> srgb_profile();

}  // namespace fexel::codec
