/// What a hand lays on a picture: gauges, lines and corners that a page asked for, and corners of masks.
#include "app/canvas/canvas_overlay.h"
#include "app/canvas/picture_view.h"
#include "app/ui/text.h"

namespace fexel {

void PictureView::begin_line(const QString& hint, int to, std::function<void(Point, Point)> take) {
  begin_gauge();
  line_hint_ = hint;
  line_station_ = to;
  take_line_ = std::move(take);
}

void PictureView::begin_corners(const QString& hint, int to, TakePoints take) {
  begin_gauge();
  line_hint_ = hint;
  line_station_ = to;
  take_corners_ = std::move(take);
}

void PictureView::end_asking() {
  laying_gauge_ = false;
  take_line_ = {};
  take_corners_ = {};
  corners_.clear();
  unsetCursor();
  redraw();
}

void PictureView::close_corners() {
  const auto take = std::exchange(take_corners_, {});
  QPolygonF corners = std::exchange(corners_, {});
  laying_gauge_ = false;
  unsetCursor();
  redraw();
  Q_EMIT answered();
  std::vector<Point> points;
  for (const QPointF& p : corners) {
    const Carried c = carry(document_.layout(), point_of(p), station(), line_station_);
    if (c.status == CarryStatus::beyond_horizon) return;
    if (points.empty() || distance(points.back(), c.point) > 1e-9) points.push_back(c.point);
  }
  if (points.size() >= 3 && take) take(points);
}

bool PictureView::remove_handle(const Handle& handle) {
  if (handle.of_step()) return false;
  if (handle.kind == Handle::Kind::gauge_end) {
    document_.remove_gauge(handle.owner);
    return true;
  }
  Mask mask = document_.chain().masks[static_cast<std::size_t>(handle.owner)];
  const bool corner = mask.shape == Mask::Shape::polygon && handle.index < static_cast<int>(mask.points.size());
  if (corner && mask.points.size() > 3) {
    mask.points.erase(mask.points.begin() + handle.index);
    document_.change_mask(handle.owner, mask);
  } else {
    document_.remove_mask(handle.owner);
  }
  return true;
}

bool PictureView::shows_masks() const {
  if (document_.state().selected == 0) return true;
  const int step = document_.selected_step();
  return step >= 0 && std::holds_alternative<AlignStep>(document_.chain().steps[static_cast<std::size_t>(step)].kind);
}

void PictureView::begin_gauge() {
  take_line_ = {};
  take_corners_ = {};
  corners_.clear();
  line_hint_.clear();
  laying_gauge_ = true;
  setFocus();
  setCursor(Qt::CrossCursor);
  redraw();
}

void PictureView::lay_gauge(QPointF from, QPointF to) {
  laying_gauge_ = false;
  unsetCursor();
  Q_EMIT answered();
  if (std::hypot(from.x() - to.x(), from.y() - to.y()) * zoom_ < 4) {
    redraw();
    return;
  }
  if (take_line_) {
    const Carried a = carry(document_.layout(), point_of(from), station(), line_station_),
                  b = carry(document_.layout(), point_of(to), station(), line_station_);
    const auto take = std::exchange(take_line_, {});
    if (a.status != CarryStatus::beyond_horizon && b.status != CarryStatus::beyond_horizon) take(a.point, b.point);
    redraw();
    return;
  }
  Gauge gauge;
  gauge.name = tr("gauge %1").arg(document_.chain().gauges.size() + 1).toStdString();
  gauge.station = station();
  gauge.from = point_of(from);
  gauge.to = point_of(to);
  gauge.picking = {placed_to(from, 0), placed_to(to, 0)};
  for (const Station& s : document_.layout().stations)
    if (s.pixel) gauge.unit = s.pixel->unit;
  document_.add_gauge(gauge);
  selected_ = Handle{Handle::Kind::gauge_end, static_cast<int>(document_.chain().gauges.size()) - 1, 1, to};
  rebuild_handles();
}

bool PictureView::set_mask_corner(QPointF at_widget) {
  const int m = document_.selected_mask();
  if (m >= 0 && shows_masks() && !handle_near(at_widget)) {
    Mask mask = document_.chain().masks[static_cast<std::size_t>(m)];
    const auto count = mask.points.size();
    for (std::size_t i = 0; mask.shape == Mask::Shape::polygon && i < count; ++i) {
      const Carried a = carry(document_.layout(), mask.points[i], 0, station()),
                    b = carry(document_.layout(), mask.points[(i + 1) % count], 0, station());
      const QPointF p = to_widget(point_of(a.point)), d = to_widget(point_of(b.point)) - p;
      const double squared = QPointF::dotProduct(d, d);
      if (squared < 1e-9) continue;
      const double t = std::clamp(QPointF::dotProduct(at_widget - p, d) / squared, 0.0, 1.0);
      if (QLineF(p + t * d, at_widget).length() > overlay::handle_reach) continue;
      const Carried c = carry(document_.layout(), point_of(to_station(p + t * d)), station(), 0);
      mask.points.insert(mask.points.begin() + static_cast<std::ptrdiff_t>(i) + 1, c.point);
      document_.change_mask(m, mask);
      return true;
    }
  }
  return false;
}

}  // namespace fexel
