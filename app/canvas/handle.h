#pragma once
/// Points on a picture that can be dragged.
#include <QPointF>
#include <QString>

#include "geometry/map.h"

namespace fexel {

/// A point that can be dragged: one of the selected step's, of a measurement, of the selected mask's, or of a mark.
struct Handle {
  enum class Kind { step, result, measurement, mask, mark };
  Kind kind;
  int owner;   ///< step, measurement, mask or mark
  int index;   ///< of the owner's points; behind the last one, the middle that moves all of them
  QPointF at;  ///< in the view's station
  QString name = {};
  bool of_step() const { return kind == Kind::step || kind == Kind::result; }
  bool operator==(const Handle& o) const { return kind == o.kind && owner == o.owner && index == o.index; }
};

inline QPointF point_of(Point p) {
  return {p.x, p.y};
}
inline Point point_of(QPointF p) {
  return {p.x(), p.y()};
}

}  // namespace fexel
