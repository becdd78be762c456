#pragma once
/// Text of unknown origin, made fit for a terminal.
#include <cstddef>
#include <string>
#include <string_view>

namespace fexel {

/// Control characters and bytes that are not UTF-8 become \xNN; what is longer than `most` bytes is cut, with "…".
std::string printable(std::string_view text, std::size_t most = 4096);
/// Whether all of it is UTF-8 (RFC 3629).
bool is_utf8(std::string_view text);

}  // namespace fexel
