#pragma once
/// JSON, built once for the whole program: including this costs little more than the library's header. Objects keep the
/// order in which they were written.
#include <nlohmann/json.hpp>
#include <string>

namespace fexel {

using Json = nlohmann::ordered_json;

/// Text to JSON. Refuses doubled keys and numbers that are not finite, by their path.
Json parse_json(const std::string& text);

/// JSON to text, on one line or (indent > 0) with a value a line. Bytes that are not UTF-8 become U+FFFD.
std::string to_text(const Json& value, int indent = -1);

}  // namespace fexel
