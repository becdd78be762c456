/// Whatever two texts say, they give one table that is itself again when it is joined alone, or a sentence.
#include <cstdlib>
#include <string>

#include "base/error.h"
#include "run/measure_run.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  // Two tables, apart by a zero byte where there is one.
  const auto apart = text.find('\0');
  const std::string first = text.substr(0, apart), second = apart == std::string::npos ? first : text.substr(apart + 1);
  try {
    const std::string joined = fexel::joined_measurements({first, second});
    if (fexel::joined_measurements({joined}) != joined) std::abort();
  } catch (const fexel::Error& error) {
    if (error.message().empty() || error.message().back() != '.') std::abort();
  }
  return 0;
}
