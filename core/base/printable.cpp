#include "base/printable.h"

#include <fmt/format.h>

namespace fexel {
namespace {

/// The bytes of the character that begins here; 0 where none does.
std::size_t character_at(std::string_view text, std::size_t at) {
  const auto byte = [&](std::size_t i) { return at + i < text.size() ? static_cast<unsigned char>(text[at + i]) : 0U; };
  const unsigned first = byte(0);
  if (first < 0x80) return 1;
  const std::size_t length = first >= 0xf0 && first <= 0xf4  ? 4
                             : first >= 0xe0 && first < 0xf0 ? 3
                             : first >= 0xc2 && first < 0xe0 ? 2
                                                             : 0;
  for (std::size_t i = 1; i < length; ++i)
    if ((byte(i) & 0xc0) != 0x80) return 0;
  // Longer than needed, halves of pairs, and what is beyond the last character.
  if ((first == 0xe0 && byte(1) < 0xa0) || (first == 0xed && byte(1) > 0x9f) || (first == 0xf0 && byte(1) < 0x90) ||
      (first == 0xf4 && byte(1) > 0x8f))
    return 0;
  return length;
}

}  // namespace

bool is_utf8(std::string_view text) {
  for (std::size_t at = 0; at < text.size();) {
    const std::size_t length = character_at(text, at);
    if (length == 0) return false;
    at += length;
  }
  return true;
}

std::string printable(std::string_view text, std::size_t most) {
  std::string out;
  for (std::size_t at = 0; at < text.size();) {
    if (out.size() >= most) return out + "…";
    const std::size_t length = character_at(text, at);
    const auto first = static_cast<unsigned char>(text[at]);
    const bool control = length == 1 ? first < 0x20 || first == 0x7f
                                     : length == 2 && first == 0xc2 && static_cast<unsigned char>(text[at + 1]) < 0xa0;
    if (length == 0 || control) {
      for (std::size_t i = 0; i < std::max<std::size_t>(length, 1); ++i)
        out += fmt::format("\\x{:02x}", static_cast<unsigned char>(text[at + i]));
    } else {
      out += text.substr(at, length);
    }
    at += std::max<std::size_t>(length, 1);
  }
  return out;
}

}  // namespace fexel
