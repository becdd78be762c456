#include "files/tiff_samples.h"

#include <bit>
#include <cstring>

namespace fexel::codec {
namespace {

/// Whole numbers of any count of bits, the highest bit first; those of whole bytes in the order of this machine, which
/// the library has put them in.
std::uint64_t whole_at(const std::byte* row, std::size_t index, int bits) {
  if (bits == 8) return static_cast<std::uint8_t>(row[index]);
  if (bits == 16 || bits == 32 || bits == 64) {
    std::uint64_t value = 0;
    if (bits == 16) {
      std::uint16_t v = 0;
      std::memcpy(&v, row + 2 * index, 2);
      value = v;
    } else if (bits == 32) {
      std::uint32_t v = 0;
      std::memcpy(&v, row + 4 * index, 4);
      value = v;
    } else {
      std::memcpy(&value, row + 8 * index, 8);
    }
    return value;
  }
  if (bits == 24) {
    // Put into the order of this machine as a whole, too.
    const std::byte* at = row + 3 * index;
    const auto byte = [&](int i) { return static_cast<std::uint64_t>(at[i]); };
    return std::endian::native == std::endian::little ? byte(0) | byte(1) << 8 | byte(2) << 16
                                                      : byte(2) | byte(1) << 8 | byte(0) << 16;
  }
  std::uint64_t value = 0;
  const std::size_t first = index * static_cast<std::size_t>(bits);
  for (std::size_t bit = first; bit < first + static_cast<std::size_t>(bits);) {
    const auto inside = static_cast<int>(bit % 8);
    const int take = std::min<int>(8 - inside, static_cast<int>(first + static_cast<std::size_t>(bits) - bit));
    const unsigned byte = static_cast<std::uint8_t>(row[bit / 8]);
    value = value << take | (byte >> (8 - inside - take) & ((1U << take) - 1));
    bit += static_cast<std::size_t>(take);
  }
  return value;
}

/// IEEE 754 (2019), formats binary16, binary32 and binary64; 24 bits as in Technical Note 3.
double floating_of(std::uint64_t value, int bits) {
  if (bits == 64) return std::bit_cast<double>(value);
  if (bits == 32) return static_cast<double>(std::bit_cast<float>(static_cast<std::uint32_t>(value)));
  const int places = bits == 16 ? 10 : 16, most = bits == 16 ? 31 : 127;
  const int bias = bits == 16 ? 15 : 63;
  const bool negative = (value >> (bits - 1) & 1) != 0;
  const auto exponent = static_cast<int>(value >> places & static_cast<std::uint64_t>(most));
  const auto fraction = static_cast<double>(value & ((std::uint64_t{1} << places) - 1)) / std::exp2(places);
  double out = 0;
  if (exponent == most)
    out = fraction == 0 ? std::numeric_limits<double>::infinity() : std::numeric_limits<double>::quiet_NaN();
  else
    out = exponent == 0 ? fraction * std::exp2(1 - bias) : (1 + fraction) * std::exp2(exponent - bias);
  return negative ? -out : out;
}

/// Whole numbers below 16 bits go into 8 or 16; those that divide the range of 8 bits are spread over it.
int factor_of(const SampleForm& form) {
  if (form.kind != SampleForm::Kind::whole || form.bits >= 8 || !form.palette.empty()) return 1;
  const int top = (1 << form.bits) - 1;
  return 255 % top == 0 ? 255 / top : 1;
}

void read_palette(const fs::path& path, TIFF* tiff, SampleForm& form) {
  std::uint16_t *red = nullptr, *green = nullptr, *blue = nullptr;
  if (form.bits > 16 || TIFFGetField(tiff, TIFFTAG_COLORMAP, &red, &green, &blue) == 0 || !red || !green || !blue)
    throw unsupported(path, "The TIFF stores its colours as a palette, which is not there.");
  const std::size_t count = std::size_t{1} << form.bits;
  bool grey = true, wide = false, bytes = true;
  for (std::size_t i = 0; i < count; ++i) {
    form.palette.push_back({red[i], green[i], blue[i]});
    for (const unsigned value : form.palette.back()) {
      wide = wide || value > 255;
      bytes = bytes && value % 257 == 0;
    }
    grey = grey && red[i] == green[i] && green[i] == blue[i];
  }
  // Some programs write bytes where the format has 16 bits.
  if (wide && bytes)
    for (auto& colour : form.palette)
      for (auto& value : colour) value = static_cast<std::uint16_t>(value / 257);
  form.depth = !wide || bytes ? Depth::u8 : Depth::u16;
  form.given = grey ? 1 : 3;
  form.said.push_back(fmt::format("Its samples are indices into a palette of {} colours; they are read as {}.", count,
                                  grey ? "grey" : "red, green and blue"));
}

void choose_depth(const fs::path& path, SampleForm& form) {
  using Kind = SampleForm::Kind;
  const int bits = form.bits;
  if (form.kind == Kind::floating) {
    if (bits != 16 && bits != 24 && bits != 32 && bits != 64)
      throw unsupported(path, fmt::format("The TIFF has floating-point samples of {} bits.", bits));
    form.depth = Depth::f32;
    if (bits == 16 || bits == 24)
      form.said.push_back(fmt::format("Its {}-bit floating-point samples are read as 32-bit ones, unchanged.", bits));
    if (bits == 64)
      form.said.emplace_back(
          "Its 64-bit floating-point samples are rounded to 32 bits, which have 7 digits; what is larger than 3.4e38 "
          "is empty.");
    return;
  }
  if (form.kind == Kind::whole && bits >= 1 && bits <= 16) {
    form.depth = bits <= 8 ? Depth::u8 : Depth::u16;
    const int top = (1 << bits) - 1, factor = factor_of(form);
    if (factor == 1 && top != top_of(form.depth)) form.largest = top;
    if (bits == 1)
      form.said.emplace_back("Its 1-bit samples are read as 0 and 255.");
    else if (factor > 1)
      form.said.push_back(fmt::format("Its {}-bit samples are read times {}, from 0 to 255.", bits, factor));
    else if (bits != 8 && bits != 16)
      form.said.push_back(
          fmt::format("Its {}-bit samples are read as {}-bit ones from 0 to {}.", bits, bits < 8 ? 8 : 16, top));
    return;
  }
  const bool known = form.kind == Kind::signed_whole ? bits == 8 || bits == 16 || bits == 24 || bits == 32 || bits == 64
                                                     : bits == 24 || bits == 32 || bits == 64;
  if (!known)
    throw unsupported(path, fmt::format("The TIFF has {}-bit samples{}, which Fexel does not read.", bits,
                                        form.kind == Kind::signed_whole ? " with a sign" : ""));
  form.depth = Depth::f32;
  form.said.push_back(fmt::format("Its {}-bit samples{} are read as 32-bit floating-point ones{}.", bits,
                                  form.kind == Kind::signed_whole ? " with a sign" : "",
                                  bits <= 24 ? ", unchanged" : "; numbers beyond 16,777,216 are rounded"));
}

}  // namespace

bool SampleForm::native() const {
  return !inverted && palette.empty() && !by_library &&
         ((kind == Kind::whole && (bits == 8 || bits == 16)) || (kind == Kind::floating && bits == 32));
}

double SampleForm::full() const {
  if (kind == Kind::floating) return 1;
  if (bits <= 8 && factor_of(*this) > 1) return 255;
  return std::exp2(kind == Kind::signed_whole ? bits - 1 : bits) - 1;
}

SampleForm sample_form(const fs::path& path, TIFF* tiff) {
  SampleForm form;
  std::uint16_t bits = 1, kind = SAMPLEFORMAT_UINT, photometric = PHOTOMETRIC_MINISBLACK, bands = 1,
                compression = COMPRESSION_NONE;
  TIFFGetFieldDefaulted(tiff, TIFFTAG_BITSPERSAMPLE, &bits);
  TIFFGetFieldDefaulted(tiff, TIFFTAG_SAMPLEFORMAT, &kind);
  TIFFGetFieldDefaulted(tiff, TIFFTAG_SAMPLESPERPIXEL, &bands);
  TIFFGetFieldDefaulted(tiff, TIFFTAG_COMPRESSION, &compression);
  TIFFGetField(tiff, TIFFTAG_PHOTOMETRIC, &photometric);
  form.bits = bits;
  if (kind == SAMPLEFORMAT_INT)
    form.kind = SampleForm::Kind::signed_whole;
  else if (kind == SAMPLEFORMAT_IEEEFP)
    form.kind = SampleForm::Kind::floating;
  else if (kind != SAMPLEFORMAT_UINT && kind != SAMPLEFORMAT_VOID)
    throw unsupported(path, "The TIFF has samples of complex numbers, which Fexel does not read.");
  if (bits < 1 || bits > 64) throw broken(path, fmt::format("The TIFF says that its samples have {} bits.", bits));
  if (photometric == PHOTOMETRIC_PALETTE) {
    if (form.kind != SampleForm::Kind::whole || bands != 1)
      throw unsupported(path, "The TIFF stores its colours as a palette beside other samples.");
    read_palette(path, tiff, form);
    return form;
  }
  choose_depth(path, form);
  if (photometric == PHOTOMETRIC_MINISWHITE) {
    if (form.kind != SampleForm::Kind::whole || bits > 16)
      throw unsupported(path, "The TIFF stores white as zero in numbers that have no largest one.");
    form.inverted = true;
    form.said.emplace_back("It stores white as 0; its samples are turned round, so that black is 0.");
  }
  if (photometric == PHOTOMETRIC_YCBCR) {
    if (form.kind != SampleForm::Kind::whole || bits != 8 || bands != 3)
      throw unsupported(path, "The TIFF stores its colours as YCbCr otherwise than in three bands of 8 bits.");
    form.by_library = compression != COMPRESSION_JPEG;
    // The library takes such tiles for damaged.
    if (compression == COMPRESSION_NONE && TIFFIsTiled(tiff) != 0)
      throw unsupported(path, "The TIFF stores its colours as YCbCr in tiles that are not compressed.");
    form.said.emplace_back("Its colours are stored as YCbCr; they are read as red, green and blue.");
  }
  return form;
}

void unpack(const SampleForm& form, const std::byte* row, std::size_t samples, std::byte* to) {
  const int factor = factor_of(form);
  const std::uint64_t mask = form.bits == 64 ? ~std::uint64_t{0} : (std::uint64_t{1} << form.bits) - 1;
  visit_depth(form.depth, [&](auto sample) {
    using T = decltype(sample);
    auto* out = reinterpret_cast<T*>(to);
    for (std::size_t i = 0; i < samples; ++i) {
      std::uint64_t value = whole_at(row, i, form.bits);
      if (!form.palette.empty()) {
        for (int band = 0; band < form.given; ++band)
          *out++ = static_cast<T>(form.palette[value][static_cast<std::size_t>(band)]);
        continue;
      }
      if (form.inverted) value = mask - value;
      if (form.kind == SampleForm::Kind::whole) {
        *out++ = static_cast<T>(value * static_cast<std::uint64_t>(factor));
      } else if (form.kind == SampleForm::Kind::signed_whole) {
        const std::uint64_t sign = std::uint64_t{1} << (form.bits - 1);
        *out++ = static_cast<T>(static_cast<std::int64_t>((value ^ sign) - sign));
      } else {
        *out++ = static_cast<T>(floating_of(value, form.bits));
      }
    }
  });
}

}  // namespace fexel::codec
