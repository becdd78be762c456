#include "chain/motion_probe.h"

#include "text/reader.h"

namespace fexel {

MotionProbe read_motion_probe(const Json& value, const std::string& path) {
  std::vector<std::string> keys{"measure", "name", "station"};
  keys.insert(keys.end(), motion_keys().begin(), motion_keys().end());
  JsonReader in(value, path, keys);
  MotionProbe out;
  if (in.has("name")) out.name = in.text("name");
  if (in.has("station")) out.station = in.whole("station", 0, 100000);
  read_motion(in, out.settings);
  return out;
}

Json write_motion_probe(const MotionProbe& probe) {
  Json out{{"measure", "motion"}, {"name", probe.name}, {"station", probe.station}};
  write_motion(out, probe.settings);
  return out;
}

}  // namespace fexel
