/// Handles, tools, mouse and keyboard of a picture view.
#include "app/canvas/drawing.h"
#include "app/canvas/picture_view.h"
#include "app/measurements/measurement_ui.h"
#include "app/measurements/snapping.h"

namespace fexel {

void PictureView::rebuild_handles() {
  handles_.clear();
  if (!document_.source() || (shows_snapshot() && !reference())) return;
  for (const auto& overlay : overlays_)
    if (!reference() || overlay->on_reference()) overlay->add_handles(handles_);
  if (!selected_) return;
  const auto at = std::ranges::find(handles_, *selected_);
  if (at == handles_.end())
    selected_.reset();
  else
    selected_ = *at;
}

Overlay& PictureView::overlay_of(const Handle& handle) const {
  return **std::ranges::find_if(overlays_, [&](const auto& overlay) { return overlay->owns(handle); });
}

std::optional<QPolygonF> PictureView::measurement_points(int index) const {
  const Measurement& measurement = document_.chain().measurements[static_cast<std::size_t>(index)];
  QPolygonF out;
  for (const Point p : measurement.points) {
    const Carried c = carry(document_.layout(), p, measurement.station, station());
    if (c.status == CarryStatus::beyond_horizon) return std::nullopt;
    out << point_of(c.point);
  }
  return out;
}

int PictureView::measurement_near(QPointF widget) const {
  constexpr double near = 6;
  for (int m = 0; m < static_cast<int>(document_.chain().measurements.size()); ++m) {
    const auto points = measurement_points(m);
    if (!points) continue;
    for (int i = 0; i < points->size(); ++i) {
      const QLineF side(to_widget((*points)[i]), to_widget((*points)[std::min<qsizetype>(i + 1, points->size() - 1)]));
      if (QLineF(drawing::nearest_on(side, widget), widget).length() < near) return m;
    }
  }
  return -1;
}

void PictureView::select_handle(const Handle& handle) {
  selected_ = handle;
  document_.end_merging();
  overlay_of(handle).select(handle);
  redraw();
}

std::optional<Handle> PictureView::handle_near(QPointF widget) const {
  std::optional<Handle> best;
  double least = drawing::handle_reach;
  for (const Handle& handle : handles_) {
    const QPointF d = to_widget(handle.at) - widget;
    const double away = std::hypot(d.x(), d.y());
    if (away < least) {
      least = away;
      best = handle;
    }
  }
  return best;
}

double PictureView::placed_to(QPointF at, int there) const {
  const Map map = map_between(document_.layout(), station(), there);
  const double scale = map.scale_at(point_of(at)).value_or(1);
  return std::max(picking_by_hand, rounded_to(0.5 / (zoom_ * devicePixelRatioF()) * scale, 2));
}

QPointF PictureView::clicked(QPointF widget) {
  const QPointF at = to_station(widget);
  if (!(QGuiApplication::keyboardModifiers() & Qt::ControlModifier) || !document_.source()) return at;
  const auto snapped = snapped_place(StationPixels(document_), station(), point_of(at),
                                     std::clamp(10 / (zoom_ * devicePixelRatioF()), 4.0, 24.0), {});
  if (!snapped) return at;
  snaps_.emplace_back(point_of(snapped->first), snapped->second);
  return snaps_.back().first;
}

void PictureView::move_handle(const Handle& handle, QPointF to) {
  overlay_of(handle).move(handle, to);
}

bool PictureView::remove_handle(const Handle& handle) {
  return overlay_of(handle).remove(handle);
}

void PictureView::use(std::unique_ptr<Tool> tool) {
  snaps_.clear();
  wanted_ = std::move(tool);
  setFocus();
  setCursor(Qt::CrossCursor);
  redraw();
}

void PictureView::begin_measurement(const std::string& word) {
  const MeasurementUi& ui = ui_of_measurement(word);
  const auto place = [this, &ui](const QPolygonF& points) {
    Measurement measurement;
    measurement.kind = ui.begun(document_);
    measurement.name = ui.texts().name.arg(document_.chain().measurements.size() + 1).toStdString();
    measurement.station = station();
    for (const QPointF& p : points) {
      measurement.points.push_back(point_of(p));
      const auto snap = std::ranges::find(snaps_, p, &std::pair<QPointF, double>::first);
      measurement.picking.push_back(snap != snaps_.end() ? snap->second : placed_to(p, 0));
    }
    snaps_.clear();
    document_.add_measurement(measurement);
    selected_ = Handle{Handle::Kind::measurement, static_cast<int>(document_.chain().measurements.size()) - 1,
                       static_cast<int>(points.size()) - 1, points.back()};
    rebuild_handles();
  };
  const auto [least, most] = points_of(ui.begun(document_));
  if (most == 2)
    use(make_line_tool(*this, {ui.texts().hint, true, [place](QPointF a, QPointF b) { place({a, b}); }}));
  else
    use(make_points_tool(
        *this, {ui.texts().hint, static_cast<int>(least), most == many_points ? 0 : static_cast<int>(most), place}));
}

void PictureView::ask_for_line(const QString& hint, int to, std::function<void(Point, Point)> take) {
  use(make_line_tool(*this, {hint, false, [this, to, take = std::move(take)](QPointF from, QPointF end) {
                               const Carried a = carry(document_.layout(), point_of(from), station(), to),
                                             b = carry(document_.layout(), point_of(end), station(), to);
                               if (a.status != CarryStatus::beyond_horizon && b.status != CarryStatus::beyond_horizon)
                                 take(a.point, b.point);
                             }}));
}

void PictureView::ask_for_points(const QString& hint, int to, std::function<void(const std::vector<Point>&)> take,
                                 int count) {
  const int least = count > 0 ? count : 3;
  use(make_points_tool(*this, {hint, least, count, [this, to, least, take = std::move(take)](const QPolygonF& clicked) {
                                 std::vector<Point> points;
                                 for (const QPointF& p : clicked) {
                                   const Carried c = carry(document_.layout(), point_of(p), station(), to);
                                   if (c.status == CarryStatus::beyond_horizon) return;
                                   if (points.empty() || distance(points.back(), c.point) > 1e-9)
                                     points.push_back(c.point);
                                 }
                                 if (static_cast<int>(points.size()) >= least) take(points);
                               }}));
}

void PictureView::end_asking() {
  wanted_.reset();
  unsetCursor();
  redraw();
}

void PictureView::run(std::unique_ptr<Tool>& tool, Tool::State state) {
  if (state != Tool::State::done) return;
  const std::unique_ptr<Tool> done = std::move(tool);
  tool.reset();
  const bool was_wanted = &tool == &wanted_;
  if (was_wanted) {
    unsetCursor();
    Q_EMIT answered();
  } else {
    dragging_handle_ = false;
  }
  done->finish();
  if (!was_wanted) ask_for_picture();
  redraw();
}

void PictureView::cancel() {
  // What is dragged goes back to where it was.
  if (dragging_handle_ && document_.undo_stack().index() > drag_began_) document_.undo_stack().undo();
  selected_.reset();
  dragged_.reset();
  dragging_handle_ = false;
  document_.session().set_dragging(false);
  end_asking();
  Q_EMIT answered();
}

void PictureView::mousePressEvent(QMouseEvent* event) {
  if (!document_.source()) return;
  setFocus();
  const QPointF at = event->position();
  const bool left = event->button() == Qt::LeftButton;
  const auto handle = handle_near(at);
  if (left && wanted_ && (!shows_snapshot() || reference()) && !(handle && wanted_->lets_handles()))
    return run(wanted_, wanted_->press(at));
  const QRectF badge(drawing::ruler_thickness + 6, drawing::ruler_thickness + 6, 90, 20);
  if (left && badge.contains(at)) {
    Q_EMIT badge_clicked();
    return;
  }
  if (left && handle && !space_held_) {
    select_handle(*handle);
    overlay_of(*handle).grab(*handle);
    dragged_ = make_handle_tool(*this, at);
    dragging_handle_ = true;
    loupe_ = {};
    document_.session().set_dragging(true);
    drag_began_ = document_.undo_stack().index();
    ask_for_picture();
  } else if (left || event->button() == Qt::MiddleButton) {
    dragged_ = make_pan_tool(*this, at);
  }
}

void PictureView::mouseMoveEvent(QMouseEvent* event) {
  if (!document_.source()) return;
  const QPointF at = event->position();
  if (!shows_snapshot()) {
    document_.session().set_pointer(Session::Pointer{station(), point_of(to_station(at))});
  } else if (reference()) {
    const int made = snapshot_->reference->step + 1;
    const auto& stations = document_.layout().stations;
    if (made < static_cast<int>(stations.size()) && !stations[static_cast<std::size_t>(made)].problem)
      document_.session().set_pointer(Session::Pointer{made, snapshot_->reference->scale * point_of(to_station(at))});
    else
      document_.session().set_pointer({});
  } else if (const auto p =
                 snapshot_->source == document_.source()->pixels
                     ? map_between(snapshot_->layout, snapshot_->station, 0).forward(point_of(to_station(at)))
                     : std::nullopt) {
    document_.session().set_pointer(Session::Pointer{0, *p});
  }
  if (dragged_) return run(dragged_, dragged_->move(at));
  if (wanted_) return run(wanted_, wanted_->move(at));
  setCursor(handle_near(at) ? Qt::PointingHandCursor : space_held_ ? Qt::OpenHandCursor : Qt::CrossCursor);
}

void PictureView::mouseReleaseEvent(QMouseEvent*) {
  if (dragged_) return run(dragged_, dragged_->release());
  if (wanted_) run(wanted_, wanted_->release());
}

void PictureView::mouseDoubleClickEvent(QMouseEvent* event) {
  if (reference()) return mousePressEvent(event);
  if (wanted_ && wanted_->double_click(event->position()) == Tool::State::done) return run(wanted_, Tool::State::done);
  if (event->button() == Qt::LeftButton && !handle_near(event->position()))
    for (const auto& overlay : overlays_)
      if (overlay->double_click(event->position())) return;
  mousePressEvent(event);
}

void PictureView::contextMenuEvent(QContextMenuEvent* event) {
  Q_EMIT menu_wanted(event->globalPos());
}

void PictureView::leaveEvent(QEvent*) {
  document_.session().set_pointer({});
}

void PictureView::wheelEvent(QWheelEvent* event) {
  if (!document_.source()) return;
  const QPointF before = to_station(event->position());
  const double zoom = std::clamp(zoom_ * std::pow(1.2, event->angleDelta().y() / 120.0), 1e-4, 256.0);
  settle_.start();
  look_at(before - (event->position() - QPointF(width(), height()) / 2) / zoom, zoom);
  Q_EMIT looked(this);
}

void PictureView::keyPressEvent(QKeyEvent* event) {
  if (auto state = Tool::State::going_on; wanted_ && wanted_->key(event->key(), state)) return run(wanted_, state);
  const bool ctrl = event->modifiers().testFlag(Qt::ControlModifier),
             shift = event->modifiers().testFlag(Qt::ShiftModifier);
  const double amount = ctrl ? 10 : shift ? 0.1 : 1;
  const auto nudge = [&](double x, double y) {
    if (selected_) {
      move_handle(*selected_, selected_->at + QPointF(x, y) * amount);
    } else {
      look_at(centre_ + QPointF(x, y) * 40 * (ctrl ? 5 : 1) / zoom_, zoom_);
      Q_EMIT looked(this);
    }
  };
  switch (event->key()) {
    case Qt::Key_Left:
      return nudge(-1, 0);
    case Qt::Key_Right:
      return nudge(1, 0);
    case Qt::Key_Up:
      return nudge(0, -1);
    case Qt::Key_Down:
      return nudge(0, 1);
    case Qt::Key_Space:
      if (!event->isAutoRepeat()) space_held_ = true;
      setCursor(Qt::OpenHandCursor);
      return;
    case Qt::Key_X:
      if (!event->isAutoRepeat()) Q_EMIT other_wanted(true);
      return;
    case Qt::Key_Return:
    case Qt::Key_Enter:
      return Q_EMIT return_pressed();
    case Qt::Key_Escape:
      return cancel();
    case Qt::Key_Delete:
      if (selected_ && remove_handle(*selected_)) return;
      break;
    default:
      break;
  }
  QWidget::keyPressEvent(event);
}

void PictureView::keyReleaseEvent(QKeyEvent* event) {
  if (event->isAutoRepeat()) return;
  if (event->key() == Qt::Key_Space) {
    space_held_ = false;
    unsetCursor();
  } else if (event->key() == Qt::Key_X) {
    Q_EMIT other_wanted(false);
  } else {
    QWidget::keyReleaseEvent(event);
  }
}

bool PictureView::focusNextPrevChild(bool next) {
  if (handles_.empty()) return QWidget::focusNextPrevChild(next);
  const auto count = static_cast<std::ptrdiff_t>(handles_.size());
  std::ptrdiff_t at = selected_ ? std::ranges::find(handles_, *selected_) - handles_.begin() : (next ? -1 : count);
  at += next ? 1 : -1;
  if (at < 0 || at >= count) {
    selected_.reset();
    redraw();
    return QWidget::focusNextPrevChild(next);
  }
  select_handle(handles_[static_cast<std::size_t>(at)]);
  return true;
}

void PictureView::resizeEvent(QResizeEvent*) {
  refresh();
}

void PictureView::focusInEvent(QFocusEvent*) {
  redraw();
}

void PictureView::focusOutEvent(QFocusEvent*) {
  redraw();
}

}  // namespace fexel
