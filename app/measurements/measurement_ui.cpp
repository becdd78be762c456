#include "app/measurements/measurement_ui.h"

#include <algorithm>

#include "app/ui/language.h"
#include "base/error.h"

// All kinds in the order of the menu: each has a file of this name in this folder.
#define FEXEL_MEASUREMENTS(X) \
  X(length) X(path) X(angle) X(circle) X(rectangle) X(ellipse) X(polygon) X(profile) X(point) X(count)

namespace fexel {

#define FEXEL_DECLARE(name) const MeasurementUi& name##_measurement_ui();
FEXEL_MEASUREMENTS(FEXEL_DECLARE)
#undef FEXEL_DECLARE

const std::vector<const MeasurementUi*>& measurement_uis() {
#define FEXEL_LIST(name) &name##_measurement_ui(),
  struct All {
    std::vector<const MeasurementUi*> list = {FEXEL_MEASUREMENTS(FEXEL_LIST)};
  };
#undef FEXEL_LIST
  return made_in_language<All>().list;
}

const MeasurementUi& ui_of_measurement(const std::string& word) {
  const auto at = std::ranges::find_if(measurement_uis(), [&](const MeasurementUi* ui) { return word == ui->word(); });
  if (at == measurement_uis().end())
    throw call_error("The window does not know the measurement \"" + word + "\".", "measure", {});
  return **at;
}

const MeasurementUi& ui_of(const MeasurementKind& kind) {
  return ui_of_measurement(word_of(kind));
}

}  // namespace fexel
