#include "chain/chain.h"

namespace fexel {

const std::vector<std::string>& time_units() {
  static const std::vector<std::string> units{"us", "ms", "s", "min", "h", "d"};
  return units;
}

}  // namespace fexel
