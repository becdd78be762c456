#include "measurements/count.h"

#include "text/reader.h"

namespace fexel {

std::optional<Quantity> value_of(const CountMeasurement&, const MeasurementInput& input) {
  return Quantity{static_cast<double>(input.points.size()), ""};
}

void read_measurement(JsonReader& in, CountMeasurement& count) {
  if (in.has("class")) count.of_class = in.text("class");
}

void write_measurement(Json& out, const CountMeasurement& count) {
  if (!count.of_class.empty()) out["class"] = count.of_class;
}

std::vector<OutlinePart> drawn_of(const CountMeasurement&, std::span<const Point> outline) {
  std::vector<OutlinePart> out;
  for (const Point p : outline) out.push_back({{p}, false});
  return out;
}

}  // namespace fexel
