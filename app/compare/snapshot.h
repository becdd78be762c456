#pragma once
/// A station as it was at one moment, kept to be laid beside or over others: not its pixels, but all that makes them.
#include <QString>
#include <memory>

#include "chain/evaluate.h"
#include "image/pyramid.h"

namespace fexel {

struct Snapshot {
  Layout layout;
  Resampling resampling;
  int station = 0;
  std::shared_ptr<const Pyramid> source;
  std::shared_ptr<const RunPictures> pictures;  ///< where a step has made its pixels from all of them
  QString name;
  bool in_b = false;  ///< it is shown instead of what B shows, and not of A
  /// Where it is the reference of a fit step, and no station.
  struct Reference {
    int step;
    double scale;  ///< pixels of the step's result for one of it
  };
  std::optional<Reference> reference = {};
  std::optional<std::pair<double, double>> range = {};  ///< of a reference's floating-point samples

  const Station& shown() const { return layout.stations[static_cast<std::size_t>(station)]; }
};

}  // namespace fexel
