/// Whatever a text says, it gives a journal that is written and read again as the same, or a sentence.
#include <cstdlib>
#include <string>

#include "base/error.h"
#include "batch/journal.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  try {
    const std::string written = fexel::write_journal(fexel::parse_journal(text));
    if (fexel::write_journal(fexel::parse_journal(written)) != written) std::abort();
  } catch (const fexel::Error& error) {
    if (error.message().empty() || error.message().back() != '.') std::abort();
  }
  return 0;
}
