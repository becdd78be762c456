/// Whatever a text says, it gives a style that is written and read again as the same, or a sentence.
#include <cstdlib>
#include <string>

#include "base/error.h"
#include "report/styles.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  try {
    const fexel::MarkStyle style = fexel::parse_style(text);
    if (!(fexel::read_style(fexel::style_json(style), "", true) == style)) std::abort();
  } catch (const fexel::Error& error) {
    if (error.message().empty() || error.message().back() != '.') std::abort();
  }
  return 0;
}
