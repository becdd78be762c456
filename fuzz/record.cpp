/// Whatever a record's text says, the parser gives a record, or a sentence.
#include <cstdlib>
#include <string>

#include "base/error.h"
#include "run/record.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  try {
    fexel::parse_record(std::string(reinterpret_cast<const char*>(data), size));
  } catch (const fexel::Error& error) {
    if (error.message().empty() || error.message().back() != '.') std::abort();
  }
  return 0;
}
