/// Whatever a text says, the parser gives a chain that it writes and reads again as the same, or a sentence.
#include <cstdlib>
#include <string>

#include "base/error.h"
#include "chain/layout.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  try {
    const fexel::Chain chain = fexel::parse_chain(text);
    if (!(fexel::parse_chain(fexel::write_chain(chain)) == chain)) std::abort();
    const fexel::Layout layout = fexel::lay_out(chain, {{640, 480}, 3, fexel::Depth::u8, {}});
    if (layout.stations.size() != chain.steps.size() + 1) std::abort();
  } catch (const fexel::Error& error) {
    if (error.message().empty() || error.message().back() != '.') std::abort();
  }
  return 0;
}
