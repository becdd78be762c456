/// Whatever a text says, it gives a lens of the library, or a sentence.
#include <cstdlib>
#include <string>

#include "base/error.h"
#include "report/grid_chain.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  try {
    (void)fexel::lens_step_of(fexel::parse_lens(text).calibration);
  } catch (const fexel::Error& error) {
    if (error.message().empty() || error.message().back() != '.') std::abort();
  }
  return 0;
}
