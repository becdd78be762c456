/// Whatever a table says, it gives pairs that are finite and can be tried under every model, or a sentence.
#include <cmath>
#include <cstdlib>

#include "base/error.h"
#include "fit/model_choice.h"
#include "fit/pairs_csv.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  try {
    const auto pairs = fexel::pairs_from_csv(text, 0.5);
    for (const fexel::PointPair& pair : pairs)
      if (!std::isfinite(pair.from.x + pair.from.y + pair.to.x + pair.to.y)) std::abort();
    if (pairs.size() < 50) (void)fexel::suggested_model(fexel::try_models(pairs, true));
  } catch (const fexel::Error& error) {
    if (error.message().empty() || error.message().back() != '.') std::abort();
  }
  return 0;
}
