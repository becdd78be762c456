/// Whatever a text says, it gives a calibration that is written and read again as the same, or a sentence.
#include <cstdlib>
#include <string>

#include "base/error.h"
#include "chain/calibrations.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  try {
    const fexel::Calibration calibration = fexel::parse_calibration(text);
    if (!(fexel::read_calibration(fexel::calibration_json(calibration), "") == calibration)) std::abort();
    (void)fexel::unfit_for(calibration, {640, 480});
  } catch (const fexel::Error& error) {
    if (error.message().empty() || error.message().back() != '.') std::abort();
  }
  return 0;
}
