/// Whatever a text says, it is the head of a result of movement, or a sentence; and one that is read is written in
/// bounds.
#include <cstdlib>
#include <string>

#include "base/error.h"
#include "motion_run/motion_result.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  try {
    const fexel::MotionResultHead head = fexel::parse_motion_head(text);
    fexel::check_motion(head.probe.settings);
    if (head.grid.columns < 1 || head.grid.rows < 1 || head.size.width < 1) std::abort();
  } catch (const fexel::Error& error) {
    if (error.message().empty() || error.message().back() != '.') std::abort();
  }
  return 0;
}
