#pragma once
/// How much of a shared machine other guests have taken: runs with much of it say little.
#include <unistd.h>

#include <array>
#include <fstream>
#include <string>

namespace fexel {

/// Seconds, since the system started, for which the cores were held back for others.
inline double stolen_seconds() {
  std::ifstream stat("/proc/stat");
  std::string word;
  std::array<long, 8> ticks{};
  stat >> word;
  for (long& tick : ticks) stat >> tick;
  return static_cast<double>(ticks[7]) / static_cast<double>(::sysconf(_SC_CLK_TCK));
}

}  // namespace fexel
