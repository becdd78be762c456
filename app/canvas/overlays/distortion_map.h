#pragma once
/// Maps of what a rectification costs, laid over a picture, with their legend.
#include <QColor>
#include <functional>
#include <optional>

#include "app/canvas/drawing.h"
#include "app/document/document.h"
#include "fit/coverage.h"
#include "quality/distortion_maps.h"

class QPainter;

namespace fexel {

/// detail: source pixels behind a result pixel; picking: movement by a pixel of picking error; height: how far a thing
/// one unit off the plane is shown from its place. pairs: standard uncertainty of a point that a fit carries.
enum class DistortionMap { none, detail, picking, height, pairs };

/// A colour of the sequential scale, 0 dark to 1 light: even steps of lightness in CIELAB, from indigo over teal to
/// yellow.
QColor scale_colour(double share);

/// One map at one station. Numbers are in the station's unit where it has one.
class DistortionLayer {
 public:
  /// Nothing where the station has no such map; `why` then says so.
  static std::optional<DistortionLayer> of(DistortionMap map, const Document& document, int station, QString* why);
  std::optional<double> at(Point p) const;
  const QString& unit() const { return unit_; }
  /// Places of the station where further pairs would help most.
  const std::vector<Point>& helpful() const { return helpful_; }
  /// Lays the map over `visible` (widget) and gives its legend. `to_station` carries widget points to the station.
  drawing::Legend paint(QPainter& painter, const QRectF& visible,
                        const std::function<QPointF(QPointF)>& to_station) const;

 private:
  void paint_coverage(QPainter& painter, const QRectF& visible, QSize grid, const std::vector<double>& values,
                      std::pair<double, double> range, const std::function<QPointF(QPointF)>& to_station) const;
  DistortionMap map_;
  Layout layout_;
  int station_ = 0;
  Size size_;
  double pixel_ = 1;  ///< the unit's length of a pixel
  QString unit_, says_;
  std::optional<PickingUncertainty> picking_;
  std::optional<PlaneCamera> camera_;
  std::shared_ptr<const Coverage> coverage_;
  Map to_pairs_;  ///< from the station to the one that the fit gets
  std::vector<Point> helpful_;
};

}  // namespace fexel
